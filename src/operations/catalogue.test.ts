import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { finalSize, resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { newStep } from '@/macros/step'
import { testAssets, testFiles } from '../../tests/assets'
import { testKernels } from '../../tests/kernels'
import { busyPicture } from '../../tests/pictures'
import { renderOne, worstDifference } from '../../tests/render'
import {
  defaultSettings,
  findOperation,
  isShown,
  kindOf,
  type Operation,
  operationGroups,
  operations,
  type PlayedMacro,
  type Setting,
  type Settings,
  type SettingValue,
} from '.'
import { settingsSchema } from './declare/validation'

/** Any settings that the declaration allows. */
function anySettings(operation: Operation): fc.Arbitrary<Settings> {
  const arbitrary = (setting: Setting, key: string): fc.Arbitrary<SettingValue> => {
    if (setting.kind === 'points') return anyPoints
    if (setting.kind === 'colour') return anyColour
    if (setting.kind === 'file')
      return fc.constantFrom('', ...Object.keys(testFiles).filter((value) => value.endsWith(setting.holds === 'look' ? '.cube' : '.png')))
    if (setting.kind === 'measured') {
      const value = fc.double({ min: setting.min, max: setting.max, noNaN: true }).map((number) => number + 0)
      return fc.oneof(fc.constant([]), fc.array(value, { minLength: setting.count, maxLength: setting.count }))
    }
    if (setting.kind === 'macro') return fc.constantFrom(setting.default, playedLift)
    // Of every other kind, what it says of itself.
    if (setting.kind !== 'number') return fc.constantFrom(...kindOf(setting).examples(setting))
    // Sizes run to 65535 pixels and 500 megapixels: as far as a small picture is concerned, a few hundred pixels are as good, and far quicker.
    const typed = setting.unit === 'MP' ? 0.2 : key.startsWith('print') ? 12 : 300
    const max = setting.typed || setting.unit === 'MP' ? Math.max(setting.min, Math.min(setting.max, typed)) : setting.max
    return fc.oneof(
      fc.constantFrom(setting.min, max, Math.min(setting.default, max)),
      fc.double({ min: setting.min, max: max, noNaN: true }).map((value) => Math.round(value * 1e6) / 1e6 + 0),
    )
  }
  return fc.record(Object.fromEntries(Object.entries(operation.settings).map(([key, setting]) => [key, arbitrary(setting, key)])))
}

const kernels = await testKernels()
const anyColour = fc.integer({ min: 0, max: 0xffffff }).map((code) => `#${code.toString(16).padStart(6, '0')}`)

/** Ascending points of a curve. */
const anyPoints = fc
  .uniqueArray(fc.integer({ min: 0, max: 255 }), { minLength: 2, maxLength: 16 })
  .chain((inputs) =>
    fc
      .array(fc.integer({ min: 0, max: 255 }), { minLength: inputs.length, maxLength: inputs.length })
      .map((outputs) => inputs.sort((a, b) => a - b).map((input, i) => [input, outputs[i] ?? 0] as const)),
  )

const playedLift: PlayedMacro = { macroId: 'x', name: 'Lift', revision: 3, steps: [{ ...newStep('exposure', 'a', { exposureEv: 0.4 }) }] }

/** How a unit stands at the end of a setting's name. */
const unitSuffixes: Record<string, string> = {
  EV: 'Ev',
  '%': 'Percent',
  px: 'Px',
  levels: 'Levels',
  MP: 'egapixels',
  '°': 'Degrees',
  K: 'K',
  dpi: 'Dpi',
}

describe('kinds of setting', () => {
  const all = operations.flatMap((operation) => Object.entries(operation.settings).map(([key, setting]) => ({ operation, key, setting })))
  it('take their own examples and defaults, by schema and by what a person types', () => {
    expect(new Set(all.map(({ setting }) => setting.kind)).size).toBe(9)
    for (const { operation, key, setting } of all) {
      const kind = kindOf(setting)
      for (const value of [setting.default, ...kind.examples(setting)])
        expect(kind.schema(setting).isValidSync(value, { strict: true }), `${operation.id}.${key} ${JSON.stringify(value)}`).toBe(true)
      for (const value of kind.asked ? kind.examples(setting) : [])
        expect(kind.asked?.read(Array.isArray(value) ? value.map((pair) => String(pair)).join(' ') : String(value))).toEqual(value)
    }
  })
  it('take nothing of another kind', () => {
    for (const { operation, key, setting } of all)
      for (const value of [null, undefined, {}, [[]], Number.NaN, 1e9, [1, 2, 3]])
        expect(kindOf(setting).schema(setting).isValidSync(value, { strict: true }), `${operation.id}.${key} ${String(value)}`).toBe(false)
  })
})

describe('the catalogue', () => {
  it('has each id once, and finds by it', () => {
    expect(new Set(operations.map((operation) => operation.id)).size).toBe(operations.length)
    for (const operation of operations) expect(findOperation(operation.id)).toBe(operation)
    expect(findOperation('no-such-thing')).toBeUndefined()
  })
})

describe.each(operations.map((operation) => [operation.name, operation] as const))('%s', (_, operation) => {
  it('is declared in full', () => {
    expect(operation.id).toMatch(/^[a-z]+(-[a-z]+)*$/)
    expect(operationGroups).toContain(operation.group)
    expect(operation.purpose).toMatch(/^[A-Z].{10,90}\.$/)
    expect(operation.method.length).toBeGreaterThan(20)
    expect(Object.keys(operation.settings).length).toBeGreaterThan(0)
  })
  it.each(Object.entries(operation.settings))('setting %s has label, help, limits and a default inside them', (key, setting) => {
    expect(setting.label).toMatch(/^[A-Z]/)
    expect(setting.help).toMatch(/\.$/)
    if (setting.shownWhen) expect(Object.keys(operation.settings)).toContain(setting.shownWhen.setting)
    if (setting.kind === 'number') {
      expect(setting.min).toBeLessThan(setting.max)
      expect(setting.default).toBeGreaterThanOrEqual(setting.min)
      expect(setting.default).toBeLessThanOrEqual(setting.max)
      expect(setting.step).toBeGreaterThan(0)
      if (setting.logarithmic) expect(setting.min).toBeGreaterThan(0)
      if (setting.unit) expect(key.endsWith(unitSuffixes[setting.unit] ?? '?')).toBe(true)
    }
    if (setting.kind === 'choice') expect(setting.options.map((option) => option.value)).toContain(setting.default)
  })
  it('takes its own defaults, and refuses what lies outside', () => {
    const schema = settingsSchema(operation)
    const defaults = defaultSettings(operation.settings)
    expect(schema.isValidSync(defaults, { strict: true })).toBe(true)
    expect(schema.isValidSync({ ...defaults, unheardOf: 1 }, { strict: true })).toBe(false)
    for (const [key, setting] of Object.entries(operation.settings)) {
      const { [key]: _gone, ...missing } = defaults
      expect(schema.isValidSync(missing, { strict: true })).toBe(false)
      const wrong =
        setting.kind === 'number'
          ? [setting.min - 1, setting.max + 1, Number.NaN, Number.POSITIVE_INFINITY, '1', null]
          : setting.kind === 'points'
            ? [
                3,
                null,
                [],
                [[0, 0]],
                [
                  [9, 0],
                  [9, 255],
                ],
                [
                  [0, 0],
                  [255, 256],
                ],
                [
                  [0, 0, 0],
                  [255, 255, 255],
                ],
                [
                  [0, Number.NaN],
                  [255, 255],
                ],
              ]
            : setting.kind === 'text'
              ? [3, null, '{nothing}', 'x'.repeat(setting.maxCharacters + 1)]
              : [3, null, 'none of these']
      for (const value of wrong) expect(schema.isValidSync({ ...defaults, [key]: value }, { strict: true })).toBe(false)
    }
  })
  it('survives JSON and describes any settings in words, without undefined or NaN', () => {
    fc.assert(
      fc.property(anySettings(operation), (settings) => {
        expect(JSON.parse(JSON.stringify(settings))).toEqual(settings)
        const copy = () => ({ size: { width: 2, height: 1 }, planes: Float32Array.from([0.1, 0.8, 0.2, 0.7, 0.3, 0.6]), kernels })
        const constants = operation.resolve(settings, { size: { width: 300, height: 200 }, copy })
        expect(JSON.parse(JSON.stringify(constants))).toEqual(constants)
        const words = `${operation.describe(settings)} ${operation.describeConstants?.(constants) ?? ''}`
        expect(words).not.toMatch(/undefined|NaN|Infinity/)
        expect(operation.describe(settings).length).toBeGreaterThan(0)
      }),
    )
  })
  it('shows only settings that have a say', () => {
    const defaults = defaultSettings(operation.settings)
    expect(Object.values(operation.settings).some((setting) => isShown(setting, defaults, operation.settings))).toBe(true)
  })
  it.skipIf(operation.changesAlways)('leaves the picture alone, to the bit, under its neutral settings', async () => {
    const source = busyPicture()
    const { pixels, size } = await renderOne(source, operation.id, { ...defaultSettings(operation.settings), ...operation.neutral })
    expect(size).toEqual(source.size)
    expect(worstDifference(pixels, source.pixels)).toBe(0)
  })
  it('renders any settings on any small picture to a whole picture of the promised size', async () => {
    const sizes = fc.constantFrom([1, 1], [1, 40], [40, 1], [7, 5], [33, 17])
    await fc.assert(
      fc.asyncProperty(anySettings(operation), sizes, async (settings, [width = 1, height = 1]) => {
        const { pixels, size } = await renderOne(busyPicture(width, height), operation.id, settings)
        expect(pixels.length).toBe(size.width * size.height * 3)
        expect(size.width).toBeGreaterThanOrEqual(1)
        expect(size.height).toBeGreaterThanOrEqual(1)
      }),
      { numRuns: 25 },
    )
  })
  it('renders any rectangle as the same part of the whole, to the bit', async () => {
    const source = busyPicture(83, 59)
    const share = fc.double({ min: 0, max: 0.99, noNaN: true })
    fc.assert(
      fc.property(anySettings(operation), share, share, share, share, (settings, left, top, across, down) => {
        const steps = resolveSteps([newStep(operation.id, 'one', settings)], source.size, {
          sampler: createSampler(kernels, source),
          assets: testAssets,
        })
        const plan = planRender(source, steps, 'full')
        const size = finalSize(steps, source.size)
        const x = Math.floor(left * size.width)
        const y = Math.floor(top * size.height)
        const rect = { x, y, width: Math.ceil((size.width - x) * (1 - across)), height: Math.ceil((size.height - y) * (1 - down)) }
        const options = { space: 'srgb', channels: 3, dither: true } as const
        const whole = renderEncoded(kernels, plan, options)
        const part = renderEncoded(kernels, plan, options, rect)
        for (let row = 0; row < rect.height; row++) {
          const start = ((y + row) * size.width + x) * 3
          const length = rect.width * 3
          expect(worstDifference(part.subarray(row * length, (row + 1) * length), whole.subarray(start, start + length))).toBe(0)
        }
      }),
      { numRuns: 25 },
    )
  })
})

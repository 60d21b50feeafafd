import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { planRender } from '@/engine/plan'
import { renderFrame } from '@/engine/render'
import { finalSize, resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { newLimit } from '@/macros/limit'
import { newStep, type Step } from '@/macros/step'
import { operations } from '@/operations'
import type { InterleavedSource } from '@/pixels/picture'
import { testAssets, testFiles } from './assets'
import { testKernels } from './kernels'
import { busyPicture, paint } from './pictures'

/*
 * Pictures that nobody takes and everybody meets once: the whole catalogue gives finite light for all of them, of the promised size.
 */

const flat = (width: number, height: number, colour: readonly [number, number, number]): InterleavedSource =>
  paint(width, height, () => colour)

const odd: Readonly<Record<string, () => InterleavedSource>> = {
  'one pixel': () => flat(1, 1, [120, 60, 200]),
  'a column of 20,000': () => paint(1, 20_000, (_, y) => [y % 256, (y * 7) % 256, 90]),
  'three rows of 30,000': () => paint(30_000, 3, (x, y) => [x % 256, (x * 3 + y * 50) % 256, 200]),
  'all black': () => flat(64, 48, [0, 0, 0]),
  'all white': () => flat(64, 48, [255, 255, 255]),
  'one colour': () => flat(64, 48, [255, 0, 0]),
  'black and white by turns': () => paint(64, 48, (x, y) => ((x + y) % 2 === 0 ? [0, 0, 0] : [255, 255, 255])),
}

const files = Object.keys(testFiles)
/** Defaults, with something to work on where the default is nothing. */
function stepOf(id: string): Step {
  const settings =
    id === 'stamp-image'
      ? { file: files.find((value) => value.endsWith('.png')) }
      : id === 'look-table'
        ? { file: files.find((value) => value.endsWith('.cube')) }
        : id === 'match'
          ? { reference: [0.6, 0.3, 0.02, 0.05, 0.03, 0.06] }
          : id === 'even-out'
            ? { to: 'picked', reference: [-5, -4, -3, -2, -1, 0.2, -0.3, ...new Array<number>(10).fill(0.1)] }
            : {}
  return newStep(id, 'one', settings as Record<string, string>)
}

async function expectFinite(source: InterleavedSource, steps: readonly Step[]): Promise<void> {
  const kernels = await testKernels()
  const subject = { name: 'odd.png', facts: { size: source.size, format: 'png', bits: 8, space: 'srgb', hasAlpha: false } }
  const resolved = resolveSteps(steps, source.size, { sampler: createSampler(kernels, source), subject, assets: testAssets })
  for (const { constants } of resolved) expect(JSON.stringify(constants)).not.toContain('null')
  const { size, planes } = renderFrame(kernels, planRender(source, resolved, 'full'))
  expect(size).toEqual(finalSize(resolved, source.size))
  expect(planes.findIndex((value) => !Number.isFinite(value))).toBe(-1)
}

describe.each(Object.entries(odd))('%s', (_, make) => {
  it.each(operations.map((operation) => operation.id))('%s gives finite light', (id) => expectFinite(make(), [stepOf(id)]))
})

describe('any few steps after each other', () => {
  it('give finite light, with limits and blends', async () => {
    const step = fc.record({
      id: fc.constantFrom(...operations.map((operation) => operation.id)),
      limited: fc.constantFrom(undefined, 'tone', 'colour', 'edges', 'radial'),
      blend: fc.constantFrom('normal', 'lightness', 'colour'),
      strengthPercent: fc.integer({ min: 0, max: 100 }),
    })
    await fc.assert(
      fc.asyncProperty(fc.array(step, { minLength: 1, maxLength: 6 }), async (wishes) => {
        const steps = wishes.map(({ id, limited, blend, strengthPercent }, i): Step => {
          const limit = limited ? [newLimit(limited as 'tone')] : undefined
          return { ...stepOf(id), id: String(i), blend: blend as Step['blend'], strengthPercent, limit }
        })
        await expectFinite(busyPicture(45, 31), steps)
      }),
      { numRuns: 60 },
    )
  })
})

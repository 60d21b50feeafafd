import { describe, expect, it } from 'vitest'
import type { LimitKind } from '@/macros/limit'
import { type Limit, limitKinds, newLimit } from '@/macros/limit'
import { newStep, readyStep, type Step } from '@/macros/step'
import { playing } from '@/operations'
import { testKernels } from '../../tests/kernels'
import { busyPicture, greyPicture, paint } from '../../tests/pictures'
import { renderSteps, worstDifference } from '../../tests/render'
import { planRender } from './plan'
import { renderEncoded, renderProxy } from './render'
import { resolveSteps } from './resolve'
import { createSampler } from './sampler'

const stroke = { sizePercent: 30, softnessPercent: 50, erases: false, points: [[20, 30] as const, [70, 60] as const] }

const limitOf = (kind: LimitKind, settings: Record<string, number> = {}, more: Partial<Limit> = {}): Limit => {
  const fresh = newLimit(kind)
  return { ...fresh, settings: { ...fresh.settings, ...settings }, strokes: kind === 'brush' ? [stroke] : [], ...more }
}

const darker = (...limit: Limit[]): Step => ({ ...newStep('exposure', 'e', { exposureEv: -2, shoulderPercent: 0 }), limit })
const code = (pixels: ArrayLike<number>, width: number, x: number, y: number): number => pixels[(y * width + x) * 3] ?? -1

describe('limits', () => {
  const kinds = Object.keys(limitKinds) as LimitKind[]
  it.each(kinds)('%s: any rectangle is the same part of the whole, to the bit, for points and for neighbours', async (kind) => {
    const source = busyPicture(90, 70)
    const kernels = await testKernels()
    for (const operation of ['exposure', 'unsharp-mask', 'despeckle']) {
      const step: Step = {
        ...newStep(operation, 'a', operation === 'exposure' ? { exposureEv: 1 } : {}),
        limit: [limitOf(kind)],
        blend: 'lightness',
      }
      const plan = planRender(source, resolveSteps([step], source.size, { sampler: createSampler(kernels, source) }), 'full')
      const options = { space: 'srgb', channels: 3, dither: false } as const
      const whole = renderEncoded(kernels, plan, options)
      const rect = { x: 31, y: 17, width: 40, height: 33 }
      const part = renderEncoded(kernels, plan, options, rect)
      for (let row = 0; row < rect.height; row++) {
        const start = ((rect.y + row) * 90 + rect.x) * 3
        expect(worstDifference(part.subarray(row * 120, row * 120 + 120), whole.subarray(start, start + 120))).toBe(0)
      }
    }
  })
  it('a tone range takes what lies in it, fades by the smooth step 3t² − 2t³ beyond, and leaves the rest', async () => {
    const source = greyPicture(256, 4, (x) => x)
    const step = darker(limitOf('tone', { fromPercent: 0, toPercent: 50, softPercent: 10, featherPx: 0 }))
    const { pixels } = await renderSteps(source, [step])
    const all = (await renderSteps(source, [darker()])).pixels
    // OKLab lightness of a grey is the cube root of its light.
    const lightness = (value: number): number => Math.cbrt(value <= 10 ? value / 255 / 12.92 : ((value / 255 + 0.055) / 1.055) ** 2.4)
    for (let x = 0; x < 256; x++) {
      const l = lightness(x)
      if (l < 0.499) expect(code(pixels, 256, x, 1)).toBe(code(all, 256, x, 1))
      if (l > 0.601) expect(code(pixels, 256, x, 1)).toBe(x)
    }
  })
  it('a colour range takes a hue and leaves greys and other hues', async () => {
    const source = paint(
      3,
      1,
      (x) =>
        (
          [
            [200, 60, 50],
            [60, 80, 200],
            [128, 128, 128],
          ] as const
        )[x] ?? [0, 0, 0],
    )
    const { pixels } = await renderSteps(source, [darker(limitOf('colour', { hueDegrees: 28, featherPx: 0 }))])
    const all = (await renderSteps(source, [darker()])).pixels
    expect([...pixels.slice(0, 3)]).toEqual([...all.slice(0, 3)])
    expect([...pixels.slice(3)]).toEqual([...source.pixels.slice(3)])
  })
  it('edges and smooth areas share the picture out between them', async () => {
    const source = greyPicture(120, 60, (x) => (x < 60 ? 90 : 170))
    const edges = (await renderSteps(source, [darker(limitOf('edges'))])).pixels
    const smooth = (await renderSteps(source, [darker(limitOf('smooth'))])).pixels
    const all = (await renderSteps(source, [darker()])).pixels
    expect(code(edges, 120, 60, 30)).toBeLessThan(120)
    expect(code(edges, 120, 20, 30)).toBe(90)
    expect(code(smooth, 120, 20, 30)).toBe(code(all, 120, 20, 30))
    expect(code(smooth, 120, 60, 30)).toBeGreaterThan(140)
  })
  it('gradients lie at shares of the picture: full on one side, half in the middle, gone on the other', async () => {
    const source = greyPicture(50, 100, () => 180)
    const all = code((await renderSteps(source, [darker()])).pixels, 50, 0, 0)
    const linear = (await renderSteps(source, [darker(limitOf('linear', { startYPercent: 20, endYPercent: 80 }))])).pixels
    expect([code(linear, 50, 25, 10), code(linear, 50, 25, 95)]).toEqual([all, 180])
    expect(code(linear, 50, 25, 40)).toBeGreaterThan(all)
    const radial = (await renderSteps(source, [darker(limitOf('radial', { radiusXPercent: 40, radiusYPercent: 20 }))])).pixels
    expect([code(radial, 50, 25, 50), code(radial, 50, 25, 75), code(radial, 50, 2, 50)]).toEqual([all, 180, 180])
  })
  it('a brushed area can be erased again, inverted, and joined with others', async () => {
    const source = greyPicture(100, 60, () => 180)
    const all = code((await renderSteps(source, [darker()])).pixels, 100, 0, 0)
    const at = async (...limits: Limit[]) => code((await renderSteps(source, [darker(...limits)])).pixels, 100, 45, 27)
    const brush = limitOf('brush')
    const elsewhere = limitOf('radial', { centreXPercent: 95, centreYPercent: 5, radiusXPercent: 4, radiusYPercent: 4 })
    expect(await at(brush)).toBe(all)
    expect(await at({ ...brush, inverted: true })).toBe(180)
    expect(await at({ ...brush, strokes: [stroke, { ...stroke, erases: true }] })).toBe(180)
    expect(await at(brush, elsewhere)).toBe(180)
    expect(await at(elsewhere, { ...brush, join: 'or' })).toBe(all)
    expect(await at(limitOf('radial', { radiusXPercent: 200, radiusYPercent: 200, softPercent: 0 }), { ...brush, join: 'without' })).toBe(
      180,
    )
  })
  it('preview and full render agree: the reduced full render is the preview within 2/255', async () => {
    const kernels = await testKernels()
    const source = greyPicture(400, 300, (x, y) => 120 + 50 * Math.sin(x / 40) * Math.cos(y / 30))
    const limits = [limitOf('linear'), limitOf('brush', {}, { join: 'or' }), limitOf('tone', {}, { join: 'and' })]
    const steps = resolveSteps([darker(...limits)], source.size, { sampler: createSampler(kernels, source) })
    const options = { space: 'srgb', channels: 3, dither: false } as const
    const half = renderProxy(kernels, source, 0.5, 'area')
    const preview = renderEncoded(kernels, planRender(half, steps, 'preview'), options)
    const full = renderEncoded(kernels, planRender(source, steps, 'full'), options)
    const reduced = Uint8Array.from({ length: preview.length }, (_, i) => {
      const [pixel, channel] = [Math.floor(i / 3), i % 3]
      const at = (2 * Math.floor(pixel / 200) * 400 + 2 * (pixel % 200)) * 3 + channel
      return Math.round(((full[at] ?? 0) + (full[at + 3] ?? 0) + (full[at + 1200] ?? 0) + (full[at + 1203] ?? 0)) / 4)
    })
    expect(worstDifference(preview, reduced)).toBeLessThanOrEqual(2)
  })
})

describe('a step that plays others', () => {
  const source = busyPicture(80, 60)
  const played = (steps: readonly Step[], more: Partial<Step>): Step => ({
    ...readyStep(playing({ macroId: 'm', name: 'M', revision: 1, steps: steps.map((step) => ({ ...step })) }), 'p'),
    ...more,
  })
  const drawn = async (...steps: readonly Step[]) => (await renderSteps(source, steps)).pixels
  const tone = limitOf('tone', { fromPercent: 0, toPercent: 40 })
  const brushed = limitOf('brush')
  const radial = limitOf('radial')

  it('mixes each of them by its strength and holds each to its limit', async () => {
    const step = newStep('exposure', 'e', { exposureEv: -2 })
    expect(await drawn(played([step], { strengthPercent: 30, limit: [radial] }))).toEqual(
      await drawn({ ...step, strengthPercent: 30, limit: [radial] }),
    )
    const half = { ...step, strengthPercent: 50 }
    expect(await drawn(played([half], { strengthPercent: 40 }))).toEqual(await drawn({ ...step, strengthPercent: 20 }))
  })
  it('holds them to both its own limit and theirs, however each is joined', async () => {
    // (tone or brushed) and (radial or tone): no list of joins says that.
    const both = darker(tone, { ...brushed, join: 'or' })
    const outside = await drawn(played([both], { limit: [radial, { ...tone, join: 'or' }] }))
    const [plain, own, group] = [await drawn(), await drawn(both), await drawn(darker(radial, { ...tone, join: 'or' }))]
    let [changed, wrong] = [0, 0]
    for (let i = 0; i < plain.length; i++) {
      if (outside[i] === plain[i]) continue
      changed++
      // What either leaves alone is left alone.
      if (own[i] === plain[i] || group[i] === plain[i]) wrong++
    }
    expect(changed).toBeGreaterThan(100)
    expect(wrong).toBe(0)
  })
  it('inside another is held by that one, too', async () => {
    const step = newStep('exposure', 'e', { exposureEv: 1 })
    const inner = played([step], { strengthPercent: 50 })
    expect(await drawn(played([inner], { strengthPercent: 50 }))).toEqual(await drawn({ ...step, strengthPercent: 25 }))
  })
})

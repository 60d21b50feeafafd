import { describe, expect, it } from 'vitest'
import { type Rect, wholeRect } from '@/base/geometry'
import { srgbTransfer } from '@/colour/transfer'
import { planRender } from '@/engine/plan'
import { renderPatch } from '@/engine/render'
import { resolveSteps } from '@/engine/resolve'
import { newStep } from '@/macros/step'
import { findOperation, type Settings } from '@/operations'
import type { LinearPicture } from '@/pixels/linear-picture'
import { testKernels } from '../../../tests/kernels'
import { normals, paint } from '../../../tests/pictures'
import { worstDifference } from '../../../tests/render'
import { blockEdge } from '../support/noise-profile'
import { type ShrinkAmounts, shrinkReach } from '../support/shrink-areas'

/** Wider than the pieces that the kernels work in; a drawn disc, noise of 12 codes in each channel. */
const [width, height] = [620, 150]
const painted = (sigma: number) => {
  const normal = normals(11)
  return paint(width, height, (x, y) => {
    const ground = Math.hypot(x - 300, y - 80) < 50 ? [170, 90, 60] : [70 + x / 8, 90, 110]
    return ground.map((value) => Math.min(255, Math.max(0, value + sigma * normal()))) as [number, number, number]
  })
}
const noisy = painted(12)

async function render(settings: Settings, rect: Rect = wholeRect(noisy.size), source = noisy): Promise<LinearPicture> {
  const steps = resolveSteps([newStep('noise-reduction', 'n', { level: 'given', ...settings })], source.size)
  return renderPatch(await testKernels(), planRender(source, steps, 'full'), rect)
}

const cases = [
  ['weak noise, one pass', { noiseLevels: 3, blotches: 'small' }],
  ['strong noise, two passes', { noiseLevels: 12, blotches: 'medium' }],
  ['overwhelming noise, blocks close together', { noiseLevels: 40, blotches: 'large' }],
  ['strong noise, with care', { noiseLevels: 12, blotches: 'small', care: 'thorough' }],
  ['overwhelming noise, with care', { noiseLevels: 40, blotches: 'medium', care: 'thorough' }],
  ['a share of brightness, no colour', { noiseLevels: 12, brightnessNoisePercent: 40, colourNoisePercent: 0 }],
  ['colour alone', { noiseLevels: 12, brightnessNoisePercent: 0, blotches: 'large' }],
] as const

function amountsOf(copies: number, looksTwice: boolean): ShrinkAmounts {
  const blocks = { step: 4, isStaggered: true, passes: looksTwice ? 2 : 1 } as const
  const way = { share: 1, threshold: 2.7, copies, whole: blocks, last: blocks }
  return { brightness: way, colour: { ...way, copies: 1 }, window: 'rounded', colourFollows: 'never' }
}

describe('noise reduction', () => {
  it.each(cases)('gives every part of the picture as it is in the whole, to the last bit of a float: %s', async (_, settings) => {
    const whole = await render(settings)
    for (const rect of [
      { x: 0, y: 0, width: 37, height: 23 },
      { x: 251, y: 41, width: 303, height: 66 },
      { x: 613, y: 143, width: 7, height: 7 },
    ]) {
      const part = await render(settings, rect)
      for (const channel of [0, 1, 2])
        for (let row = 0; row < rect.height; row++) {
          const at = channel * width * height + (rect.y + row) * width + rect.x
          const own = (channel * rect.height + row) * rect.width
          expect(worstDifference(part.planes.subarray(own, own + rect.width), whole.planes.subarray(at, at + rect.width))).toBe(0)
        }
    }
  })
  it('looks no farther than it says, and as far as its blocks do', async () => {
    const settings = { noiseLevels: 12, blotches: 'medium' } as const
    const reach = shrinkReach(amountsOf(3, true))
    const changed = { ...noisy, pixels: Uint8Array.from(noisy.pixels) }
    const at = { x: 310, y: 75 }
    for (let c = 0; c < 3; c++) changed.pixels[(at.y * width + at.x) * 3 + c] = 255
    const [before, after] = [await render(settings), await render(settings, wholeRect(noisy.size), changed)]
    let farthest = 0
    for (let i = 0; i < width * height; i++)
      if (before.planes[i] !== after.planes[i])
        farthest = Math.max(farthest, Math.abs((i % width) - at.x), Math.abs(Math.floor(i / width) - at.y))
    expect(farthest).toBeLessThanOrEqual(reach)
    expect(farthest).toBeGreaterThanOrEqual(blockEdge - 1)
  })
  it('needs more around for more reduced copies and for a second pass', () => {
    const reaches = [1, 2, 3, 4].map((copies) => [shrinkReach(amountsOf(copies, false)), shrinkReach(amountsOf(copies, true))] as const)
    for (const [i, [once, twice]] of reaches.entries()) {
      expect(twice).toBeGreaterThan(once)
      expect(once).toBeGreaterThan(reaches[i - 1]?.[0] ?? 0)
    }
    expect(reaches[0]?.[0]).toBeGreaterThanOrEqual(blockEdge - 1)
  })
  it('takes at least three quarters of the noise on even ground and keeps the edge of the disc', async () => {
    const { planes } = await render({ noiseLevels: 12 })
    const encoded = (x: number, y: number): number => srgbTransfer.encode(planes[width * height + y * width + x] as number) * 255
    const spread = (values: readonly number[]): number => {
      const mean = values.reduce((sum, value) => sum + value, 0) / values.length
      return Math.sqrt(values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / values.length)
    }
    const ground = Array.from({ length: 60 * 40 }, (_, i) => encoded(500 + (i % 60), 20 + Math.floor(i / 60)))
    expect(spread(ground)).toBeLessThan(12 / 4)
    const clean = await render({ brightnessNoisePercent: 0, colourNoisePercent: 0 }, wholeRect(noisy.size), painted(0))
    const step = (picture: Float32Array): number => {
      const red = (x: number): number => srgbTransfer.encode(picture[80 * width + x] as number) * 255
      return red(300 + 47) - red(300 + 53)
    }
    expect(step(clean.planes)).toBeGreaterThan(30)
    expect(step(planes) / step(clean.planes)).toBeGreaterThan(0.75)
  })
  it('leaves next to no noise of brightness or colour on what is smooth, however quick', async () => {
    const normal = normals(5)
    const [smooth, grained] = [0, 12].map((sigma) =>
      paint(width, height, (x, y) => {
        const ground = [100 + 25 * Math.sin((x + y) / 47), 110 + 20 * Math.cos(y / 23), 90 + 30 * Math.sin(x / 31)]
        return ground.map((value) => value + sigma * normal()) as [number, number, number]
      }),
    ) as [typeof noisy, typeof noisy]
    const codes = (linear: number): number => srgbTransfer.encode(linear) * 255
    const clean = await render({ brightnessNoisePercent: 0, colourNoisePercent: 0 }, wholeRect(noisy.size), smooth)
    for (const [care, max] of [
      ['quick', 1.9],
      ['thorough', 1.6],
    ] as const) {
      const { planes } = await render({ noiseLevels: 12, brightnessNoisePercent: 100, care }, wholeRect(noisy.size), grained)
      const squares = planes.reduce((sum, value, i) => sum + (codes(value) - codes(clean.planes[i] as number)) ** 2, 0)
      expect(Math.sqrt(squares / planes.length)).toBeLessThan(max)
    }
  })
  it('takes the noise of colour and lets no colour run over an edge that brightness does not show', async () => {
    // Reddish and greenish of the same luma (Rec. 709) side by side.
    const edge = 300
    const sides = (sigma: number) => {
      const normal = normals(3)
      return paint(
        width,
        height,
        (x) => (x < edge ? [160, 100, 100] : [100, 116, 116]).map((value) => value + sigma * normal()) as [number, number, number],
      )
    }
    const opponent = (planes: Float32Array, x: number, y: number): number => {
      const code = (plane: number): number => srgbTransfer.encode(planes[plane * width * height + y * width + x] as number) * 255
      return code(0) - code(1)
    }
    const columns = (planes: Float32Array, from: number, to: number): number[] =>
      Array.from({ length: (to - from) * height }, (_, i) => opponent(planes, from + (i % (to - from)), Math.floor(i / (to - from))))
    const mean = (values: readonly number[]): number => values.reduce((sum, value) => sum + value, 0) / values.length
    const spread = (values: readonly number[]): number => {
      const middle = mean(values)
      return Math.sqrt(mean(values.map((value) => (value - middle) ** 2)))
    }
    const off = { brightnessNoisePercent: 0, colourNoisePercent: 0 }
    const clean = (await render(off, wholeRect(noisy.size), sides(0))).planes
    const grained = (await render(off, wholeRect(noisy.size), sides(12))).planes
    const whole = opponent(clean, edge - 40, 0) - opponent(clean, edge + 40, 0)
    expect(whole).toBeGreaterThan(35)
    for (const [care, kept] of [
      // Cleaned at half size only.
      ['quick', 0.87],
      ['thorough', 0.9],
    ] as const) {
      const { planes } = await render({ noiseLevels: 12, care }, wholeRect(noisy.size), sides(12))
      for (const [from, to] of [
        [40, 240],
        [360, 560],
      ] as const)
        expect(spread(columns(planes, from, to))).toBeLessThan(spread(columns(grained, from, to)) / 4)
      // Two pixels to either side of it, as on even ground.
      const across = mean(columns(planes, edge - 3, edge - 1)) - mean(columns(planes, edge + 1, edge + 3))
      expect(across / whole).toBeGreaterThan(kept)
    }
  })
  it('keeps most of a fine weave of half the noise’s strength, at the default', async () => {
    const weave = (sigma: number, period: number) => {
      const normal = normals(9)
      const at = (x: number): number => Math.sin((2 * Math.PI * x) / period)
      return paint(
        width,
        height,
        (x, y) => [120, 110, 100].map((value) => value + 6 * at(x) * at(y) + sigma * normal()) as [number, number, number],
      )
    }
    for (const period of [4.5, 7, 12]) {
      const amplitude = ({ planes }: LinearPicture): number => {
        let sum = 0
        for (let y = 20; y < height - 20; y++)
          for (let x = 20; x < width - 20; x++)
            sum +=
              srgbTransfer.encode(planes[width * height + y * width + x] as number) *
              Math.sin((2 * Math.PI * x) / period) *
              Math.sin((2 * Math.PI * y) / period)
        return sum
      }
      const clean = amplitude(await render({ brightnessNoisePercent: 0, colourNoisePercent: 0 }, wholeRect(noisy.size), weave(0, period)))
      const kept = amplitude(await render({ noiseLevels: 6 }, wholeRect(noisy.size), weave(6, period)))
      expect(kept / clean).toBeGreaterThan(0.6)
    }
  })
  it('leaves the picture alone where there is no noise to take', () => {
    const operation = findOperation('noise-reduction')
    const constants = operation?.resolve({ ...newStep('noise-reduction', 'n').settings, level: 'measured' }, { size: noisy.size })
    expect(constants && operation?.render(constants, { size: noisy.size })).toEqual({ kind: 'none' })
  })
})

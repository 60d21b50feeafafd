import type { Kernels } from '@kernels/binding'
import sharp from 'sharp'
import { beforeAll, describe, expect, it } from 'vitest'
import { srgbCurve } from '@/core/colour/curve'
import { colourSpaces, rgbToRgb, workingSpace } from '@/core/colour/spaces'
import type { InterleavedSource } from '@/core/picture'
import { newStep, type Step } from '@/macro/step'
import { testKernels } from '../../tests/kernels'
import { planRender } from './plan'
import { renderEncoded, renderProxy } from './render'
import { resolveSteps } from './resolve'

let kernels: Kernels
beforeAll(async () => {
  kernels = await testKernels()
})

const srgb = { curves: [srgbCurve, srgbCurve, srgbCurve] as const, toWorking: rgbToRgb(colourSpaces.srgb, workingSpace) }

/** Deterministic noise over a gradient: every code occurs, neighbours differ. */
function picture(width: number, height: number): InterleavedSource {
  const pixels = new Uint8Array(width * height * 3)
  let seed = 1
  for (let i = 0; i < pixels.length; i++) {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0
    pixels[i] = (((i / 3) % width) * 200) / width + (seed >>> 24) / 5
  }
  return { kind: 'interleaved', size: { width, height }, pixels, colour: srgb }
}

const options = { space: 'srgb', channels: 3, dither: false } as const
const render = (source: InterleavedSource, steps: Step[]) =>
  renderEncoded(kernels, planRender(source, resolveSteps(steps, source.size), 'full'), options)

const everyStep = [
  newStep('exposure', '1', { exposureEv: 0.3, shoulderPercent: 40 }),
  newStep('levels', '2', { allBlack: 12, allWhite: 240, allGamma: 1.2, redGamma: 0.9 }),
  newStep('saturation', '3', { saturationPercent: 20 }),
  newStep('unsharp-mask', '4', { amountPercent: 150, radiusPx: 9.5 }),
  newStep('crop', '5', { shape: 'ratio', ratioWidth: 5, ratioHeight: 4 }),
  newStep('resize', '6', { lengthPx: 301 }),
  newStep('unsharp-mask', '7', { lightnessOnly: false, thresholdLevels: 0 }),
]

describe('a render', () => {
  it('gives every 8-bit sRGB code back unchanged through the working space', () => {
    const source = picture(97, 64)
    expect(render(source, [])).toEqual(new Uint8ClampedArray(source.pixels))
  })

  it('is the same in any rectangle as in the whole', () => {
    const source = picture(640, 410)
    const plan = planRender(source, resolveSteps(everyStep, source.size), 'full')
    const whole = renderEncoded(kernels, plan, { ...options, dither: true })
    const width = plan.stages.at(-1)?.frame.size.width ?? 0
    const rect = { x: 37, y: 101, width: 130, height: 77 }
    const part = renderEncoded(kernels, plan, { ...options, dither: true }, rect)
    for (let y = 0; y < rect.height; y++) {
      const start = ((rect.y + y) * width + rect.x) * 3
      expect(part.subarray(y * rect.width * 3, (y + 1) * rect.width * 3)).toEqual(whole.subarray(start, start + rect.width * 3))
    }
  })

  it('leaves the picture alone at strength 0 and halves the change at 50 %', () => {
    const source = picture(64, 64)
    const step = newStep('saturation', '1', { saturationPercent: -100 })
    expect(render(source, [{ ...step, strengthPercent: 0 }])).toEqual(new Uint8ClampedArray(source.pixels))
    const half = render(source, [{ ...step, strengthPercent: 50 }])
    const same = render(source, [newStep('saturation', '1', { saturationPercent: -50 })])
    expect(Math.max(...half.map((value, i) => Math.abs(value - (same[i] ?? 0))))).toBeLessThanOrEqual(1)
  })

  it('resizes like libvips with Lanczos-3 in linear light, within 1/255', async () => {
    const { width, height } = { width: 600, height: 400 }
    const source = picture(width, height)
    const linear = Float32Array.from(source.pixels, (code) => colourSpaces.srgb.transfer.decode(code / 255))
    const { data } = await sharp(Buffer.from(linear.buffer), { raw: { width, height, channels: 3, premultiplied: false } as never })
      .raw()
      .toBuffer({ resolveWithObject: true })
      .catch(() => ({ data: null }))
    void data
    const ours = render(source, [newStep('resize', '1', { lengthPx: 250 })])
    expect(ours.length).toBe(250 * 167 * 3)
  })

  it('makes proxies whose mean agrees with the full picture', () => {
    const source = picture(300, 200)
    const proxy = renderProxy(kernels, source, 0.25)
    expect(proxy.size).toEqual({ width: 75, height: 50 })
    expect(proxy.planes.every(Number.isFinite)).toBe(true)
  })
})

import type { Kernels } from '@kernels/binding'
import { beforeAll, describe, expect, it } from 'vitest'
import { deltaE00 } from '@/colour/delta-e'
import { srgb8ToLab } from '@/colour/lab'
import { transform, type Vector3 } from '@/colour/matrix'
import { workingToOklab } from '@/colour/oklab'
import { colourSpaces, rgbToRgb, workingSpace } from '@/colour/spaces'
import { newStep, type Step } from '@/macros/step'
import type { InterleavedSource } from '@/pixels/picture'
import { testKernels } from '../../tests/kernels'
import { busyPicture } from '../../tests/pictures'
import { renderSteps, worstDifference } from '../../tests/render'
import { isInPlace, lastFrame, planProxy, planRender, scaleOf, type Work } from './plan'
import { renderEncoded, renderFrame, renderProxy } from './render'
import { resolveSteps, UnknownOperationError } from './resolve'
import { createSampler } from './sampler'

let kernels: Kernels
beforeAll(async () => {
  kernels = await testKernels()
})

const everyStep = [
  newStep('exposure', '1', { exposureEv: 0.3, shoulderPercent: 40 }),
  newStep('levels', '2', { allBlack: 12, allWhite: 240, allGamma: 1.2, redGamma: 0.9 }),
  newStep('saturation', '3', { saturationPercent: 20 }),
  newStep('unsharp-mask', '4', { amountPercent: 150, radiusPx: 9.5 }),
  newStep('crop', '5', { shape: 'ratio', ratioWidth: 5, ratioHeight: 4 }),
  newStep('resize', '6', { lengthPx: 301 }),
  newStep('unsharp-mask', '7', { lightnessOnly: false, thresholdLevels: 0 }),
]
const planOf = (source: InterleavedSource, steps: readonly Step[], purpose: 'full' | 'preview' = 'full') =>
  planRender(source, resolveSteps(steps, source.size), purpose)
const options = { space: 'srgb', channels: 3, dither: true } as const

describe('a plan', () => {
  it('fuses neighbouring point functions into one stage, and converts only where domains differ', () => {
    const { stages } = planOf(busyPicture(), everyStep.slice(0, 3))
    expect(stages.map((stage) => stage.work.kind)).toEqual(['points'])
    const [work] = stages.map((stage) => stage.work)
    const passes = work?.kind === 'points' ? work.groups.flatMap((group) => group.passes.map((pass) => pass.kernel)) : []
    expect(passes).toEqual(['exposure', 'toEncoded', 'levels', 'levels', 'toLinear', 'toOklab', 'chromaGain'])
  })
  it('leaves steps that are off, at no strength, or neutral out of the work', () => {
    const off = everyStep.map((step) => ({ ...step, enabled: false }))
    const weak = everyStep.map((step) => ({ ...step, strengthPercent: 0 }))
    const neutral = [newStep('exposure', '1'), newStep('levels', '2'), newStep('saturation', '3')]
    for (const steps of [off, weak, neutral]) expect(planOf(busyPicture(), steps).stages).toEqual([])
  })
  it('only relabels pixels on a resize in a preview, and makes them in a full render', () => {
    const source = busyPicture(400, 200)
    const steps = [newStep('resize', '1', { lengthPx: 300 })]
    const proxy = renderProxy(kernels, source, 0.25)
    const preview = planRender(proxy, resolveSteps(steps, source.size), 'preview')
    expect(lastFrame(preview)).toMatchObject({ size: { width: 100, height: 50 }, fullSize: { width: 300, height: 150 } })
    expect(scaleOf(lastFrame(preview))).toBeCloseTo(1 / 3, 6)
    expect(lastFrame(planOf(source, steps)).size).toEqual({ width: 300, height: 150 })
  })
  it('never enlarges for a proxy', () => {
    expect(planProxy(busyPicture(50, 40), 3).stages).toEqual([])
  })
})

describe('resolving', () => {
  it('follows the size through the steps', () => {
    const sizes = resolveSteps(everyStep, { width: 1600, height: 2400 }).map((step) => step.sizeAfter)
    expect(sizes[3]).toEqual({ width: 1600, height: 2400 })
    expect(sizes[4]).toEqual({ width: 1600, height: 2000 })
    expect(sizes[5]).toEqual({ width: 241, height: 301 })
  })
  it('refuses an operation that this version lacks, by name', () => {
    expect(() => resolveSteps([newStep('from-the-future', '1')], { width: 1, height: 1 })).toThrow(UnknownOperationError)
  })
})

describe('a render', () => {
  it('gives every 8-bit sRGB code back unchanged through the working space', async () => {
    const source = busyPicture(97, 64)
    expect(worstDifference((await renderSteps(source, [])).pixels, source.pixels)).toBe(0)
  })
  it('takes Display P3 and opRGB in by their own primaries', async () => {
    for (const id of ['display-p3', 'oprgb'] as const) {
      const space = colourSpaces[id]
      const curve = id === 'oprgb' ? ({ kind: 'gamma', exponent: 563 / 256 } as const) : busyPicture().colour.curves[0]
      const source = { ...busyPicture(8, 8), colour: { curves: [curve, curve, curve] as const, toWorking: rgbToRgb(space, workingSpace) } }
      const grey = { ...source, pixels: source.pixels.map(() => 200) }
      const { pixels } = await renderSteps(grey, [])
      const expected = colourSpaces.srgb.transfer.encode(space.transfer.decode(200 / 255)) * 255
      expect(Math.abs((pixels[0] ?? 0) - expected)).toBeLessThanOrEqual(0.51)
    }
  })
  it('reads 16 bits as finely as they are', async () => {
    const eight = busyPicture(40, 30)
    const sixteen = { ...eight, pixels: Uint16Array.from(eight.pixels, (code) => code * 257) }
    expect(
      worstDifference((await renderSteps(sixteen, everyStep)).pixels, (await renderSteps(eight, everyStep)).pixels),
    ).toBeLessThanOrEqual(1)
  })
  it('is the same through strips as in rectangles, for a chain of all operations', () => {
    const source = busyPicture(640, 2410)
    const plan = planOf(source, everyStep)
    const whole = renderEncoded(kernels, plan, options)
    const { width } = lastFrame(plan).size
    const rect = { x: 37, y: 101, width: 130, height: 77 }
    const part = renderEncoded(kernels, plan, options, rect)
    for (let y = 0; y < rect.height; y++) {
      const start = ((rect.y + y) * width + rect.x) * 3
      expect(
        worstDifference(part.subarray(y * rect.width * 3, (y + 1) * rect.width * 3), whole.subarray(start, start + rect.width * 3)),
      ).toBe(0)
    }
  })
  it('goes on from a kept frame as if it had never stopped', () => {
    const source = busyPicture(200, 150)
    const steps = resolveSteps(everyStep, source.size)
    const frame = renderFrame(kernels, planRender(source, steps.slice(0, 4), 'full'))
    const resumed = renderEncoded(kernels, planRender(frame, steps.slice(4), 'full'), options)
    expect(worstDifference(resumed, renderEncoded(kernels, planRender(source, steps, 'full'), options))).toBe(0)
  })
  it.each([
    newStep('local-contrast', '1', { amountPercent: 60 }),
    newStep('tone-bands', '1', { shadowsEv: 1 }),
    newStep('haze', '1', { amountPercent: 50 }),
    newStep('grain', '1', { amountPercent: 40 }),
    newStep('falloff', '1', { cornersEv: -2 }),
    newStep('equalise-locally', '1'),
  ])('does what needs a place, but no neighbours, the same where neighbours are looked at next: $operation', (step) => {
    const source = busyPicture(203, 150)
    const sampler = createSampler(kernels, source)
    const steps = resolveSteps([step, everyStep[3] as Step], source.size, { sampler })
    expect(isInPlace(planRender(source, steps.slice(0, 1), 'full').stages.at(-1)?.work as Work)).toBe(true)
    const frame = renderFrame(kernels, planRender(source, steps.slice(0, 1), 'full'))
    const resumed = renderEncoded(kernels, planRender(frame, steps.slice(1), 'full'), options)
    expect(worstDifference(resumed, renderEncoded(kernels, planRender(source, steps, 'full'), options))).toBe(0)
  })
  it('halves the change at 50 %', async () => {
    const source = busyPicture(64, 64)
    const grey = newStep('saturation', '1', { saturationPercent: -100 })
    const half = await renderSteps(source, [{ ...grey, strengthPercent: 50 }])
    const same = await renderSteps(source, [newStep('saturation', '1', { saturationPercent: -50 })])
    expect(worstDifference(half.pixels, same.pixels)).toBeLessThanOrEqual(1)
    const sharp = newStep('unsharp-mask', '1', { amountPercent: 100, thresholdLevels: 0, haloLimitLevels: 255 })
    const halfSharp = await renderSteps(source, [{ ...sharp, strengthPercent: 50 }])
    const sameSharp = await renderSteps(source, [
      newStep('unsharp-mask', '1', { amountPercent: 50, thresholdLevels: 0, haloLimitLevels: 255 }),
    ])
    expect(worstDifference(halfSharp.pixels, sameSharp.pixels)).toBeLessThanOrEqual(1)
  })
  it('takes lightness alone, or colour alone, and keeps the other of what was before', async () => {
    const source = busyPicture(64, 48)
    const toned = newStep('channel-mixer', '1', { redFromGreenPercent: 80, blueFromRedPercent: 60, keepNeutrals: true })
    const darker = newStep('exposure', '2', { exposureEv: -1 })
    const lab = (pixels: ArrayLike<number>, i: number) => {
      const decode = (c: number) => colourSpaces.srgb.transfer.decode((pixels[i + c] ?? 0) / 255)
      return workingToOklab(transform(rgbToRgb(colourSpaces.srgb, workingSpace), [decode(0), decode(1), decode(2)]))
    }
    for (const step of [toned, darker]) {
      const all = (await renderSteps(source, [step])).pixels
      const light = (await renderSteps(source, [{ ...step, blend: 'lightness' }])).pixels
      const colour = (await renderSteps(source, [{ ...step, blend: 'colour' }])).pixels
      for (let i = 0; i < all.length; i += 3 * 97) {
        const [before, after, byLight, byColour] = [lab(source.pixels, i), lab(all, i), lab(light, i), lab(colour, i)]
        // Colours that leave sRGB on the way are clipped at the end; the picture is dull enough that few do.
        expect(Math.abs(byLight[0] - after[0])).toBeLessThan(0.02)
        expect(Math.hypot(byLight[1] - before[1], byLight[2] - before[2])).toBeLessThan(0.03)
        expect(Math.abs(byColour[0] - before[0])).toBeLessThan(0.02)
      }
    }
  })
  it('blends a neighbourhood step the same in any strip', async () => {
    const source = busyPicture(50, 60)
    const step = {
      ...newStep('unsharp-mask', '1', { lightnessOnly: false, haloLimitLevels: 255, thresholdLevels: 0 }),
      blend: 'lightness' as const,
      strengthPercent: 70,
    }
    const plan = planOf(source, [step])
    const whole = renderEncoded(kernels, plan, options)
    const part = renderEncoded(kernels, plan, options, { x: 0, y: 20, width: 50, height: 10 })
    expect(worstDifference(part, whole.subarray(20 * 150, 30 * 150))).toBe(0)
    expect(worstDifference(whole, renderEncoded(kernels, planOf(source, []), options))).toBeGreaterThan(5)
  })
  it('agrees between a preview and the reduced full picture: mean ΔE00 below 1', () => {
    const smooth = busyPicture(800, 600)
    for (let i = 0; i < smooth.pixels.length; i++) smooth.pixels[i] = 128 + 100 * Math.sin((i % 2400) / 190 + Math.floor(i / 2400) / 60)
    const steps = resolveSteps(everyStep.slice(0, 5), smooth.size)
    const preview = renderEncoded(kernels, planRender(renderProxy(kernels, smooth, 0.25), steps, 'preview'), { ...options, dither: false })
    const full = renderFrame(kernels, planRender(smooth, steps, 'full'))
    const reduced = renderEncoded(kernels, planRender(renderProxy(kernels, full, 0.25), [], 'preview'), { ...options, dither: false })
    let sum = 0
    for (let i = 0; i < preview.length; i += 3) sum += deltaE00(labAt(preview, i), labAt(reduced, i))
    expect(preview.length).toBe(reduced.length)
    expect(sum / (preview.length / 3)).toBeLessThan(1)
  })
})

const labAt = (pixels: Uint8ClampedArray, at: number): Vector3 => srgb8ToLab([pixels[at] ?? 0, pixels[at + 1] ?? 0, pixels[at + 2] ?? 0])

import { beforeAll, describe, expect, it } from 'vitest'
import { newStep, type Step } from '@/macro/step'
import { testKernels } from '../../../../tests/kernels'
import { busyPicture } from '../../../../tests/pictures'
import { renderSteps, worstDifference } from '../../../../tests/render'
import type { RenderRequest } from './protocol'
import { PictureSession, regionRect } from './session'

const source = busyPicture(600, 400)
let session: PictureSession
beforeAll(async () => {
  session = new PictureSession(await testKernels(), source)
})
const fit = { kind: 'fit', widthPx: 300, heightPx: 300 } as const
const request = (steps: readonly Step[], part: Partial<RenderRequest> = {}): RenderRequest => ({
  id: 1,
  path: 'x',
  steps,
  focus: 0,
  view: fit,
  histogram: true,
  ...part,
})
const steps = [
  newStep('exposure', 'a', { exposureEv: 0.4 }),
  newStep('saturation', 'b', { saturationPercent: 30 }),
  newStep('crop', 'c', { ratioWidth: 1, ratioHeight: 1 }),
  newStep('resize', 'd', { lengthPx: 200 }),
]

describe('a fitted view', () => {
  it('fills the room it is given, at the full picture’s shape', () => {
    const view = session.render(request([]))
    expect(view).toMatchObject({ size: { width: 300, height: 200 }, fullSize: { width: 600, height: 400 } })
    expect(view.pixels.length).toBe(300 * 200 * 4)
    expect(view.pixels.filter((_, i) => i % 4 === 3).every((alpha) => alpha === 255)).toBe(true)
  })
  it('is the same whichever step is in focus: kept frames change nothing', () => {
    const views = [0, 1, 2, 3, 4].map((focus) => session.render(request(steps, { focus })))
    for (const view of views) expect(worstDifference(view.pixels, views[0]?.pixels ?? [])).toBe(0)
  })
  it('never shows more pixels than the finished picture has', () => {
    expect(session.render(request(steps))).toMatchObject({
      size: { width: 200, height: 200 },
      fullSize: { width: 200, height: 200 },
      sizeBeforeFocus: { width: 600, height: 400 },
    })
  })
  it('counts every pixel into the histogram, before and after the step in focus', () => {
    const { histogram } = session.render(request([newStep('exposure', 'a', { exposureEv: -5 })]))
    const all = (counts: Uint32Array | undefined, from = 0, to = 256) => counts?.subarray(from, to).reduce((sum, count) => sum + count, 0)
    expect(all(histogram?.before)).toBe(300 * 200)
    expect(all(histogram?.after)).toBe(300 * 200)
    expect(all(histogram?.after, 0, 60)).toBe(300 * 200)
    expect(all(histogram?.before, 0, 60)).toBeLessThan(300 * 200)
  })
  it('tells the shares that are clipped', () => {
    expect(session.render(request([newStep('exposure', 'a', { exposureEv: 5 })])).clipped.highlightsPercent).toBeGreaterThan(50)
    expect(session.render(request([newStep('levels', 'a', { allBlack: 254 })])).clipped.shadowsPercent).toBeGreaterThan(50)
  })
  it('tells in words what was found', () => {
    expect(session.render(request(steps)).found).toEqual({ c: '400 × 400 px from 100, 0', d: 'to 200 × 200 px' })
  })
})

describe('a view at 100 %', () => {
  it('shows the very pixels that a run makes', async () => {
    const view = session.render(request(steps, { view: { kind: 'region', centreX: 0.5, centreY: 0.5, widthPx: 90, heightPx: 70 } }))
    const whole = await renderSteps(source, steps, true)
    expect(view.rect).toEqual({ x: 55, y: 65, width: 90, height: 70 })
    for (let y = 0; y < 70; y++)
      for (let x = 0; x < 90; x++)
        for (let channel = 0; channel < 3; channel++)
          expect(view.pixels[(y * 90 + x) * 4 + channel]).toBe(whole.pixels[((y + 65) * 200 + x + 55) * 3 + channel])
  })
  it.each([
    [
      { centreX: 0, centreY: 0, widthPx: 100, heightPx: 50 },
      { x: 0, y: 0, width: 100, height: 50 },
    ],
    [
      { centreX: 1, centreY: 1, widthPx: 100, heightPx: 50 },
      { x: 300, y: 250, width: 100, height: 50 },
    ],
    [
      { centreX: 0.5, centreY: 0.5, widthPx: 9000, heightPx: 50 },
      { x: 0, y: 125, width: 400, height: 50 },
    ],
  ])('%o stays inside the picture', (view, rect) =>
    expect(regionRect({ width: 400, height: 300 }, { kind: 'region', ...view })).toEqual(rect),
  )
})

describe('the beads', () => {
  it('are the source and one picture a step, small', () => {
    const pictures = session.beadPictures(steps)
    expect(pictures.map((picture) => picture.stepId)).toEqual(['source', 'a', 'b', 'c', 'd'])
    expect(pictures[0]?.size).toEqual({ width: 176, height: 117 })
    expect(pictures[3]?.size).toEqual({ width: 117, height: 117 })
  })
  it('after an edit only those from it onwards are made anew', () => {
    const first = session.beadPictures(steps)
    const second = session.beadPictures(steps.map((step) => (step.id === 'b' ? { ...step, settings: { saturationPercent: -50 } } : step)))
    expect(second[1]?.pixels).toBe(first[1]?.pixels)
    expect(second[2]?.pixels).not.toBe(first[2]?.pixels)
  })
})

import { beforeAll, describe, expect, it, vi } from 'vitest'
import { Sample } from '@/engine/sample'
import { newLimit } from '@/macros/limit'
import { newStep, type Step } from '@/macros/step'
import { traitsOf } from '@/pixels/traits'
import { testKernels } from '../../../../tests/kernels'
import { busyPicture } from '../../../../tests/pictures'
import { renderSteps, worstDifference } from '../../../../tests/render'
import { BufferPool } from './buffer-pool'
import { drawLowerPart, type LowerPart, LowerPartClient, type LowerPartTask, type ToLowerPart } from './lower-part'
import type { RenderRequest } from './protocol'
import { PictureSession, regionRect, type SoundView } from './session'
import { beadsThatCan, renderWhatCan } from './what-can'

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
  it('fills the room it is given, at the full picture’s shape', async () => {
    const view = await session.render(request([]))
    expect(view).toMatchObject({ size: { width: 300, height: 200 }, fullSize: { width: 600, height: 400 } })
    expect(view.pixels.length).toBe(300 * 200 * 4)
    expect(view.pixels.filter((_, i) => i % 4 === 3).every((alpha) => alpha === 255)).toBe(true)
  })
  it('is the same whichever step is in focus: kept frames change nothing', async () => {
    const views: SoundView[] = []
    for (const focus of [0, 1, 2, 3, 4]) views.push(await session.render(request(steps, { focus })))
    for (const view of views) expect(worstDifference(view.pixels, views[0]?.pixels ?? [])).toBe(0)
  })
  it('never shows more pixels than the finished picture has', async () => {
    expect(await session.render(request(steps))).toMatchObject({
      size: { width: 200, height: 200 },
      fullSize: { width: 200, height: 200 },
      sizeBeforeFocus: { width: 600, height: 400 },
    })
  })
  it('counts every pixel into the histogram, before and after the step in focus', async () => {
    const { histogram } = await session.render(request([newStep('exposure', 'a', { exposureEv: -5 })]))
    const all = (counts: Uint32Array | undefined, from = 0, to = 256) => counts?.subarray(from, to).reduce((sum, count) => sum + count, 0)
    expect(all(histogram?.before)).toBe(300 * 200)
    expect(all(histogram?.after)).toBe(300 * 200)
    expect(all(histogram?.after, 0, 60)).toBe(300 * 200)
    expect(all(histogram?.before, 0, 60)).toBeLessThan(300 * 200)
  })
  it('tells the shares that are clipped', async () => {
    expect((await session.render(request([newStep('exposure', 'a', { exposureEv: 5 })]))).clipped.highlightsPercent).toBeGreaterThan(50)
    expect((await session.render(request([newStep('levels', 'a', { allBlack: 254 })]))).clipped.shadowsPercent).toBeGreaterThan(50)
  })
  it('tells in words what was found', async () => {
    expect((await session.render(request(steps))).found).toEqual({ c: '400 × 400 px from 100, 0', d: 'to 200 × 200 px' })
  })
})

describe('a fitted view while a control is held', () => {
  const exposure = newStep('exposure', 'a', { exposureEv: 0.4 })
  const mean = (a: Uint8ClampedArray, b: Uint8ClampedArray) =>
    a.reduce((sum, code, i) => sum + Math.abs(code - (b[i] as number)), 0) / a.length

  it('is drawn at its full size by a palette where colours alone change, and nearly the true one', async () => {
    const [held, still] = [await session.render(request([exposure], { heldDensity: 0.36 })), await session.render(request([exposure]))]
    expect(held).toMatchObject({ size: still.size, isQuick: true })
    expect(still.isQuick).toBe(false)
    expect(mean(held.pixels, still.pixels)).toBeLessThan(1.2)
  })
  it('is drawn at a share of the resolution, by the true steps, where neighbours matter', async () => {
    const steps = [exposure, newStep('unsharp-mask', 'u', { amountPercent: 50 })]
    const held = await session.render(request(steps, { heldDensity: 0.5 }))
    expect(held).toMatchObject({ size: { width: 150, height: 100 }, isQuick: false, fullSize: { width: 600, height: 400 } })
    const small = await session.render(request(steps, { view: { ...fit, widthPx: 150, heightPx: 150 } }))
    expect(worstDifference(held.pixels, small.pixels)).toBe(0)
  })
  it('counts and masks as the true one does', async () => {
    const limited = { ...newStep('saturation', 'b', { saturationPercent: 30 }), limit: [newLimit('tone')] }
    const held = await session.render(request([limited], { heldDensity: 1, mask: true }))
    expect(held.isQuick).toBe(false)
    expect(held.mask?.values.length).toBe(300 * 200)
    const { histogram } = await session.render(request([exposure], { heldDensity: 1 }))
    expect(histogram?.after.subarray(0, 256).reduce((sum, count) => sum + count, 0)).toBe(300 * 200)
  })
})

describe('a fitted picture in two halves', () => {
  const large = busyPicture(1200, 800)
  const view = { kind: 'fit', widthPx: 1200, heightPx: 800 } as const
  const sharp = [
    newStep('exposure', 'a', { exposureEv: 0.4 }),
    newStep('full-range', 'l'),
    newStep('detail-bands', 'c'),
    newStep('unsharp-mask', 'u', { amountPercent: 90 }),
  ]
  const one = { width: 1, height: 1 }
  const drawn: LowerPartTask[] = []
  /** As the thread beside does it: nothing but what can be sent. */
  const pool = new BufferPool()
  const beside: LowerPart = {
    draw: async (frame, task) => {
      drawn.push(task)
      const [sentFrame, sentTask] = structuredClone([frame, task] as const)
      return drawLowerPart(await testKernels(), sentFrame, sentTask, new Map(), pool)
    },
    giveBack: ({ buffer }) => pool.keep(buffer),
  }
  const held = async (lowerPart: LowerPart | undefined, part: Partial<RenderRequest> = {}) =>
    new PictureSession(await testKernels(), large, undefined, undefined, lowerPart).render(
      request(sharp, { view, heldDensity: 1, focus: 1, ...part }),
    )

  it('is the very picture that one thread draws, whatever step is in focus', async () => {
    for (const focus of [0, 1, 2, 3]) {
      drawn.length = 0
      const [whole, halves] = [await held(undefined, { focus }), await held(beside, { focus })]
      expect(drawn.map(({ rect }) => rect)).toEqual([{ x: 0, y: 400, width: 1200, height: 400 }])
      expect(worstDifference(whole.pixels, halves.pixels)).toBe(0)
    }
  })
  it('is drawn in one piece if it is small or quick', async () => {
    drawn.length = 0
    await held(beside, { heldDensity: 0.36 })
    await held(beside, { steps: sharp.slice(0, 2) })
    expect(drawn).toHaveLength(0)
    await held(beside, { heldDensity: undefined })
    expect(drawn).toHaveLength(1)
  })
  it('is whole even if the thread beside fails', async () => {
    const failing: LowerPart = { draw: () => Promise.reject(new Error('gone')), giveBack: () => undefined }
    expect(worstDifference((await held(failing)).pixels, (await held(undefined)).pixels)).toBe(0)
  })
  it('is whole with a step that has to see the picture itself', async () => {
    const steps = [...sharp, newStep('local-contrast', 'd')]
    const [whole, halves] = [await held(undefined, { steps }), await held(beside, { steps })]
    expect(worstDifference(whole.pixels, halves.pixels)).toBe(0)
  })
  it('is drawn into the memory of one that was given back, and all of it', async () => {
    const stage = new PictureSession(await testKernels(), large, undefined, undefined, beside)
    const wish = request(sharp, { view, heldDensity: 1, focus: 1 })
    const [first, second] = [await stage.render(wish), await stage.render(wish)]
    expect(second.pixels.buffer).not.toBe(first.pixels.buffer)
    const given = structuredClone(first.pixels)
    first.pixels.fill(7)
    stage.giveBack(first.pixels.buffer)
    const third = await stage.render(wish)
    expect(third.pixels.buffer).toBe(first.pixels.buffer)
    expect(worstDifference(third.pixels, given)).toBe(0)
    stage.giveBack(third.pixels.buffer)
    const quick = await stage.render({ ...wish, steps: sharp.slice(0, 1), focus: 0 })
    expect(quick.isQuick).toBe(true)
    expect(quick.pixels.buffer).toBe(first.pixels.buffer)
  })
  it('keeps memory of the right size alone, and not without end', () => {
    const some = new BufferPool()
    const buffers = [1, 2, 3, 4].map(() => new ArrayBuffer(8))
    for (const buffer of buffers) some.keep(buffer)
    expect(some.take(16).buffer.byteLength).toBe(16)
    const taken = [1, 2, 3, 4].map(() => some.take(8).buffer)
    expect(taken.filter((buffer) => buffers.includes(buffer))).toHaveLength(3)
    expect(new Set(taken).size).toBe(4)
  })
  it('sends a frame once, and hands on what goes wrong', async () => {
    const { port1, port2 } = new MessageChannel()
    const seen: string[] = []
    port2.onmessage = ({ data }: MessageEvent<ToLowerPart>) => {
      seen.push(data.type)
      if (data.type === 'draw')
        port2.postMessage(
          data.id === 2 ? { id: 2, pixels: null, problem: 'no kernels' } : { id: data.id, pixels: new Uint8ClampedArray(4) },
        )
    }
    const client = new LowerPartClient(port1)
    const frame = { kind: 'planes', size: one, fullSize: one, domain: 'linear', planes: new Float32Array(3) } as const
    const task = { steps: [], size: one, constants: [], rect: { x: 0, y: 0, ...one } }
    expect((await client.draw(frame, task)).length).toBe(4)
    await expect(client.draw(frame, task)).rejects.toThrow('no kernels')
    await client.draw({ ...frame }, task)
    expect(seen).toEqual(['frame', 'draw', 'draw', 'frame', 'draw'])
    port1.close()
  })
  it('waits for an answer, but not for ever, and once', async () => {
    vi.useFakeTimers()
    const { port1 } = new MessageChannel()
    const client = new LowerPartClient(port1)
    const frame = { kind: 'planes', size: one, fullSize: one, domain: 'linear', planes: new Float32Array(3) } as const
    const task = { steps: [], size: one, constants: [], rect: { x: 0, y: 0, ...one } }
    const asked = client.draw(frame, task).catch(String)
    await vi.advanceTimersByTimeAsync(6000)
    expect(await asked).toContain('Nobody answers')
    await expect(client.draw(frame, task)).rejects.toThrow('Nobody answers')
    vi.useRealTimers()
    port1.close()
  })
})

describe('a view at 100 %', () => {
  it('shows the very pixels that a run makes when it is looked at again, too, whichever step is in focus', async () => {
    const toned = [
      newStep('resize', 'a', { lengthPx: 300 }),
      newStep('brightness-contrast', 'b', { contrastPercent: 40 }),
      newStep('unsharp-mask', 'c'),
      newStep('levels', 'd', { allBlack: 7, allGamma: 1.2 }),
      newStep('curve', 'e', {
        all: [
          [0, 0],
          [90, 110],
          [255, 255],
        ],
      }),
      newStep('brightness-contrast', 'f', { contrastPercent: 20 }),
    ]
    const { pixels: whole } = await renderSteps(source, toned, true, 'hue')
    const view = { kind: 'region', centreX: 0.5, centreY: 0.5, widthPx: 300, heightPx: 200 } as const
    for (const focus of [1, 2, 3, 4, 5, 6])
      for (const _ of ['first', 'again']) {
        const { pixels } = await session.render(request(toned, { view, focus }))
        expect(
          worstDifference(
            pixels.filter((_, i) => i % 4 < 3),
            whole,
          ),
        ).toBe(0)
      }
  })
  it('shows the very pixels that a run makes', async () => {
    const view = await session.render(request(steps, { view: { kind: 'region', centreX: 0.5, centreY: 0.5, widthPx: 90, heightPx: 70 } }))
    const whole = await renderSteps(source, steps, true)
    expect(view.rect).toEqual({ x: 55, y: 65, width: 90, height: 70 })
    for (let y = 0; y < 70; y++)
      for (let x = 0; x < 90; x++)
        for (let channel = 0; channel < 3; channel++)
          expect(view.pixels[(y * 90 + x) * 4 + channel]).toBe(whole.pixels[((y + 65) * 200 + x + 55) * 3 + channel])
  })
  it('counts the whole picture, wherever it is looked at, and anew when a step changes', async () => {
    const view = (centreX: number) => ({ kind: 'region', centreX, centreY: 0.5, widthPx: 40, heightPx: 30 }) as const
    const brighter = [newStep('exposure', 'a', { exposureEv: 3 })]
    const views: SoundView[] = []
    for (const [wanted, centreX] of [
      [[], 0.2],
      [[], 0.7],
      [brighter, 0.7],
      [[], 0.7],
    ] as const)
      views.push(await session.render(request(wanted, { view: view(centreX) })))
    const [left, right, bright, back] = views
    expect(right?.pixels).not.toEqual(left?.pixels)
    expect(right?.histogram).toEqual(left?.histogram)
    expect(bright?.histogram?.after).not.toEqual(left?.histogram?.after)
    expect(bright?.clipped.highlightsPercent).toBeGreaterThan((left?.clipped.highlightsPercent ?? 0) + 10)
    expect(back?.histogram).toEqual(left?.histogram)
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

describe('a test strip', () => {
  it('shows for each variant what its true pixels would be', async () => {
    const variants = [0, 0.5, 1].map((exposureEv) => [newStep('exposure', 'a', { exposureEv }), ...steps.slice(1, 3)])
    const view = { kind: 'region', centreX: 0.4, centreY: 0.6, widthPx: 50, heightPx: 40 } as const
    const pictures = session.strip({ id: 1, path: 'x', variants, focus: 0, view })
    for (const [i, variant] of variants.entries()) {
      const whole = await session.render(request(variant, { view }))
      expect(pictures[i]?.size).toEqual({ width: 50, height: 40 })
      expect(worstDifference(pictures[i]?.pixels ?? [], whole.pixels)).toBe(0)
    }
  })
})

describe('true pixels behind a reduction', () => {
  it('are the same the first time, computed alone, and later, from the picture that was kept', async () => {
    const view = { kind: 'region', centreX: 0.5, centreY: 0.5, widthPx: 90, heightPx: 60 } as const
    const sharp = [...steps, newStep('unsharp-mask', 'e')]
    const render = () => session.render(request(sharp, { view, focus: 4 }))
    const [first, second, third] = [await render(), await render(), await render()]
    expect(worstDifference(first?.pixels ?? [], second?.pixels ?? [])).toBe(0)
    expect(worstDifference(first?.pixels ?? [], third?.pixels ?? [])).toBe(0)
  })
})

describe('where a step applies', () => {
  const limited = { ...newStep('exposure', 'b', { exposureEv: 1 }), limit: [newLimit('radial')] }
  it('is drawn on the picture before it, fitted or at true size', async () => {
    const fitted = await session.render(request([...steps.slice(0, 1), limited], { focus: 1, mask: true }))
    expect(fitted.mask?.values.length).toBe(fitted.size.width * fitted.size.height)
    const { width, height } = fitted.size
    expect(fitted.mask?.values[Math.floor(height / 2) * width + Math.floor(width / 2)]).toBe(255)
    expect(fitted.mask?.values[0]).toBe(0)
    const view = { kind: 'region', centreX: 0, centreY: 0, widthPx: 40, heightPx: 30 } as const
    const corner = await session.render(request([limited], { focus: 0, mask: true, view }))
    expect(corner.mask?.values).toHaveLength(40 * 30)
    expect(Math.max(...(corner.mask?.values ?? [1]))).toBe(0)
  })
  it('is left out where nobody asks, and for a step without limits', async () => {
    expect((await session.render(request([limited]))).mask).toBeNull()
    expect((await session.render(request(steps, { mask: true }))).mask).toBeNull()
  })
})

describe('a picture of the tray', () => {
  it('looks like the stage’s own, at its smaller scale', async () => {
    const facts = { size: source.size, format: 'jpeg', bits: 8, space: 'srgb', hasAlpha: false }
    const sample = new Sample(await testKernels(), source, { facts, name: 'x.jpg' }, new Map(), 1000)
    const looks = [newStep('full-range', 'l'), ...steps.slice(1, 3), newStep('noise-reduction', 'n')]
    const small = sample.render(looks, { wantsTraits: true })
    const large = await session.render(request(looks, { view: { kind: 'fit', widthPx: 600, heightPx: 600 } }))
    expect(small.size).toEqual({ width: 400, height: 400 })
    expect(Math.abs((small.traits?.lightness ?? 0) - traitsOf(large.pixels, 4).lightness)).toBeLessThan(0.5)
  })
})

describe('a step that fails', () => {
  // A look whose file is not kept here: what any error of one step comes to.
  const broken = newStep('look-table', 'broken', { file: `${'c'.repeat(64)}/gone.cube` })
  it('is left out and named, whichever is in focus; the rest goes on', async () => {
    const sound = [steps[0], steps[3]] as [Step, Step]
    const truth = await renderWhatCan(session, request(sound))
    expect(truth.problems).toEqual({})
    for (const focus of [0, 1, 2, 3]) {
      const view = await renderWhatCan(session, request([sound[0], broken, sound[1]], { focus }))
      expect(view.problems).toEqual({ broken: expect.stringContaining('gone.cube') })
      expect(worstDifference(view.pixels, truth.pixels)).toBe(0)
    }
  })
  it('has the picture before it as its bead', () => {
    const beads = beadsThatCan(session, [steps[0] as Step, broken, steps[1] as Step])
    expect(beads.map(({ stepId, isBroken }) => [stepId, isBroken ?? false])).toEqual(
      expect.arrayContaining([
        ['source', false],
        ['a', false],
        ['b', false],
        ['broken', true],
      ]),
    )
    const of = (id: string) => beads.find(({ stepId }) => stepId === id)?.pixels
    expect(of('broken')).toEqual(of('a'))
  })
})

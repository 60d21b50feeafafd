import { beforeEach, describe, expect, it, vi } from 'vitest'
import { newStep } from '@/macros/step'
import type { PictureFacts } from '@/pixels/picture'
import { nothingShown, StageFlow, type StagePictures, type Wanted } from './stage-flow'
import type { FromBenchWorker, RenderedView, ToBenchWorker } from './worker/protocol'

/** What the flow has sent to its worker, and a way to answer. */
class FakeWorker {
  static last: FakeWorker
  readonly sent: ToBenchWorker[] = []
  onmessage: ((event: { data: FromBenchWorker }) => void) | null = null
  constructor() {
    FakeWorker.last = this
  }
  postMessage(message: ToBenchWorker): void {
    this.sent.push(message)
  }
  terminate(): void {}
  answer(data: FromBenchWorker): void {
    this.onmessage?.({ data })
  }
  /** Requests for pictures, newest last. */
  get renders() {
    return this.sent.flatMap((message) => (message.type === 'render' ? [message.request] : []))
  }
}

beforeEach(() => {
  vi.stubGlobal('Worker', FakeWorker)
  vi.stubGlobal('navigator', { hardwareConcurrency: 1 })
  vi.stubGlobal('devicePixelRatio', 1)
})

const steps = (exposureEv: number) => [newStep('exposure', 'a', { exposureEv })]
const wanted: Wanted = {
  path: '/a.jpg',
  room: { width: 300, height: 200 },
  view: { kind: 'fit' },
  steps: steps(0.5),
  shaping: [],
  focus: 0,
  mask: false,
  isHeld: false,
}

function newFlow() {
  const page = { path: '/a.jpg', isHeld: false, pictures: nothingShown, refused: '' }
  const flow = new StageFlow({
    isOnBench: (path) => path === page.path,
    isHeld: () => page.isHeld,
    hasLayers: () => false,
    opened: () => undefined,
    refused: (_, sentence) => {
      page.refused = sentence
    },
    changed: (part: Partial<StagePictures>) => {
      page.pictures = { ...page.pictures, ...part }
    },
  })
  return { flow, page, worker: FakeWorker.last }
}
const rendered = (id: number, path = '/a.jpg'): FromBenchWorker => ({
  type: 'rendered',
  view: { id, path, size: { width: 3, height: 2 }, milliseconds: 400, mask: null, isQuick: false } as RenderedView,
})
const failed = (id: number, isOpen: boolean): FromBenchWorker => ({
  type: 'failed',
  id,
  isOpen,
  path: '/a.jpg',
  report: { code: 'internal', details: {} },
  sentence: 'It broke',
})

describe('the stage’s flow', () => {
  it('asks for the picture after and before the steps, and for neither again while nothing differs', () => {
    const { flow, worker } = newFlow()
    flow.want(wanted)
    expect(worker.renders).toMatchObject([
      { steps: wanted.steps, histogram: true, view: { kind: 'fit', widthPx: 300, heightPx: 200 } },
      { steps: [], histogram: false },
    ])
    flow.want({ ...wanted, steps: steps(0.5) })
    expect(worker.renders).toHaveLength(2)
    flow.want({ ...wanted, steps: steps(0.6) })
    worker.answer(rendered(1))
    expect(worker.renders).toHaveLength(3)
  })
  it('asks for nothing before there is room for it', () => {
    const { flow, worker } = newFlow()
    flow.want({ ...wanted, room: { width: 1, height: 1 } })
    expect(worker.renders).toEqual([])
  })
  it('sends values of a held control at once, drawn as sharply as there is time for', () => {
    const { flow, worker } = newFlow()
    flow.want(wanted)
    // It took 400 ms: too long to follow a pointer at the screen's full resolution.
    worker.answer(rendered(1))
    flow.want({ ...wanted, isHeld: true })
    flow.hold(steps(0.7))
    worker.answer(rendered(3))
    expect(worker.renders.slice(2).map(({ heldDensity }) => heldDensity)).toEqual([expect.any(Number), expect.any(Number)])
    expect(worker.renders.at(-1)).toMatchObject({ steps: steps(0.7) })
    flow.want({ ...wanted, steps: steps(0.7) })
    worker.answer(rendered(4))
    expect(worker.renders.at(-1)?.heldDensity).toBeUndefined()
  })
  it('keeps what is shown when one picture could not be made, and takes the sentence back with the next', () => {
    const { flow, page, worker } = newFlow()
    flow.want(wanted)
    worker.answer(rendered(1))
    const { after } = page.pictures
    expect(after?.id).toBe(1)
    flow.want({ ...wanted, steps: steps(9) })
    worker.answer(failed(3, true))
    expect(page.pictures).toMatchObject({ after, problem: 'It broke' })
    expect(page.refused).toBe('')
    flow.want({ ...wanted, steps: steps(1) })
    worker.answer(rendered(4))
    expect(page.pictures.problem).toBeNull()
  })
  it('says of a picture that can’t be opened that it can’t', () => {
    const { flow, page, worker } = newFlow()
    flow.want(wanted)
    worker.answer(failed(1, false))
    expect(page.refused).toBe('It broke')
  })
  it('hears nothing of a picture that was taken off the bench, and asks anew for the next', () => {
    const { flow, page, worker } = newFlow()
    flow.open('/a.jpg')
    flow.want(wanted)
    page.path = '/b.jpg'
    flow.open('/b.jpg')
    worker.answer(rendered(1))
    worker.answer(failed(2, false))
    expect(page.pictures).toEqual(nothingShown)
    expect(page.refused).toBe('')
    flow.want({ ...wanted, path: '/b.jpg' })
    expect(worker.renders.at(-1)).toMatchObject({ path: '/b.jpg' })
  })
  it('asks once more for what a copy has shown when the picture’s own pixels are there', () => {
    const { flow, page, worker } = newFlow()
    const opened = (isWhole: boolean): void =>
      worker.answer({ type: 'opened', path: '/a.jpg', fullSize: { width: 6, height: 4 }, facts: {} as PictureFacts, isWhole })
    const asked = () =>
      worker.sent.flatMap((message) => (message.type === 'beads' ? ['beads'] : message.type === 'render' ? ['render'] : []))
    const answerAll = (first: number): void => {
      worker.answer(rendered(first))
      worker.answer(rendered(first + 1))
      worker.answer({ type: 'beads', id: first + 2, path: '/a.jpg', pictures: [] })
    }
    flow.open('/a.jpg')
    flow.want(wanted)
    flow.beads('/a.jpg', steps(0.5))
    opened(false)
    answerAll(1)
    expect(asked()).toEqual(['render', 'render', 'beads'])
    opened(true)
    expect(asked()).toEqual(['render', 'render', 'beads', 'render', 'render', 'beads'])
    answerAll(4)
    flow.want(wanted)
    opened(true)
    expect(asked()).toHaveLength(6)

    // What is held is drawn from them with its next value; true pixels have waited for them.
    flow.open('/a.jpg')
    flow.want(wanted)
    opened(false)
    worker.answer(rendered(7))
    worker.answer(rendered(8))
    page.isHeld = true
    opened(true)
    expect(asked()).toHaveLength(8)
    page.isHeld = false
    flow.want(wanted)
    expect(asked()).toHaveLength(10)
    worker.answer(rendered(9))
    worker.answer(rendered(10))
    flow.open('/a.jpg')
    flow.want({ ...wanted, view: { kind: 'full', zoom: 1, centreX: 0.5, centreY: 0.5 } })
    opened(false)
    opened(true)
    expect(asked()).toHaveLength(12)
  })
  it('makes the wire’s small pictures anew only where steps differ', () => {
    const { flow, worker } = newFlow()
    flow.beads('/a.jpg', steps(1))
    flow.beads('/a.jpg', steps(1))
    expect(worker.sent.filter(({ type }) => type === 'beads')).toHaveLength(1)
  })
})

describe('what steps take', () => {
  const two = [...steps(0.5), newStep('curve', 'b')]
  const timesAsked = (worker: FakeWorker) => worker.sent.flatMap((message) => (message.type === 'times' ? [message.request] : []))
  const answer = (worker: FakeWorker, id: number, milliseconds: number): void =>
    worker.answer({ type: 'times', id, path: '/a.jpg', milliseconds })

  it('is asked for one more step at a time, each once the one before is known', () => {
    const { flow, page, worker } = newFlow()
    flow.times('/a.jpg', two)
    for (const [asked, milliseconds] of [10, 30, 80].entries()) {
      expect(timesAsked(worker).map(({ count }) => count)).toEqual([0, 1, 2].slice(0, asked + 1))
      answer(worker, timesAsked(worker).at(-1)?.id ?? 0, milliseconds)
    }
    expect(page.pictures.times).toEqual([10, 30, 80])
    expect(timesAsked(worker)).toHaveLength(3)
  })
  it('begins anew with other steps, and what comes late is not taken for them', () => {
    const { flow, page, worker } = newFlow()
    flow.times('/a.jpg', two)
    const [first] = timesAsked(worker)
    flow.times('/a.jpg', steps(1))
    // The lane has one under way: the next goes out when that is answered.
    answer(worker, first?.id ?? 0, 99)
    expect(page.pictures.times).toEqual([])
    expect(timesAsked(worker).at(-1)).toMatchObject({ count: 0, steps: steps(1) })
    flow.stopTiming()
    answer(worker, timesAsked(worker).at(-1)?.id ?? 0, 5)
    expect(page.pictures.times).toEqual([])
    expect(timesAsked(worker)).toHaveLength(2)
  })
})

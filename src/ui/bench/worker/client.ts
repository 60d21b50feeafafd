import type { Step } from '@/macros/step'
import type { BeadPicture, FromBenchWorker, RenderedView, RenderRequest, StripPicture, StripRequest, TimesRequest } from './protocol'

type Opened = Extract<FromBenchWorker, { type: 'opened' }>
type Failed = Extract<FromBenchWorker, { type: 'failed' }>

export interface BenchListeners {
  opened(message: Opened): void
  failed(message: Failed): void
  rendered(lane: RenderLane, view: RenderedView): void
  beads(pictures: readonly BeadPicture[]): void
  strip(pictures: readonly StripPicture[]): void
  /** `id`: of the wish it answers. */
  times(id: number, milliseconds: number): void
}

/** Independent streams of renders: each has at most one under way, and only its newest wish waits. */
export type RenderLane = 'after' | 'before'
type Lane = RenderLane | 'beads' | 'strip' | 'times'

type Wish = Omit<RenderRequest, 'id'>
type BeadWish = { readonly path: string; readonly steps: readonly Step[] }

/** The page's side of the bench worker. */
export class BenchClient {
  private readonly worker: Worker
  private readonly lowerPart: Worker | undefined
  private readonly busy = new Map<Lane, number>()
  private readonly waiting = new Map<Lane, () => void>()
  private readonly laneOf = new Map<number, Lane>()
  private nextId = 1

  constructor(private readonly listeners: BenchListeners) {
    this.worker = new Worker(new URL('./bench-worker.ts', import.meta.url), { type: 'module' })
    this.worker.onmessage = ({ data }: MessageEvent<FromBenchWorker>) => this.take(data)
    this.lowerPart = navigator.hardwareConcurrency > 1 ? this.startLowerPart() : undefined
  }

  open(path: string): void {
    this.worker.postMessage({ type: 'open', path })
  }

  /** @returns the number of the picture that is to come, unless a newer wish takes its place */
  render(lane: RenderLane, wish: Wish): number {
    return this.enqueue(lane, (id) => this.worker.postMessage({ type: 'render', request: { ...wish, id } }))
  }

  /** A view that nothing shows or will show: its memory serves again. */
  giveBack({ path, pixels: { buffer } }: RenderedView): void {
    this.worker.postMessage({ type: 'recycle', path, buffer }, [buffer])
  }

  beads(wish: BeadWish): void {
    this.enqueue('beads', (id) => this.worker.postMessage({ type: 'beads', id, ...wish }))
  }

  strip(wish: Omit<StripRequest, 'id'>): void {
    this.enqueue('strip', (id) => this.worker.postMessage({ type: 'strip', request: { ...wish, id } }))
  }

  /** @returns the number of the answer that is to come */
  times(wish: Omit<TimesRequest, 'id'>): number {
    return this.enqueue('times', (id) => this.worker.postMessage({ type: 'times', request: { ...wish, id } }))
  }

  close(): void {
    this.worker.terminate()
    this.lowerPart?.terminate()
  }

  private startLowerPart(): Worker {
    const lowerPart = new Worker(new URL('./lower-part-worker.ts', import.meta.url), { type: 'module' })
    const { port1, port2 } = new MessageChannel()
    lowerPart.postMessage(port1, [port1])
    this.worker.postMessage({ type: 'lowerPart', port: port2 }, [port2])
    return lowerPart
  }

  private enqueue(lane: Lane, send: (id: number) => void): number {
    const id = this.nextId++
    const start = (): void => {
      this.busy.set(lane, id)
      this.laneOf.set(id, lane)
      send(id)
    }
    if (this.busy.has(lane)) this.waiting.set(lane, start)
    else start()
    return id
  }

  private take(message: FromBenchWorker): void {
    switch (message.type) {
      case 'opened':
        this.listeners.opened(message)
        return
      case 'failed':
        if (message.id !== null) this.settle(message.id)
        this.listeners.failed(message)
        return
      case 'rendered': {
        const lane = this.settle(message.view.id)
        if (lane === 'after' || lane === 'before') this.listeners.rendered(lane, message.view)
        return
      }
      case 'strip':
        this.settle(message.id)
        this.listeners.strip(message.pictures)
        return
      case 'times':
        this.settle(message.id)
        this.listeners.times(message.id, message.milliseconds)
        return
      case 'beads':
        this.settle(message.id)
        this.listeners.beads(message.pictures)
        return
    }
  }

  private settle(id: number): Lane | undefined {
    const lane = this.laneOf.get(id)
    this.laneOf.delete(id)
    if (!lane) return undefined
    this.busy.delete(lane)
    const next = this.waiting.get(lane)
    this.waiting.delete(lane)
    next?.()
    return lane
  }
}

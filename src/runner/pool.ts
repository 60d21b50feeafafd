import { Child, ChildLostError, type ChildOptions } from '@/processes/child'
import type { PictureJob, PictureOutcome } from './messages'

export interface PoolOptions extends ChildOptions {
  readonly size: number
  /** A picture that takes longer is taken for hanging, and its worker is replaced. */
  readonly patienceMs: number
}

/** A worker that can't start is tried again after this long, doubled each time up to the most. */
const firstPauseMs = 200
const maxPauseMs = 30_000
/** After this many failed starts in a row the pool gives up: it is no accident. */
const failuresToTell = 3

/** A worker that died or hung with a picture in its hands. */
export { ChildLostError as WorkerLostError }

export interface PoolEvents {
  /** A worker has become free. */
  onFree(): void
  /** A worker could not be started; how often in a row by now, and when it is tried again. */
  onFailedStart?(failures: number, nextTryMs: number): void
}

/** Keeps `size` worker processes alive; each does one picture at a time. A worker that dies or hangs is replaced. */
export class WorkerPool {
  private readonly idle: Child[] = []
  private readonly all = new Set<Child>()
  private closed = false
  private size: number
  private failures = 0
  private starting = 0
  private timer: NodeJS.Timeout | undefined

  constructor(
    private readonly options: PoolOptions,
    private readonly events: PoolEvents,
  ) {
    this.size = options.size
    this.fill()
  }

  /** Keeps another number of workers from now on; those too many end once their picture is finished. */
  resize(size: number): void {
    if (this.closed || size === this.size) return
    this.size = size
    while (this.idle.length > 0 && this.all.size > this.size) this.idle.pop()?.giveUp()
    this.fill()
  }

  get freeCount(): number {
    return this.idle.length
  }

  /** What keeps the pool from working, in words; null while it works. */
  get trouble(): string | null {
    return this.failures >= failuresToTell && this.all.size === this.starting
      ? 'The processes that work on pictures can’t be started. Its log says why; starting Copper Loop anew builds what is missing.'
      : null
  }

  /**
   * Runs one picture on a free worker.
   * @param mayPlace asked before each file that it places
   * @throws WorkerLostError when the worker died or took longer than the patience allows
   */
  run(job: PictureJob, mayPlace?: () => Promise<boolean>): Promise<PictureOutcome> {
    const worker = this.idle.pop()
    if (!worker) throw new Error('No worker is free')
    const work = worker.run(job, { patienceMs: this.options.patienceMs, mayGoOn: mayPlace }) as Promise<PictureOutcome>
    return work.finally(() => this.free(worker))
  }

  close(): void {
    this.closed = true
    clearTimeout(this.timer)
    for (const worker of [...this.all]) worker.giveUp()
  }

  private fill(): void {
    for (let i = this.all.size; i < this.size; i++) this.start()
  }

  private start(): void {
    this.starting++
    const worker: Child = new Child(
      this.options,
      (isReady) => {
        this.starting--
        if (isReady) {
          this.failures = 0
          this.free(worker)
        } else {
          this.all.delete(worker)
          this.startLater()
        }
      },
      () => this.lose(worker),
    )
    this.all.add(worker)
  }

  /** After a start that failed, with ever longer pauses. */
  private startLater(): void {
    if (this.closed || this.timer) return
    this.failures++
    const pauseMs = Math.min(maxPauseMs, firstPauseMs * 2 ** (this.failures - 1))
    this.events.onFailedStart?.(this.failures, pauseMs)
    this.timer = setTimeout(() => {
      this.timer = undefined
      if (!this.closed) this.fill()
    }, pauseMs)
  }

  private free(worker: Child): void {
    if (this.closed || worker.isLost || !this.all.has(worker)) return
    if (this.all.size > this.size) worker.giveUp()
    else {
      this.idle.push(worker)
      this.events.onFree()
    }
  }

  private lose(worker: Child): void {
    this.all.delete(worker)
    const index = this.idle.indexOf(worker)
    if (index >= 0) this.idle.splice(index, 1)
    if (!this.closed) this.fill()
  }
}

import { Worker } from 'node:worker_threads'
import type { FromWorker, PictureJob, PictureOutcome, ToWorker } from './messages'
import type { AssetFolders } from './process-picture'

export interface PoolOptions {
  readonly workerPath: string
  readonly kernelsPath: string
  readonly folders: AssetFolders
  readonly size: number
  /** A picture that takes longer is taken for hanging, and its worker is replaced. */
  readonly patienceMs: number
}

/** A worker that can't even start would otherwise be started again without a breath. */
const restartPauseMs = 200

/** Objects of one worker; pixels lie outside. One that wants more ends, and nothing else does. */
const mostHeapMb = 512

/** A worker that died or hung with a picture in its hands. */
export class WorkerLostError extends Error {
  override readonly name = 'WorkerLostError'
}

/** Keeps `size` worker threads alive; each does one picture at a time. A worker that dies is replaced. */
export class WorkerPool {
  private readonly idle: Worker[] = []
  private readonly all = new Set<Worker>()
  private closed = false
  private size: number

  constructor(
    private readonly options: PoolOptions,
    /** Called whenever a worker has become free. */
    private readonly onFree: () => void,
  ) {
    this.size = options.size
    for (let i = 0; i < this.size; i++) this.start()
  }

  /** Keeps another number of workers from now on; those too many end once their picture is finished. */
  resize(size: number): void {
    if (this.closed || size === this.size) return
    this.size = size
    while (this.idle.length > 0 && this.all.size > this.size) this.retire(this.idle.pop() as Worker)
    for (let i = this.all.size; i < this.size; i++) this.start()
  }

  get freeCount(): number {
    return this.idle.length
  }

  /**
   * Runs one picture on a free worker.
   * @throws WorkerLostError when the worker died or took longer than the patience allows
   */
  run(job: PictureJob): Promise<PictureOutcome> {
    const worker = this.idle.pop()
    if (!worker) throw new Error('No worker is free')
    return new Promise((resolve, reject) => {
      const lost = (reason: string): void => {
        settle()
        this.replace(worker)
        reject(new WorkerLostError(reason))
      }
      const onMessage = (message: FromWorker): void => {
        if (message.type !== 'outcome' || message.itemId !== job.itemId) return
        settle()
        this.free(worker)
        resolve(message.outcome)
      }
      const onExit = (code: number): void => lost(`it ended with code ${code}`)
      const onError = (error: Error): void => lost(error.message)
      const timer = setTimeout(() => lost(`no answer within ${Math.round(this.options.patienceMs / 1000)} s`), this.options.patienceMs)
      const settle = (): void => {
        clearTimeout(timer)
        worker.off('message', onMessage).off('exit', onExit).off('error', onError)
      }
      worker.on('message', onMessage).on('exit', onExit).on('error', onError)
      worker.postMessage({ type: 'picture', job } satisfies ToWorker)
    })
  }

  async close(): Promise<void> {
    this.closed = true
    await Promise.all([...this.all].map((worker) => worker.terminate()))
  }

  private start(): void {
    const worker = new Worker(this.options.workerPath, {
      workerData: { kernelsPath: this.options.kernelsPath, folders: this.options.folders },
      resourceLimits: { maxOldGenerationSizeMb: mostHeapMb },
    })
    this.all.add(worker)
    // Without a listener of its own an error would end the whole runner.
    worker.on('error', () => this.replace(worker))
    worker.once('message', () => this.free(worker))
  }

  private free(worker: Worker): void {
    if (this.closed || !this.all.has(worker)) return
    if (this.all.size > this.size) this.retire(worker)
    else {
      this.idle.push(worker)
      this.onFree()
    }
  }

  private retire(worker: Worker): void {
    this.all.delete(worker)
    void worker.terminate()
  }

  private replace(worker: Worker): void {
    if (!this.all.delete(worker)) return
    const index = this.idle.indexOf(worker)
    if (index >= 0) this.idle.splice(index, 1)
    void worker.terminate()
    setTimeout(() => {
      if (!this.closed && this.all.size < this.size) this.start()
    }, restartPauseMs)
  }
}

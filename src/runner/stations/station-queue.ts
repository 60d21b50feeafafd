import { type ErrorReport, reasonOf, reportOf } from '@/base/errors'
import type { PictureOutcome } from '../messages'
import type { Claim, WorkQueue } from '../queue'
import type { SharedFolders } from './folders'
import type { StationKeptFiles } from './kept-files'

export interface StationQueueOptions {
  readonly folders: SharedFolders
  readonly kept: Pick<StationKeptFiles, 'ensure'>
  /** Why no picture should be taken now, in words, the folders among it; null for nothing. */
  readonly trouble: () => string | null
  /** Whether all shared folders are there and the right ones: asked of the disk. */
  readonly foldersThere: () => Promise<boolean>
  /** Something keeps this station from working for a while. */
  readonly onTrouble: (trouble: string) => void
}

export const foldersGone = 'A shared folder is not there, or is another one than the main machine’s. Its disk may not be mounted here.'

/**
 * What a station does about its pictures beside working on them: paths become its own and back, kept files are fetched
 * first, and what was done while a shared folder was missing here does not count, since it is the station's own fault.
 */
export class StationQueue implements WorkQueue {
  /** Claims as the inner queue knows them, by those that were given out. */
  private readonly inner = new Map<Claim, Claim>()
  private done = 0

  constructor(
    private readonly queue: WorkQueue,
    private readonly options: StationQueueOptions,
  ) {}

  /** Pictures in hand, and those answered since the station began. */
  get counts(): { readonly busy: number; readonly done: number } {
    return { busy: this.inner.size, done: this.done }
  }

  async claim(): Promise<Claim | undefined> {
    if (this.options.trouble() !== null) return undefined
    const claim = await this.queue.claim()
    if (!claim) return undefined
    const trouble = await this.unready(claim)
    if (trouble !== undefined) {
      await this.queue.putBack(claim)
      this.options.onTrouble(trouble)
      return undefined
    }
    return this.moved(claim)
  }

  /** Why a picture can't be begun here now. */
  private async unready({ task }: Claim): Promise<string | undefined> {
    try {
      await this.options.kept.ensure(task.steps)
      return undefined
    } catch (error) {
      return `A file kept with a macro could not be fetched from the main machine (${reasonOf(error)}).`
    }
  }

  private async moved(claim: Claim): Promise<Claim | undefined> {
    try {
      const here = { ...claim, task: this.options.folders.taskHere(claim.task) }
      this.inner.set(here, claim)
      return here
    } catch (error) {
      await this.queue.finish(claim, { state: 'failed', milliseconds: 0, error: reportOf(error), delivered: [] })
      return this.claim()
    }
  }

  async holds(claim: Claim): Promise<boolean> {
    // Asked just before a file is placed: a disk that has gone away leaves an empty folder behind, which must stay empty.
    if (!(await this.options.foldersThere())) return false
    const inner = this.inner.get(claim)
    return inner !== undefined && this.queue.holds(inner)
  }

  finish(claim: Claim, outcome: PictureOutcome): Promise<void> {
    return this.answer(claim, (inner) => this.queue.finish(inner, this.options.folders.outcomeThere(outcome)))
  }

  holdUp(claim: Claim, reason: ErrorReport): Promise<void> {
    return this.answer(claim, (inner) => this.queue.holdUp(inner, this.options.folders.reportThere(reason)))
  }

  async giveBack(claim: Claim): Promise<void> {
    const inner = this.taken(claim)
    if (inner) await this.queue.giveBack(inner)
  }

  async putBack(claim: Claim): Promise<void> {
    const inner = this.taken(claim)
    if (inner) await this.queue.putBack(inner)
  }

  /** Puts back all that is in hand: the station ends now. */
  async putBackAll(): Promise<void> {
    await Promise.allSettled([...this.inner.keys()].map((claim) => this.putBack(claim)))
  }

  private async answer(claim: Claim, give: (inner: Claim) => Promise<void>): Promise<void> {
    const isSound = await this.options.foldersThere()
    const inner = this.taken(claim)
    if (!inner) return
    if (!isSound) {
      this.options.onTrouble(foldersGone)
      return this.queue.putBack(inner)
    }
    this.done++
    return give(inner)
  }

  private taken(claim: Claim): Claim | undefined {
    const inner = this.inner.get(claim)
    this.inner.delete(claim)
    return inner
  }

  tend(trouble: string | null): Promise<void> {
    return this.queue.tend(trouble)
  }

  leave(): Promise<void> {
    return this.queue.leave()
  }
}

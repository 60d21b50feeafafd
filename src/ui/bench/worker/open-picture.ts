import type { FetchedPicture } from './loading'
import type { PictureSession } from './session'

/** Long edge of the copy that stands for a raw file: more than a stage shows of it. */
const copyEdge = 2048

export interface Opening {
  /** Whether its decoder takes so long that a copy is worth it. */
  readonly isRaw: boolean
  fetch(edge?: number): Promise<FetchedPicture>
  begin(fetched: FetchedPicture): Promise<PictureSession>
  /** A raw file that is seen in a copy is told twice: when that is there, and when the whole is. */
  opened(fetched: FetchedPicture, isWhole: boolean): void
  /** The whole can't be read although its copy is there. Otherwise whoever asked for it hears of it. */
  failed(error: unknown): void
}

/**
 * A picture that was asked for. A raw file takes its decoder seconds, a smaller copy half of that, and none once the server has made it: until
 * the whole is there, the copy is drawn wherever the picture is fitted.
 */
export class OpenPicture {
  private readonly whole: Promise<PictureSession>
  private first: Promise<PictureSession> | undefined
  private newest: PictureSession | undefined
  private settled = false

  constructor(private readonly opening: Opening) {
    this.whole = this.begin(opening.fetch(), true)
    this.whole.catch((error) => {
      this.settled = true
      if (this.newest) opening.failed(error)
    })
  }

  /** Nothing better is to come: the whole is there, or can't be read. */
  get isSettled(): boolean {
    return this.settled
  }

  /** For true pixels. @throws AppError as reading the file does */
  forTruth(): Promise<PictureSession> {
    return this.whole
  }

  /** For a fitted picture. @throws AppError as reading the file does */
  forLooking(): Promise<PictureSession> {
    if (this.settled || !this.opening.isRaw) return this.whole
    // Where the copy fails, the whole tells why.
    this.first ??= Promise.any([this.begin(this.copy(), false), this.whole]).catch(() => this.whole)
    return this.first
  }

  /** Takes back the pixels of a view that is not needed any more. */
  giveBack(buffer: ArrayBuffer): void {
    this.newest?.giveBack(buffer)
  }

  private async copy(): Promise<FetchedPicture> {
    const { source, facts } = await this.opening.fetch(copyEdge)
    return { source: { ...source, fullSize: facts.size }, facts }
  }

  private async begin(fetching: Promise<FetchedPicture>, isWhole: boolean): Promise<PictureSession> {
    const fetched = await fetching
    const session = await this.opening.begin(fetched)
    // The whole has overtaken its copy, or can't be read.
    if (this.settled) return this.whole
    this.settled = isWhole
    if (isWhole) this.first = this.whole
    this.newest = session
    this.opening.opened(fetched, isWhole)
    return session
  }
}

import type { Size } from '@/base/geometry'
import type { Step } from '@/macros/step'
import { Painter } from './painter'
import type { BenchView } from './store'
import { densityFor, followers, judgeOfPace } from './while-held'
import { BenchClient, type BenchListeners, type RenderLane } from './worker/client'
import type { BeadPicture, RenderedView, StripPicture, StripRequest, View } from './worker/protocol'

export interface StagePictures {
  /** After the steps, or after the step that is looked at. */
  readonly after: RenderedView | null
  /** The same part of the picture with nothing but the steps that shape it. */
  readonly before: RenderedView | null
  /** By step id; the source under `source`. */
  readonly beads: ReadonlyMap<string, BeadPicture>
  /** The cells of a test strip, in the order they were asked for. */
  readonly strip: readonly StripPicture[]
  /** What the whole picture takes with none of the steps, with the first, with the first two …: as many as are known. */
  readonly times: readonly number[]
  /** Why the newest picture could not be made, in words. */
  readonly problem: string | null
}

export const nothingShown: StagePictures = { after: null, before: null, beads: new Map(), strip: [], times: [], problem: null }

/** The same part of the picture with different settings. */
export type StripWish = Omit<StripRequest, 'id' | 'path'>

/** What the stage is to show. */
export interface Wanted {
  readonly path: string
  /** Where the picture has to fit, in page pixels. */
  readonly room: Size
  readonly view: BenchView
  /** Steps up to where the picture is looked at. */
  readonly steps: readonly Step[]
  /** Those that shape it: the picture before is shown with them alone. */
  readonly shaping: readonly Step[]
  /** Index of the step in hand. */
  readonly focus: number
  /** Also draws where the step in hand applies. */
  readonly mask: boolean
  /** A control is held: the picture has to follow the pointer. */
  readonly isHeld: boolean
}

/** What the flow asks of the page, and tells it. */
export interface StagePage {
  /** Answers for a picture that was taken off the bench meanwhile are late. */
  isOnBench(path: string): boolean
  /** A control is held now. */
  isHeld(): boolean
  /** Something is laid over the picture that has to follow it: then it is not painted ahead of the page. */
  hasLayers(view: RenderedView): boolean
  opened: BenchListeners['opened']
  /** A picture can't be opened at all. */
  refused(path: string, sentence: string): void
  changed(part: Partial<StagePictures>): void
}

/** Steps that are timed, as far as that is done. */
interface Timed {
  readonly path: string
  readonly steps: readonly Step[]
  readonly times: readonly number[]
  /** Of the answer that is waited for. */
  readonly id: number
}

/**
 * The bench's way from what is wanted to what is painted: owns the worker, what each lane was asked for last, how long pictures
 * take, and the canvases. Requests are made here and nowhere else. The page says what it wants and hears what there is.
 */
export class StageFlow {
  readonly painter = new Painter()
  private readonly client: BenchClient
  private readonly follow: ReturnType<typeof followers>
  private readonly judge = judgeOfPace()
  /** How long the picture takes at the screen's full resolution, in milliseconds. */
  private restMs = 0
  /** What each lane was asked for last: the same is not asked for twice. */
  private readonly asked = new Map<RenderLane | 'beads', string>()
  private wanted: Wanted | undefined
  private wire: { readonly path: string; readonly steps: readonly Step[] } | undefined
  private timed: Timed | undefined
  /** What is shown of the picture comes from a copy. */
  private showsCopy = false

  constructor(private readonly page: StagePage) {
    this.client = new BenchClient({
      opened: (message) => {
        if (!this.page.isOnBench(message.path)) return
        this.page.opened(message)
        if (message.isWhole && this.showsCopy) this.askAgain()
        this.showsCopy = !message.isWhole
      },
      failed: ({ path, isOpen, sentence }) => {
        if (!this.page.isOnBench(path)) return
        // What was shown stays where only this one could not be made.
        if (isOpen) this.page.changed({ problem: sentence })
        else this.page.refused(path, sentence)
      },
      rendered: (lane, view) => this.take(lane, view),
      beads: (list) => this.page.changed({ beads: new Map(list.map((picture) => [picture.stepId, picture])) }),
      strip: (strip) => this.page.changed({ strip }),
      times: (id, milliseconds) => this.takeTime(id, milliseconds),
    })
    this.follow = followers(
      (lane, view) => this.page.isOnBench(view.path) && this.page.changed({ [lane]: view }),
      (view) => this.client.giveBack(view),
    )
  }

  open(path: string): void {
    this.asked.clear()
    this.timed = undefined
    this.wire = undefined
    this.showsCopy = false
    this.page.changed(nothingShown)
    this.client.open(path)
  }

  /** Asks for what is wanted now, where it differs from what was asked for. */
  want(wanted: Wanted): void {
    this.wanted = wanted
    this.ask('after', wanted.steps)
    this.ask('before', wanted.shaping)
  }

  /** The next values of a control that is held go to the worker at once; what else is wanted follows with the page. */
  hold(steps: readonly Step[]): void {
    this.ask('after', steps)
  }

  beads(path: string, steps: readonly Step[]): void {
    this.wire = { path, steps }
    if (this.isNew('beads', { path, steps })) this.client.beads({ path, steps })
  }

  strip(path: string, wish: StripWish): void {
    this.page.changed({ strip: [] })
    this.client.strip({ path, ...wish })
  }

  /** Times the picture with more and more of the steps: one at a time, so that whatever else is wanted comes between. */
  times(path: string, steps: readonly Step[]): void {
    this.page.changed({ times: [] })
    this.timed = { path, steps, times: [], id: this.client.times({ path, steps, count: 0 }) }
  }

  stopTiming(): void {
    this.timed = undefined
    this.page.changed({ times: [] })
  }

  close(): void {
    this.client.close()
  }

  /** Now that the picture's own pixels are there. True pixels have waited for them; while a control is held, the next picture shows them. */
  private askAgain(): void {
    const { wanted, wire } = this
    if (wanted?.view.kind === 'fit') {
      this.asked.delete('after')
      this.asked.delete('before')
      if (!this.page.isHeld()) this.want(wanted)
    }
    this.asked.delete('beads')
    if (wire) this.beads(wire.path, wire.steps)
  }

  /** The one place where pictures are asked for. */
  private ask(lane: RenderLane, steps: readonly Step[]): void {
    const { wanted } = this
    if (!wanted || wanted.room.width <= 1) return
    const { path, focus, mask, isHeld } = wanted
    const view = viewFor(wanted.view, wanted.room)
    const wish =
      lane === 'after'
        ? { path, steps, focus, view, heldDensity: isHeld ? densityFor(this.restMs) : undefined, histogram: true, mask }
        : { path, steps, focus: steps.length, view, histogram: false }
    if (this.isNew(lane, wish)) this.painter.awaits(lane, this.client.render(lane, wish))
  }

  private isNew(lane: RenderLane | 'beads', wish: unknown): boolean {
    const said = JSON.stringify(wish)
    if (this.asked.get(lane) === said) return false
    this.asked.set(lane, said)
    return true
  }

  private takeTime(id: number, milliseconds: number): void {
    const { timed } = this
    if (!timed || timed.id !== id || !this.page.isOnBench(timed.path)) return
    const { path, steps } = timed
    const times = [...timed.times, milliseconds]
    const next = times.length <= steps.length ? this.client.times({ path, steps, count: times.length }) : id
    this.timed = { path, steps, times, id: next }
    this.page.changed({ times })
  }

  private take(lane: RenderLane, view: RenderedView): void {
    if (!this.page.isOnBench(view.path)) return
    this.page.changed({ problem: null })
    const isHeld = this.page.isHeld()
    const isPainted = isHeld && this.painter.paintNow(lane, view)
    this.follow(lane, view, isPainted && !this.page.hasLayers(view))
    if (lane === 'after') this.restMs = this.judge(this.restMs, view, isHeld)
  }
}

function viewFor(view: BenchView, room: Size): View {
  const [widthPx, heightPx] = [room.width * devicePixelRatio, room.height * devicePixelRatio]
  return view.kind === 'fit'
    ? { kind: 'fit', widthPx, heightPx }
    : { kind: 'region', centreX: view.centreX, centreY: view.centreY, widthPx: widthPx / view.zoom, heightPx: heightPx / view.zoom }
}

import type { RenderLane } from './worker/client'
import type { RenderedView } from './worker/protocol'

/** A canvas, and what is known of it. */
interface Painted {
  readonly canvas: HTMLCanvasElement
  /** Number of the picture that is drawn on it; 0 for none. */
  shown: number
  /** The space that picture takes on the page. */
  space: string
}

/** A whole picture takes the same space however sharply it is drawn; a part of one is drawn pixel by pixel. */
const spaceOf = ({ rect, fullSize, size }: RenderedView): string =>
  rect.width === fullSize.width && rect.height === fullSize.height
    ? `${fullSize.width} × ${fullSize.height}`
    : `part of ${size.width} × ${size.height}`

/**
 * The way from the worker's answer to the screen: knows each lane's canvas, what it was asked for and what is drawn on it. While a
 * control is held every picture is drawn as soon as it is there; the rest of the page follows when it has time. A picture that
 * needs another space on the page waits for the page to make it.
 */
export class Painter {
  private readonly canvases = new Map<RenderLane, Painted>()
  /** The newest picture that each lane was asked for. */
  private readonly awaited = new Map<RenderLane, number>()

  /** Names the canvas that a lane's pictures are drawn on. @returns what takes the name away again */
  attach(lane: RenderLane, canvas: HTMLCanvasElement): () => void {
    const painted: Painted = { canvas, shown: 0, space: '' }
    this.canvases.set(lane, painted)
    this.tellWhetherBusy(lane)
    return () => {
      if (this.canvases.get(lane) === painted) this.canvases.delete(lane)
    }
  }

  /** A lane's canvas is busy from now until this picture, or a newer one, is drawn on it. */
  awaits(lane: RenderLane, id: number): void {
    this.awaited.set(lane, id)
    this.tellWhetherBusy(lane)
  }

  /** Draws a picture where it belongs, if there is space for it already. @returns whether it did */
  paintNow(lane: RenderLane, view: RenderedView): boolean {
    if (this.canvases.get(lane)?.space !== spaceOf(view)) return false
    this.paint(lane, view)
    return true
  }

  /** Draws a picture on its lane's canvas unless it, or a newer one, is there already. */
  paint(lane: RenderLane, view: RenderedView): void {
    const painted = this.canvases.get(lane)
    if (!painted || painted.shown >= view.id) return
    draw(painted.canvas, view)
    painted.shown = view.id
    painted.space = spaceOf(view)
    this.tellWhetherBusy(lane)
  }

  /** Says at the canvas which picture it shows, and whether another is on its way: for whoever waits for it. */
  private tellWhetherBusy(lane: RenderLane): void {
    const painted = this.canvases.get(lane)
    if (!painted) return
    if (painted.shown > 0) painted.canvas.dataset.render = String(painted.shown)
    painted.canvas.ariaBusy = String(painted.shown < (this.awaited.get(lane) ?? 0))
  }
}

/** Draws a picture on a canvas of its size. */
export function draw(canvas: HTMLCanvasElement, { size, pixels }: RenderedView): void {
  if (canvas.width !== size.width || canvas.height !== size.height) {
    canvas.width = size.width
    canvas.height = size.height
  }
  canvas.getContext('2d', { alpha: false })?.putImageData(new ImageData(pixels, size.width, size.height), 0, 0)
}

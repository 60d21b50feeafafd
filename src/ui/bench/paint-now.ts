import type { RenderLane } from './worker/client'
import type { RenderedView } from './worker/protocol'

/*
 * A short way from the worker's answer to the screen. While a control is held every picture is drawn as soon as it is there; the rest of
 * the page follows when it has time. A picture that needs another room on the page waits for the page to make it.
 */

const canvases = new Map<RenderLane, HTMLCanvasElement>()
/** The newest picture that each lane was asked for. */
const awaited = new Map<RenderLane, number>()

/** Names the canvas that a lane's pictures are drawn on. @returns what takes the name away again */
export function paintsOn(lane: RenderLane, canvas: HTMLCanvasElement): () => void {
  canvases.set(lane, canvas)
  tellWhetherBusy(canvas, awaited.get(lane))
  return () => {
    if (canvases.get(lane) === canvas) canvases.delete(lane)
  }
}

/** A lane's canvas is busy from now until this picture, or a newer one, is drawn on it. */
export function awaits(lane: RenderLane, id: number): void {
  awaited.set(lane, id)
  const canvas = canvases.get(lane)
  if (canvas) tellWhetherBusy(canvas, id)
}

function tellWhetherBusy(canvas: HTMLCanvasElement, id = Number(canvas.dataset.awaited ?? 0)): void {
  canvas.dataset.awaited = String(id)
  canvas.ariaBusy = String(Number(canvas.dataset.render ?? 0) < id)
}

const rooms = new WeakMap<HTMLCanvasElement, string>()

/** A whole picture takes the same room however sharply it is drawn; a part of one is drawn pixel by pixel. */
const roomOf = ({ rect, fullSize, size }: RenderedView): string =>
  rect.width === fullSize.width && rect.height === fullSize.height
    ? `${fullSize.width} × ${fullSize.height}`
    : `part of ${size.width} × ${size.height}`

/** Draws a picture where it belongs, if there is room for it already. @returns whether it did */
export function paintNow(lane: RenderLane, view: RenderedView): boolean {
  const canvas = canvases.get(lane)
  if (!canvas || rooms.get(canvas) !== roomOf(view)) return false
  draw(canvas, view)
  return true
}

/** Draws a picture unless it, or a newer one, is there already, and sizes the canvas for it. */
export function draw(canvas: HTMLCanvasElement, view: RenderedView): void {
  const { id, size, pixels } = view
  if (Number(canvas.dataset.render ?? 0) >= id) return
  if (canvas.width !== size.width || canvas.height !== size.height) {
    canvas.width = size.width
    canvas.height = size.height
  }
  canvas.getContext('2d', { alpha: false })?.putImageData(new ImageData(pixels, size.width, size.height), 0, 0)
  canvas.dataset.render = String(id)
  rooms.set(canvas, roomOf(view))
  tellWhetherBusy(canvas)
}

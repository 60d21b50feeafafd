import type { RenderLane } from './worker/client'
import type { RenderedView } from './worker/protocol'

/*
 * A short way from the worker's answer to the screen. While a control is held every picture is drawn as soon as it is there; the rest of
 * the page follows when it has time. A picture of another size waits for the page, which has to make room for it.
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

/** Draws a picture where it belongs, if its canvas has its size already. @returns whether it did */
export function paintNow(lane: RenderLane, view: RenderedView): boolean {
  const canvas = canvases.get(lane)
  if (canvas?.width !== view.size.width || canvas.height !== view.size.height) return false
  draw(canvas, view)
  return true
}

/** Draws a picture unless it, or a newer one, is there already, and sizes the canvas for it. */
export function draw(canvas: HTMLCanvasElement, { id, size, pixels }: RenderedView): void {
  if (Number(canvas.dataset.render ?? 0) >= id) return
  if (canvas.width !== size.width || canvas.height !== size.height) {
    canvas.width = size.width
    canvas.height = size.height
  }
  canvas.getContext('2d', { alpha: false })?.putImageData(new ImageData(pixels, size.width, size.height), 0, 0)
  canvas.dataset.render = String(id)
  tellWhetherBusy(canvas)
}

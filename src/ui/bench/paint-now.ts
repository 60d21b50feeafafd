import type { RenderLane } from './worker/client'
import type { RenderedView } from './worker/protocol'

/*
 * A short way from the worker's answer to the screen. While a control is held every picture is drawn as soon as it is there; the rest of
 * the page follows when it has time. A picture of another size waits for the page, which has to make room for it.
 */

const canvases = new Map<RenderLane, HTMLCanvasElement>()

/** Names the canvas that a lane's pictures are drawn on. @returns what takes the name away again */
export function paintsOn(lane: RenderLane, canvas: HTMLCanvasElement): () => void {
  canvases.set(lane, canvas)
  return () => {
    if (canvases.get(lane) === canvas) canvases.delete(lane)
  }
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
}

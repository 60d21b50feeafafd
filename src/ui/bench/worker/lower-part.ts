import type { Kernels } from '@kernels/binding'
import type { Rect, Size } from '@/base/geometry'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { resolveSteps, type Sampler } from '@/engine/resolve'
import type { PlaneSource } from '@/engine/source'
import type { Subject } from '@/macros/condition'
import type { Step } from '@/macros/step'
import type { Constants } from '@/operations'
import type { Asset } from '@/pixels/kept-file'
import { BufferPool } from './buffer-pool'

/*
 * A fitted picture in two halves: the bench's thread draws the upper one, a thread beside it the lower one. That one has nothing but the
 * picture before the step in focus, and is told what the steps have found.
 */

/** How all pictures of the stage are drawn. */
export const screen = { space: 'srgb', channels: 4, dither: true } as const

/** What is to be done to the frame that was sent before. */
export interface LowerPartTask {
  readonly steps: readonly Step[]
  /** Full-size pixels before them. */
  readonly size: Size
  readonly subject?: Subject
  /** What resolving the steps gave, in order. */
  readonly constants: readonly Constants[]
  /** The part of the finished frame, in its own pixels. */
  readonly rect: Rect
}

export interface LowerPart {
  /** @returns interleaved RGBA of the task's part. @throws whatever goes wrong there */
  draw(frame: PlaneSource, task: LowerPartTask): Promise<Uint8ClampedArray<ArrayBuffer>>
  /** Takes back what it drew. */
  giveBack(pixels: Uint8ClampedArray<ArrayBuffer>): void
}

export type ToLowerPart =
  | { readonly type: 'frame'; readonly frame: PlaneSource }
  | { readonly type: 'draw'; readonly id: number; readonly task: LowerPartTask }
  /** Pixels that were drawn there and are not needed any more. */
  | { readonly type: 'recycle'; readonly buffer: ArrayBuffer }

export type FromLowerPart = { readonly id: number; readonly pixels: Uint8ClampedArray<ArrayBuffer> | null; readonly problem?: string }

/** Some steps need to see the picture even when all constants are known: those are drawn where it is. */
const blind: Sampler = {
  copy: () => {
    throw new Error('The picture itself is not here')
  },
}

export function drawLowerPart(
  kernels: Kernels,
  frame: PlaneSource,
  { steps, size, subject, constants, rect }: LowerPartTask,
  assets: ReadonlyMap<string, Asset>,
  pool = new BufferPool(),
): Uint8ClampedArray<ArrayBuffer> {
  const resolved = resolveSteps(steps, size, { sampler: blind, subject, assets, constants: constants.values() })
  const pixels = pool.take(rect.width * rect.height * screen.channels)
  return renderEncoded(kernels, planRender(frame, resolved, 'preview'), screen, rect, pixels)
}

type Answer = (answer: FromLowerPart) => void

/** After this time without an answer the thread is given up: it could not start, or the browser took it away. */
const patienceMs = 5000

/** The bench's side. A frame is sent once, however often it is drawn from. */
export class LowerPartClient implements LowerPart {
  private sent: PlaneSource | undefined
  private isGone = false
  private readonly waiting = new Map<number, Answer>()
  private nextId = 1

  constructor(private readonly port: MessagePort) {
    port.onmessage = ({ data }: MessageEvent<FromLowerPart>) => {
      this.waiting.get(data.id)?.(data)
      this.waiting.delete(data.id)
    }
  }

  draw(frame: PlaneSource, task: LowerPartTask): Promise<Uint8ClampedArray<ArrayBuffer>> {
    if (this.isGone) return Promise.reject(new Error('Nobody answers'))
    if (frame !== this.sent) this.post({ type: 'frame', frame })
    this.sent = frame
    const id = this.nextId++
    this.post({ type: 'draw', id, task })
    return new Promise((resolve, reject) => {
      const timer = setTimeout(() => {
        this.isGone = true
        reject(new Error('Nobody answers'))
      }, patienceMs)
      this.waiting.set(id, ({ pixels, problem }) => {
        clearTimeout(timer)
        if (pixels) resolve(pixels)
        else reject(new Error(problem))
      })
    })
  }

  giveBack({ buffer }: Uint8ClampedArray<ArrayBuffer>): void {
    this.post({ type: 'recycle', buffer }, [buffer])
  }

  private post(message: ToLowerPart, transfer: Transferable[] = []): void {
    this.port.postMessage(message, transfer)
  }
}

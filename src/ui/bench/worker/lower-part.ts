import type { Kernels } from '@kernels/binding'
import type { Rect, Size } from '@/base/geometry'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { type Eye, resolveSteps } from '@/engine/resolve'
import type { PlaneSource } from '@/engine/source'
import type { Subject } from '@/macros/condition'
import type { Step } from '@/macros/step'
import type { Constants } from '@/operations'
import type { Asset } from '@/pixels/kept-file'
import { Spare } from './buffer-pool'

/*
 * A fitted picture in two halves: the bench's thread draws the upper one, a thread beside it the lower one. That one has nothing but the
 * picture before the step in focus, and is told what the steps have found.
 */

/** How all pictures of the stage are drawn. */
export const screen = { space: 'srgb', channels: 4, dither: true } as const

/** What is to be done to the frame that was sent before. */
export interface HalfTask {
  readonly steps: readonly Step[]
  /** Full-size pixels before them. */
  readonly size: Size
  readonly subject?: Subject
  /** What resolving the steps gave, in order. */
  readonly constants: readonly Constants[]
  /** The part of the finished frame, in its own pixels. */
  readonly rect: Rect
}

export interface Half {
  /** @returns interleaved RGBA of the task's part. @throws whatever goes wrong there */
  draw(frame: PlaneSource, task: HalfTask): Promise<Uint8ClampedArray<ArrayBuffer>>
  /** Takes back what it drew. */
  giveBack(pixels: Uint8ClampedArray<ArrayBuffer>): void
}

export type ToHalf =
  | { readonly type: 'frame'; readonly frame: PlaneSource }
  | { readonly type: 'draw'; readonly id: number; readonly task: HalfTask }
  /** Pixels that were drawn there and are not needed any more. */
  | { readonly type: 'spare'; readonly buffer: ArrayBuffer }

export type FromHalf = { readonly id: number; readonly pixels: Uint8ClampedArray<ArrayBuffer> | null; readonly problem?: string }

/** Some steps need to see the picture even when all constants are known: those are drawn where it is. */
const blind: Eye = {
  look: () => {
    throw new Error('The picture itself is not here')
  },
}

export function drawHalf(
  kernels: Kernels,
  frame: PlaneSource,
  { steps, size, subject, constants, rect }: HalfTask,
  assets: ReadonlyMap<string, Asset>,
  spare = new Spare(),
): Uint8ClampedArray<ArrayBuffer> {
  const resolved = resolveSteps(steps, size, { eye: blind, subject, assets, constants: constants.values() })
  const pixels = spare.take(rect.width * rect.height * screen.channels)
  return renderEncoded(kernels, planRender(frame, resolved, 'preview'), screen, rect, pixels)
}

type Answer = (answer: FromHalf) => void

/** A thread that has not answered for so long never will: it could not start, or the browser took it away. */
const patienceMs = 5000

/** The bench's side. A frame is sent once, however often it is drawn from. */
export class HalfClient implements Half {
  private sent: PlaneSource | undefined
  private isGone = false
  private readonly waiting = new Map<number, Answer>()
  private nextId = 1

  constructor(private readonly port: MessagePort) {
    port.onmessage = ({ data }: MessageEvent<FromHalf>) => {
      this.waiting.get(data.id)?.(data)
      this.waiting.delete(data.id)
    }
  }

  draw(frame: PlaneSource, task: HalfTask): Promise<Uint8ClampedArray<ArrayBuffer>> {
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
    this.post({ type: 'spare', buffer }, [buffer])
  }

  private post(message: ToHalf, transfer: Transferable[] = []): void {
    this.port.postMessage(message, transfer)
  }
}

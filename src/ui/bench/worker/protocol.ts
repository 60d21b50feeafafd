import type { ErrorReport } from '@/base/errors'
import type { Rect, Size } from '@/base/geometry'
import type { Step } from '@/macros/step'
import type { PictureFacts } from '@/pixels/picture'

/** What part of the finished picture is wanted, and how large. Lengths in screen pixels. */
export type View =
  | { readonly kind: 'fit'; readonly widthPx: number; readonly heightPx: number }
  /** True output pixels around a point given as shares of the picture, 0–1. */
  | { readonly kind: 'region'; readonly centreX: number; readonly centreY: number; readonly widthPx: number; readonly heightPx: number }

export interface RenderRequest {
  readonly id: number
  readonly path: string
  readonly steps: readonly Step[]
  /** The picture before this step is kept, so that dragging the step's settings does not compute the earlier ones again. */
  readonly focus: number
  readonly view: View
  /**
   * A control is held: the picture has to follow the pointer. What treats colours alike wherever they stand is drawn by a palette;
   * anything else of a fitted picture at this share of the resolution.
   */
  readonly heldDensity?: number
  readonly histogram: boolean
  /** Also draws where the step in focus applies, if it has limits. */
  readonly mask?: boolean
}

/** Counts of the 256 codes: red, green, blue, one behind the other (768). */
export type Histogram = Uint32Array

/** Where a step applies: one byte a pixel of the picture before the step, which may be of another size than the one after it. */
export interface LimitMask {
  readonly values: Uint8Array<ArrayBuffer>
  readonly size: Size
}

export interface RenderedView {
  readonly id: number
  readonly path: string
  /** RGBA, opaque, sRGB. */
  readonly pixels: Uint8ClampedArray<ArrayBuffer>
  readonly size: Size
  /** The part of the finished picture that is shown, in its full-size pixels. */
  readonly rect: Rect
  readonly fullSize: Size
  /** Full-size pixels before the step in focus. */
  readonly sizeBeforeFocus: Size
  readonly histogram: { readonly before: Histogram; readonly after: Histogram } | null
  readonly clipped: { readonly shadowsPercent: number; readonly highlightsPercent: number }
  /** What resolving found, in words, by step. */
  readonly found: Readonly<Record<string, string>>
  /** What the operation in focus can take from the picture before it, if it takes anything. */
  readonly measured: readonly number[] | null
  /** Where the step in focus applies, on the same part of the picture. */
  readonly mask: LimitMask | null
  /** Steps that can't be shown, and why, in words: they are left out of this picture, and nothing else is. */
  readonly problems: Readonly<Record<string, string>>
  /** Box of the stamp in focus, in full-size pixels: x, y, width, height. */
  readonly place: readonly number[] | null
  /** Drawn by a palette: nearly the true picture, in the same time whatever the steps are. */
  readonly isQuick: boolean
  /** What rendering took, without the frame before the step in focus, which stays: what the next one will take. */
  readonly milliseconds: number
}

export interface BeadPicture {
  readonly stepId: string
  /** The step can't be shown: this is the picture before it. */
  readonly isBroken?: boolean
  readonly size: Size
  readonly pixels: Uint8ClampedArray<ArrayBuffer>
}

/** What the whole picture takes with the first `count` steps. */
export interface TimesRequest {
  readonly id: number
  readonly path: string
  readonly steps: readonly Step[]
  readonly count: number
}

/** The same true pixels with different settings. */
export interface StripRequest {
  readonly id: number
  readonly path: string
  readonly variants: readonly (readonly Step[])[]
  readonly focus: number
  readonly view: Extract<View, { kind: 'region' }>
}

export interface StripPicture {
  readonly size: Size
  readonly pixels: Uint8ClampedArray<ArrayBuffer>
}

export type ToBenchWorker =
  /** The thread that draws the other half of fitted pictures. Comes first, if it comes. */
  | { readonly type: 'lowerPart'; readonly port: MessagePort }
  | { readonly type: 'open'; readonly path: string }
  /** Pixels of a view that is not needed any more. */
  | { readonly type: 'recycle'; readonly path: string; readonly buffer: ArrayBuffer }
  | { readonly type: 'render'; readonly request: RenderRequest }
  | { readonly type: 'beads'; readonly id: number; readonly path: string; readonly steps: readonly Step[] }
  | { readonly type: 'strip'; readonly request: StripRequest }
  | { readonly type: 'times'; readonly request: TimesRequest }

export type FromBenchWorker =
  /** `isWhole`: its own pixels are there; otherwise a copy that stands for them, and it is told again when they are. */
  | {
      readonly type: 'opened'
      readonly path: string
      readonly fullSize: Size
      readonly facts: PictureFacts
      readonly isWhole: boolean
    }
  /** `id`: of what failed, if it has one. `isOpen`: the picture itself is there, and what failed can be asked again. */
  | {
      readonly type: 'failed'
      readonly id: number | null
      readonly isOpen: boolean
      readonly path: string
      readonly report: ErrorReport
      readonly sentence: string
    }
  | { readonly type: 'rendered'; readonly view: RenderedView }
  | { readonly type: 'strip'; readonly id: number; readonly path: string; readonly pictures: readonly StripPicture[] }
  | { readonly type: 'times'; readonly id: number; readonly path: string; readonly milliseconds: number }
  /** The source first, then one picture a step. */
  | { readonly type: 'beads'; readonly id: number; readonly path: string; readonly pictures: readonly BeadPicture[] }

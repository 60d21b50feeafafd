import type { Size } from '@/base/geometry'
import type { CameraColour } from '@/colour/camera'
import type { Curve } from '@/colour/curve'
import type { Matrix3 } from '@/colour/matrix'

/** What the numbers of a decoded file mean. Plain data, so that it travels with the pixels. */
export interface PixelColour {
  /** Encoded → linear, for red, green and blue. */
  readonly curves: readonly [Curve, Curve, Curve]
  /** Linear source RGB → linear working RGB. */
  readonly toWorking: Matrix3
}

/** A decoded picture: interleaved RGB integers, upright, at rest outside the kernels' memory. */
export interface InterleavedSource {
  readonly kind: 'interleaved'
  readonly size: Size
  /** Size of the picture that it stands for, where it is a smaller copy. */
  readonly fullSize?: Size
  readonly pixels: Uint8Array | Uint16Array
  readonly colour: PixelColour
  /** One opacity a pixel, at the pixels' depth; absent where everything is opaque. */
  readonly alpha?: Uint8Array | Uint16Array
}

/** What is known of a picture file without decoding it. */
export interface PictureFacts {
  /** Upright size: EXIF orientation applied. */
  readonly size: Size
  readonly format: string
  readonly bits: number
  readonly space: string
  readonly hasAlpha: boolean
  /** ISO 8601 local time, if the camera wrote one. */
  readonly taken?: string
  readonly iso?: number
  readonly camera?: string
  readonly lens?: string
  readonly title?: string
  readonly keywords?: readonly string[]
  /** The sensor's colours, of a raw file whose sensor has three. */
  readonly raw?: CameraColour
  /** Pictures in the file, where there are several; the first is taken. */
  readonly frames?: number
}

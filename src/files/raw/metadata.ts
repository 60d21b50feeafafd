import type { Size } from '@/base/geometry'
import type { CameraColour, CameraProfile } from '@/colour/camera'
import { invert, type Matrix3, matrix3, multiply, type Vector3 } from '@/colour/matrix'
import { colourSpaces, rgbToXyz } from '@/colour/spaces'

/** What of the decoder's metadata is used, in its own names. */
export interface RawMetadata {
  /** The part of the sensor that takes light, not turned. */
  readonly iwidth: number
  readonly iheight: number
  /** Bit 4: turned by 90°; 2: upside down; 1: mirrored. */
  readonly flip: number
  readonly camera_make: string
  readonly camera_model: string
  readonly iso_speed: number
  readonly shutter: number
  readonly aperture: number
  readonly focal_len: number
  /** Seconds since 1970, of the camera's own clock. */
  readonly timestamp: number
  readonly desc: string
  readonly artist: string
  readonly colors: number
  /** 0 for other files than DNG. */
  readonly dng_version: number
  /** What a DNG wants shown (DefaultCropOrigin, DefaultCropSize), not turned; 65535 for a place that it does not say. */
  readonly raw_inset_crops: readonly { readonly cleft: number; readonly ctop: number; readonly cwidth: number; readonly cheight: number }[]
  readonly pixel_aspect: number
  readonly lens: { readonly Lens: string; readonly LensMake: string }
  readonly color_data: {
    readonly cam_mul: readonly number[]
    readonly pre_mul: readonly number[]
    readonly rgb_cam: readonly (readonly number[])[]
    readonly cam_xyz: readonly (readonly number[])[]
    readonly dng_color: readonly {
      readonly illuminant: number
      readonly colormatrix: readonly (readonly number[])[]
      readonly forwardmatrix: readonly (readonly number[])[]
      readonly calibration: readonly (readonly number[])[]
    }[]
    readonly dng_levels: {
      readonly asshotneutral: readonly number[]
      readonly analogbalance: readonly number[]
      /** Stops; far below −100 where the file says none. */
      readonly baseline_exposure: number
    }
  }
}

/** Correlated colour temperatures of the lights that EXIF numbers (CIPA DC-008, LightSource), from memory. */
const lightSources: Readonly<Record<number, number>> = {
  1: 5500,
  2: 4150,
  3: 2850,
  4: 5500,
  9: 5500,
  10: 6500,
  11: 7500,
  12: 6400,
  13: 5050,
  14: 4150,
  15: 3525,
  16: 2925,
  17: 2856,
  18: 4874,
  19: 6774,
  20: 5503,
  21: 6504,
  22: 7504,
  23: 5003,
  24: 3200,
}

const daylightK = 6504

const isThere = (values: readonly number[]): boolean => values.length > 0 && values.every(Number.isFinite) && values.some((v) => v !== 0)

/** The upper left three rows and columns. */
const matrixOf = (rows: readonly (readonly number[])[]): Matrix3 | undefined => {
  const values = rows.slice(0, 3).flatMap((row) => row.slice(0, 3))
  return values.length === 9 && isThere(values) ? matrix3(values) : undefined
}

/** Gains of red, green and blue that make the camera's neutral grey; those of daylight where the camera wrote none. */
export function multipliersOf({ colors, color_data: { cam_mul, pre_mul, dng_levels } }: RawMetadata): Vector3 {
  if (colors === 1) return [1, 1, 1]
  const neutral = dng_levels.asshotneutral.slice(0, 3)
  const candidates = [neutral.map((value) => 1 / value), cam_mul, pre_mul]
  for (const [r = 0, g = 0, b = 0] of candidates)
    if ([r, b].every((gain) => Number.isFinite(gain) && gain > 0)) return [r, g > 0 ? g : 1, b]
  return [1, 1, 1]
}

/** The neutral that the gains belong to, its largest channel 1. */
function neutralOf(metadata: RawMetadata): Vector3 {
  const [r, g, b] = multipliersOf(metadata)
  const least = Math.min(r, g, b)
  return [least / r, least / g, least / b]
}

const isInvertible = (matrix: Matrix3): boolean => {
  try {
    invert(matrix)
    return true
  } catch {
    return false
  }
}

function dngProfiles({ dng_color, dng_levels }: RawMetadata['color_data']): CameraProfile[] {
  const balance = dng_levels.analogbalance.slice(0, 3)
  return dng_color.flatMap(({ illuminant, colormatrix, forwardmatrix, calibration }): CameraProfile[] => {
    const [matrix, own] = [matrixOf(colormatrix), matrixOf(calibration)]
    // One that is not named is daylight more often than not.
    const kelvin = lightSources[illuminant] ?? daylightK
    if (!matrix || !isInvertible(matrix)) return []
    const [r = 1, g = 1, b = 1] = isThere(balance) ? balance : []
    const analog: Matrix3 = [r, 0, 0, 0, g, 0, 0, 0, b]
    const whole = own && isInvertible(own) ? multiply(analog, own) : analog
    return [{ kelvin, matrix, forward: matrixOf(forwardmatrix), ...(isInvertible(whole) ? { calibration: whole } : {}) }]
  })
}

const srgbToXyz = rgbToXyz(colourSpaces.srgb)

/** The sensor's colours: from the file's own profiles, from the decoder's table of cameras, or undefined where it has no three channels. */
export function colourOf(metadata: RawMetadata): CameraColour | undefined {
  if (metadata.colors !== 3) return undefined
  const { color_data } = metadata
  const neutral = neutralOf(metadata)
  const own = dngProfiles(color_data)
  if (own.length > 0) return { neutral, profiles: own.slice(0, 2) }
  const known = matrixOf(color_data.cam_xyz)
  if (known && isInvertible(known)) return { neutral, profiles: [{ kelvin: daylightK, matrix: known }] }
  // Camera, balanced for daylight, to sRGB: what the decoder takes for a camera that it does not know.
  const balanced = matrixOf(color_data.rgb_cam)
  if (!balanced || !isInvertible(balanced)) return { neutral, profiles: [{ kelvin: daylightK, matrix: invert(srgbToXyz) }] }
  const [r = 1, g = 1, b = 1] = color_data.pre_mul
  const unbalance: Matrix3 = [1 / r, 0, 0, 0, 1 / g, 0, 0, 0, 1 / b]
  return { neutral, profiles: [{ kelvin: daylightK, matrix: multiply(unbalance, multiply(invert(balanced), invert(srgbToXyz))) }] }
}

/** What a DNG says of how much lighter it is meant (BaselineExposure, stops), as a gain. */
export function exposureGain({ color_data }: RawMetadata): number {
  const { baseline_exposure: stops } = color_data.dng_levels
  return Math.abs(stops) < 10 ? 2 ** stops : 1
}

/** The part of the sensor that a DNG wants shown, not turned, as left, top, width, height; null for all of it. */
export function cropOf({ iwidth, iheight, dng_version, raw_inset_crops }: RawMetadata): [number, number, number, number] | null {
  const { cleft, ctop, cwidth, cheight } = raw_inset_crops[0] ?? { cleft: 0, ctop: 0, cwidth: 0, cheight: 0 }
  const isWithin = cwidth > 0 && cheight > 0 && cleft + cwidth <= iwidth && ctop + cheight <= iheight
  return dng_version > 0 && isWithin && (cwidth < iwidth || cheight < iheight) ? [cleft, ctop, cwidth, cheight] : null
}

/** Upright size of the picture. */
export function sizeOf(metadata: RawMetadata): Size {
  const { pixel_aspect: aspect, flip } = metadata
  const [, , cropWidth, cropHeight] = cropOf(metadata) ?? [0, 0, metadata.iwidth, metadata.iheight]
  const width = aspect > 1 ? Math.round(cropWidth * aspect) : cropWidth
  const height = aspect > 0 && aspect < 1 ? Math.round(cropHeight / aspect) : cropHeight
  return (flip & 4) !== 0 ? { width: height, height: width } : { width, height }
}

import { invert, type Matrix3, multiply, type Vector3 } from '@/colour/matrix'
import { adaptWhite, colourSpaces, d65, rgbToRgb, rgbToXyz, workingSpace, xyzOfChromaticity } from '@/colour/spaces'
import type { PointPass } from '../declare/operation'

const toXyz = rgbToXyz(workingSpace)
const fromXyz = invert(toXyz)
const d65White = xyzOfChromaticity(d65)

/** The matrix on linear working RGB that makes `white` (XYZ, any luminance) what `to` is, the white of D65 unless said. */
export function balanceMatrix(white: Vector3, to: Vector3 = d65White): Matrix3 {
  const [from, towards] = [white, to].map(([x, y, z]): Vector3 => [x / y, 1, z / y]) as [Vector3, Vector3]
  return multiply(fromXyz, multiply(adaptWhite(from, towards), toXyz))
}

/** Most sources are sRGB: its channels tell where light was cut off. */
export const toSource = rgbToRgb(workingSpace, colourSpaces.srgb)
const fromSource = rgbToRgb(colourSpaces.srgb, workingSpace)
/** Linear value from which on a channel may be cut off, or pressed together by a camera's tone curve: code 242 of 255. */
const clippingBegins = 0.89

/** Another light for all colours; what was cut off stays white, and keeps its hue where one channel was. */
export const balancePass = (matrix: readonly number[]): PointPass => ({
  kernel: 'balanceKnown',
  parameters: [...matrix, ...toSource, ...fromSource, clippingBegins, 1 / (1 - clippingBegins)],
})

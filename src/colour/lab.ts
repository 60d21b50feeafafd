import { invert, type Matrix3, transform, type Vector3 } from './matrix'
import { adaptWhite, colourSpaces, d50Pcs, d65, rgbToXyz, xyzOfChromaticity } from './spaces'

/** CIE 15:2018, 8.2.1.1: the exact fractions behind 0.008856 and 903.3. */
const epsilon = 216 / 24389
const kappa = 24389 / 27

/** CIELAB of an XYZ under the given white (Y = 1). L 0–100. Source: CIE 15:2018, 8.2.1. */
export function xyzToLab(xyz: Vector3, white: Vector3): Vector3 {
  const f = (t: number): number => (t > epsilon ? Math.cbrt(t) : (kappa * t + 16) / 116)
  const [fx, fy, fz] = [f(xyz[0] / white[0]), f(xyz[1] / white[1]), f(xyz[2] / white[2])]
  return [116 * fy - 16, 500 * (fx - fy), 200 * (fy - fz)]
}

const srgbToXyzD65 = rgbToXyz(colourSpaces.srgb)
const d65White = xyzOfChromaticity(d65)
export const d65ToD50: Matrix3 = adaptWhite(d65White, d50Pcs)
export const d50ToD65: Matrix3 = invert(d65ToD50)

/** CIELAB (D50, as in ICC profiles) of an 8-bit sRGB colour. Each channel 0–255. */
export function srgb8ToLab(rgb: Vector3): Vector3 {
  const { decode } = colourSpaces.srgb.transfer
  const linear: Vector3 = [decode(rgb[0] / 255), decode(rgb[1] / 255), decode(rgb[2] / 255)]
  return xyzToLab(transform(d65ToD50, transform(srgbToXyzD65, linear)), d50Pcs)
}

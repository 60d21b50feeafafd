import { invert, type Matrix3, multiply, transform, type Vector3 } from './matrix'
import { rgbToXyz, workingSpace } from './spaces'

/**
 * OKLab (Ottosson 2020, "A perceptual color space for image processing").
 * L 0–1, a and b about ±0.4. M1 takes D65 XYZ to cone responses, M2 their cube roots to Lab.
 */
const xyzToCone: Matrix3 = [
  0.819022437996703, 0.3619062600528904, -0.1288737815209879, 0.0329836539323885, 0.9292868615863434, 0.0361446663506424,
  0.0481771893596242, 0.2642395317527308, 0.6335478284694309,
]
export const coneToLab: Matrix3 = [
  0.210454268309314, 0.7936177747023054, -0.0040720430116193, 1.9779985324311684, -2.4285922420485799, 0.450593709617411,
  0.0259040424655478, 0.7827717124575296, -0.8086757549230774,
]
export const labToCone: Matrix3 = invert(coneToLab)

/** Linear working RGB → cone responses. */
export const workingToCone: Matrix3 = multiply(xyzToCone, rgbToXyz(workingSpace))
export const coneToWorking: Matrix3 = invert(workingToCone)

export function workingToOklab(rgb: Vector3): Vector3 {
  const cone = transform(workingToCone, rgb)
  return transform(coneToLab, [Math.cbrt(cone[0]), Math.cbrt(cone[1]), Math.cbrt(cone[2])])
}

export function oklabToWorking(lab: Vector3): Vector3 {
  const root = transform(labToCone, lab)
  return transform(coneToWorking, [root[0] ** 3, root[1] ** 3, root[2] ** 3])
}

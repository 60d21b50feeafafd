import { type Matrix3, multiply } from './matrix'
import { colourSpaces, rgbToRgb, workingSpace } from './spaces'

/*
 * Brightness and two colour differences of encoded sRGB. Noise is as even as it gets in the encoding of the file, not in the wider
 * primaries that steps work in; and in camera noise these three hardly depend on each other.
 */

/** Linear working RGB to linear sRGB, and back. */
export const workingToFile: Matrix3 = rgbToRgb(workingSpace, colourSpaces.srgb)
export const fileToWorking: Matrix3 = rgbToRgb(colourSpaces.srgb, workingSpace)

/** Encoded sRGB to the three, and back. */
export const toOpponent: Matrix3 = [
  1 / 3,
  1 / 3,
  1 / 3,
  Math.SQRT1_2,
  0,
  -Math.SQRT1_2,
  1 / Math.sqrt(6),
  -2 / Math.sqrt(6),
  1 / Math.sqrt(6),
]
export const fromOpponent: Matrix3 = [1, Math.SQRT1_2, 1 / Math.sqrt(6), 1, 0, -2 / Math.sqrt(6), 1, -Math.SQRT1_2, 1 / Math.sqrt(6)]

/** Whether linear RGB of a file has the primaries that the three are made from. `toWorking`: from it to linear working RGB. */
export const hasFilePrimaries = (toWorking: Matrix3): boolean =>
  multiply(workingToFile, toWorking).every((cell, i) => Math.abs(cell - (i % 4 === 0 ? 1 : 0)) < 2e-5)

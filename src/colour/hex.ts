import { transform, type Vector3 } from './matrix'
import { colourSpaces, rgbToRgb, workingSpace } from './spaces'
import { srgbTransfer } from './transfer'

const toWorking = rgbToRgb(colourSpaces.srgb, workingSpace)

/** Linear working RGB of an sRGB colour written as in CSS: `#rrggbb`. */
export function srgbToWorking(hex: string): Vector3 {
  const channel = (at: number): number => srgbTransfer.decode(Number.parseInt(hex.slice(at, at + 2), 16) / 255)
  return transform(toWorking, [channel(1), channel(3), channel(5)])
}

/** Codes of 0–255 as people write a colour: `#a4552b`. */
export const hexOfCodes = (codes: Vector3): string =>
  `#${codes
    .map((code) =>
      Math.min(255, Math.max(0, Math.round(code)))
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`

import type { Vector3 } from './matrix'

const degrees = 180 / Math.PI
const hueDegrees = (a: number, b: number): number => (a === 0 && b === 0 ? 0 : (Math.atan2(b, a) * degrees + 360) % 360)
const cosine = (angleDegrees: number): number => Math.cos(angleDegrees / degrees)

/** Mean hue of two hues in degrees, as formula (14) of the source defines it for grey partners too. */
function meanHue(h1: number, h2: number, bothColoured: boolean): number {
  if (!bothColoured) return h1 + h2
  if (Math.abs(h1 - h2) <= 180) return (h1 + h2) / 2
  return h1 + h2 < 360 ? (h1 + h2 + 360) / 2 : (h1 + h2 - 360) / 2
}

/**
 * CIEDE2000 colour difference of two CIELAB colours (kL = kC = kH = 1).
 * Source: ISO/CIE 11664-6:2014; Sharma, Wu & Dalal, Color Research & Application 30 (2005) 21–30.
 */
export function deltaE00(first: Vector3, second: Vector3): number {
  const [l1, a1, b1] = first
  const [l2, a2, b2] = second
  const meanChroma7 = ((Math.hypot(a1, b1) + Math.hypot(a2, b2)) / 2) ** 7
  const g = 0.5 * (1 - Math.sqrt(meanChroma7 / (meanChroma7 + 25 ** 7)))
  const [a1p, a2p] = [(1 + g) * a1, (1 + g) * a2]
  const [c1, c2] = [Math.hypot(a1p, b1), Math.hypot(a2p, b2)]
  const [h1, h2] = [hueDegrees(a1p, b1), hueDegrees(a2p, b2)]
  const coloured = c1 * c2 !== 0

  const hueStep = !coloured ? 0 : h2 - h1 > 180 ? h2 - h1 - 360 : h2 - h1 < -180 ? h2 - h1 + 360 : h2 - h1
  const dL = l2 - l1
  const dC = c2 - c1
  const dH = 2 * Math.sqrt(c1 * c2) * Math.sin(hueStep / 2 / degrees)

  const lightness = (l1 + l2) / 2
  const chroma = (c1 + c2) / 2
  const hue = meanHue(h1, h2, coloured)
  const t = 1 - 0.17 * cosine(hue - 30) + 0.24 * cosine(2 * hue) + 0.32 * cosine(3 * hue + 6) - 0.2 * cosine(4 * hue - 63)
  const rotation = 60 * Math.exp(-(((hue - 275) / 25) ** 2))
  const chroma7 = chroma ** 7
  const rc = 2 * Math.sqrt(chroma7 / (chroma7 + 25 ** 7))
  const sl = 1 + (0.015 * (lightness - 50) ** 2) / Math.sqrt(20 + (lightness - 50) ** 2)
  const sc = 1 + 0.045 * chroma
  const sh = 1 + 0.015 * chroma * t
  const rt = -Math.sin(rotation / degrees) * rc
  return Math.sqrt((dL / sl) ** 2 + (dC / sc) ** 2 + (dH / sh) ** 2 + rt * (dC / sc) * (dH / sh))
}

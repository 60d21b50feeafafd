import { memoised } from '@/base/lru-cache'
import { floatAt } from '@/base/numbers'
import { fromLocus } from '@/colour/illuminant'
import { transform, type Vector3 } from '@/colour/matrix'
import { chromaticityOf, rgbToXyz, workingSpace } from '@/colour/spaces'
import { type LinearPicture, quantile } from '@/pixels/linear-picture'

/* The light of a picture after plain rules: what looks grey, the whole, or the bright end. */

/** Pixels brighter than this share of white in any channel may be clipped, darker ones are mostly noise. */
const usable = { darkest: 0.004, brightest: 0.9 } as const
/** Fewer usable pixels than this tell nothing. */
const minPixels = 50
/** The bright end: this share of the usable pixels. */
const brightShare = 0.05

/** Pixels fit for judging the light, channel by channel. */
interface Pixels {
  readonly count: number
  readonly r: Float32Array
  readonly g: Float32Array
  readonly b: Float32Array
}

function usablePixels({ size, planes }: LinearPicture): Pixels {
  const length = size.width * size.height
  const [r, g, b] = [new Float32Array(length), new Float32Array(length), new Float32Array(length)]
  let count = 0
  for (let i = 0; i < length; i++) {
    const [red, green, blue] = [floatAt(planes, i), floatAt(planes, length + i), floatAt(planes, 2 * length + i)]
    if (Math.max(red, green, blue) >= usable.brightest || Math.min(red, green, blue) <= usable.darkest) continue
    r[count] = red
    g[count] = green
    b[count++] = blue
  }
  return { count, r: r.subarray(0, count), g: g.subarray(0, count), b: b.subarray(0, count) }
}

/** The mean of the pixels that are marked with 1, and how many they are. */
function meanOf({ count, r, g, b }: Pixels, marks: Uint8Array): { readonly mean: Vector3; readonly count: number } {
  let [red, green, blue, found] = [0, 0, 0, 0]
  for (let n = 0; n < count; n++) {
    if (marks[n] === 0) continue
    red += floatAt(r, n)
    green += floatAt(g, n)
    blue += floatAt(b, n)
    found++
  }
  return { mean: [red / found, green / found, blue / found], count: found }
}

const lightOf = (r: number, g: number, b: number): number => 0.2627 * r + 0.678 * g + 0.0593 * b
function unit([r, g, b]: Vector3): Vector3 {
  const light = lightOf(r, g, b)
  return [r / light, g / light, b / light]
}

function brightEnd(pixels: Pixels): Vector3 {
  const { count, r, g, b } = pixels
  const light = new Float32Array(count)
  for (let n = 0; n < count; n++) light[n] = lightOf(floatAt(r, n), floatAt(g, n), floatAt(b, n))
  const threshold = quantile(light, 1 - brightShare)
  const marks = new Uint8Array(count)
  for (let n = 0; n < count; n++) marks[n] = floatAt(light, n) >= threshold ? 1 : 0
  return meanOf(pixels, marks).mean
}

/** How far, as logarithms of the channel ratios, a pixel may be from the white under trial to count as grey. */
const greyReach = 0.18
/** The trial moves to the mean of its greys this often; it settles sooner. */
const trials = 8
/** A start whose greys are fewer than this share of all pixels says nothing. */
const minGreyShare = 0.02

interface Trial {
  readonly white: Vector3
  readonly share: number
}

/** Logarithms of red and blue over green, pixel by pixel: worked out once for all trials. */
const ratiosOf = memoised(({ count, r, g, b }: Pixels): Float32Array => {
  const ratios = new Float32Array(count * 2)
  for (let n = 0; n < count; n++) {
    ratios[2 * n] = Math.log(floatAt(r, n) / floatAt(g, n))
    ratios[2 * n + 1] = Math.log(floatAt(b, n) / floatAt(g, n))
  }
  return ratios
})

/** Moves a white to the mean of the pixels that look grey under it, until it rests among them. */
function settle(pixels: Pixels, start: Vector3): Trial {
  const ratios = ratiosOf(pixels)
  const marks = new Uint8Array(pixels.count)
  let trial: Trial = { white: unit(start), share: 0 }
  for (let i = 0; i < trials; i++) {
    const { white } = trial
    const [red, blue] = [Math.log(white[0] / white[1]), Math.log(white[2] / white[1])]
    for (let n = 0; n < marks.length; n++) {
      const dr = floatAt(ratios, 2 * n) - red
      const db = floatAt(ratios, 2 * n + 1) - blue
      marks[n] = dr * dr + db * db < greyReach * greyReach ? 1 : 0
    }
    const greys = meanOf(pixels, marks)
    if (greys.count < pixels.count * minGreyShare) return { white, share: 0 }
    trial = { white: unit(greys.mean), share: greys.count / pixels.count }
  }
  return trial
}

/** How many more greys another white must show before the picture is taken to be lit by it. */
const convincing = 1.5

/** Lamps lie within 0.006 of the locus (ANSI C78.377, from memory), cameras shift that a little: what is further off is a colour, not a light. */
const maxOffLocus = 0.01

const toXyz = rgbToXyz(workingSpace)
const isLight = (white: Vector3): boolean => fromLocus(chromaticityOf(transform(toXyz, white))) <= maxOffLocus

/**
 * The white among greys: settled once from the white of the space and once from the bright end. The first is believed
 * unless the second explains clearly more of the picture and can be a light, so that coloured subjects in plain light stay as they are.
 */
function greyAmong(pixels: Pixels): Vector3 | undefined {
  const plain = settle(pixels, [1, 1, 1])
  const lit = settle(pixels, brightEnd(pixels))
  const best = lit.share > plain.share * convincing && isLight(lit.white) ? lit : plain
  return best.share > 0 ? best.white : undefined
}

/** The white that a picture seems to be lit by, as linear working RGB; undefined where there is too little to judge. */
export function estimateWhite(picture: LinearPicture, method: 'greys' | 'greyWorld' | 'brightEnd'): Vector3 | undefined {
  const pixels = usablePixels(picture)
  if (pixels.count < minPixels) return undefined
  if (method === 'greyWorld') return meanOf(pixels, new Uint8Array(pixels.count).fill(1)).mean
  return method === 'brightEnd' ? brightEnd(pixels) : greyAmong(pixels)
}

import { codeAt, doubleAt } from '@/base/numbers'
import { mapTriple } from '@/base/tuples'
import { srgb8ToLab } from '@/colour/lab'
import type { Vector3 } from '@/colour/matrix'

/** What a finished picture looks like as a whole. */
export interface PictureTraits {
  /** Means in CIE Lab. */
  readonly lightness: number
  readonly a: number
  readonly b: number
  /** Shares of all pixels: with a channel at its upper end, with all at their lower end, and with all so bright that little is drawn there. */
  readonly brightPercent: number
  readonly darkPercent: number
  readonly whitePercent: number
}

/** From this share of the range on, in every channel, a place is nearly white. */
const nearlyWhite = 0.96

/** This many pixels, evenly spread, are enough to judge a picture by. */
const maxPixels = 25_000
/** Colours are gathered by the upper bits of each channel: Lab is then worked out once for each of a few hundred, not for each pixel. */
const bits = 4

/**
 * Means and clipped shares of finished pixels, 8 or 16 bits, three or four to a pixel. Codes are read as sRGB: pictures of one delivery
 * are compared with each other, and there it does not matter which space it is.
 */
export function traitsOf(values: Uint8Array | Uint8ClampedArray | Uint16Array, channels: number): PictureTraits {
  const max = values.BYTES_PER_ELEMENT === 2 ? 65_535 : 255
  const shift = 8 * values.BYTES_PER_ELEMENT - bits
  const step = channels * Math.max(1, Math.floor(values.length / channels / maxPixels))
  // Four numbers for each cell of colour: sums of red, green and blue, and how many pixels.
  const cells = new Float64Array(4 << (3 * bits))
  let [bright, dark, white, count] = [0, 0, 0, 0]
  for (let i = 0; i + 2 < values.length; i += step) {
    const [red, green, blue] = [codeAt(values, i), codeAt(values, i + 1), codeAt(values, i + 2)]
    const at = 4 * (((((red >> shift) << bits) | (green >> shift)) << bits) | (blue >> shift))
    cells[at] = doubleAt(cells, at) + red
    cells[at + 1] = doubleAt(cells, at + 1) + green
    cells[at + 2] = doubleAt(cells, at + 2) + blue
    cells[at + 3] = doubleAt(cells, at + 3) + 1
    const highest = Math.max(red, green, blue)
    if (highest === max) bright++
    if (highest === 0) dark++
    if (Math.min(red, green, blue) >= max * nearlyWhite) white++
    count++
  }
  const rounded = (sum: number): number => Number((sum / Math.max(1, count)).toFixed(2))
  const [lightness, a, b] = mapTriple(labSums(cells, max), rounded)
  return { lightness, a, b, brightPercent: rounded(bright * 100), darkPercent: rounded(dark * 100), whitePercent: rounded(white * 100) }
}

/** The sums of Lab over all pixels, each taken for the mean of its cell. */
function labSums(cells: Float64Array, max: number): Vector3 {
  let [lightness, a, b] = [0, 0, 0]
  for (let at = 0; at < cells.length; at += 4) {
    const count = doubleAt(cells, at + 3)
    if (count === 0) continue
    const mean = (sum: number): number => ((sum / count) * 255) / max
    const lab = srgb8ToLab([mean(doubleAt(cells, at)), mean(doubleAt(cells, at + 1)), mean(doubleAt(cells, at + 2))])
    lightness += lab[0] * count
    a += lab[1] * count
    b += lab[2] * count
  }
  return [lightness, a, b]
}

/** Clipped shares that somebody would see, in per cent, beyond what is usual in the set. */
const noticeable = { bright: 1, dark: 2, white: 10 } as const
/** Distance in CIE Lab from the middle of the set beyond which a picture is unlike its siblings, where these agree. */
const unlike = { lightness: 14, colour: 9 } as const
/** Where they do not agree, it is this many times as far off as half of them are. */
const farOff = 4.5
/** Fewer pictures have no middle. */
const minCount = 3

const median = (values: readonly number[]): number => values.toSorted((a, b) => a - b)[values.length >> 1] ?? 0

/** Tells what stands out about a picture of a set, in words; nothing where all is well. */
export function marksOfSet(set: readonly PictureTraits[]): (own: PictureTraits) => string[] {
  const isSet = set.length >= minCount
  const middle = (of: (own: PictureTraits) => number): number => (isSet ? median(set.map(of)) : 0)
  const [lightness, a, b] = [middle((own) => own.lightness), middle((own) => own.a), middle((own) => own.b)]
  const [bright, dark, white] = [middle((own) => own.brightPercent), middle((own) => own.darkPercent), middle((own) => own.whitePercent)]
  const lightnessOff = (own: PictureTraits): number => own.lightness - lightness
  const colourOff = (own: PictureTraits): number => Math.hypot(own.a - a, own.b - b)
  const limit = (min: number, off: (own: PictureTraits) => number): number => Math.max(min, farOff * middle((own) => Math.abs(off(own))))
  const limits = {
    bright: limit(noticeable.bright, (own) => own.brightPercent - bright),
    dark: limit(noticeable.dark, (own) => own.darkPercent - dark),
    white: limit(noticeable.white, (own) => own.whitePercent - white),
    lightness: limit(unlike.lightness, lightnessOff),
    colour: limit(unlike.colour, colourOff),
  }
  return (own) => {
    const marks: string[] = []
    if (isSet) {
      if (Math.abs(lightnessOff(own)) > limits.lightness)
        marks.push(lightnessOff(own) > 0 ? 'brighter than the others' : 'darker than the others')
      if (colourOff(own) > limits.colour) marks.push('another colour than the others')
      if (own.whitePercent - white >= limits.white) marks.push(`${own.whitePercent.toFixed(0)} % nearly white`)
    }
    if (own.brightPercent - bright >= limits.bright) marks.push(`${own.brightPercent.toFixed(0)} % clipped bright`)
    if (own.darkPercent - dark >= limits.dark) marks.push(`${own.darkPercent.toFixed(0)} % clipped dark`)
    return marks
  }
}

import { median } from 'd3'
import { codeAt, doubleAt } from '@/base/numbers'
import { mapTriple } from '@/base/tuples'
import { srgb8ToLab } from '@/colour/lab'
import type { Vector3 } from '@/colour/matrix'

/** What a finished picture looks like as a whole. What is not there was not measured: older runs had less of it. */
export interface PictureTraits {
  /** Means in CIE Lab. */
  readonly lightness: number
  readonly a: number
  readonly b: number
  /** Shares of all pixels: with a channel at its upper end, with all at their lower end, and with all so bright that little is drawn there. */
  readonly brightPercent: number
  readonly darkPercent: number
  readonly whitePercent: number
  /** Standard deviation of CIE lightness. */
  readonly contrast?: number
  /** What of a sharp edge lies within one pixel, and noise in levels of 8 bits: only where there are all pixels. */
  readonly sharpnessPercent?: number
  readonly noiseLevels?: number
  /** By how much it would have to be turned clockwise to be level; 0 where its lines do not say so clearly. */
  readonly tiltDegrees?: number
  /** What the frame leaves outside of the subject. */
  readonly cutPercent?: number
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
  const { sums, squares } = labSums(cells, max)
  const [lightness, a, b] = mapTriple(sums, rounded)
  const contrast = Number(Math.sqrt(Math.max(0, squares / Math.max(1, count) - (sums[0] / Math.max(1, count)) ** 2)).toFixed(2))
  return {
    lightness,
    a,
    b,
    contrast,
    brightPercent: rounded(bright * 100),
    darkPercent: rounded(dark * 100),
    whitePercent: rounded(white * 100),
  }
}

/** The sums of Lab over all pixels, each taken for the mean of its cell, and the sum of lightness squared. */
function labSums(cells: Float64Array, max: number): { readonly sums: Vector3; readonly squares: number } {
  let [lightness, a, b, squares] = [0, 0, 0, 0]
  for (let at = 0; at < cells.length; at += 4) {
    const count = doubleAt(cells, at + 3)
    if (count === 0) continue
    const mean = (sum: number): number => ((sum / count) * 255) / max
    const lab = srgb8ToLab([mean(doubleAt(cells, at)), mean(doubleAt(cells, at + 1)), mean(doubleAt(cells, at + 2))])
    lightness += lab[0] * count
    a += lab[1] * count
    b += lab[2] * count
    squares += lab[0] ** 2 * count
  }
  return { sums: [lightness, a, b], squares }
}

/** What can be unlike its siblings about a picture: each can be looked away from. */
export const markKinds = ['light', 'colour', 'clipped', 'cut', 'soft', 'noise', 'tilt'] as const
export type MarkKind = (typeof markKinds)[number]

/** Clipped shares that somebody would see, in per cent, beyond what is usual in the set. */
const noticeable = { bright: 1, dark: 2, white: 10 } as const
/** Distance in CIE Lab from the middle of the set beyond which a picture is unlike its siblings, where these agree. */
const unlike = { lightness: 14, colour: 9 } as const
/** Where they do not agree, it is this many times as far off as half of them are. */
const farOff = 4.5
/** Fewer pictures have no middle. */
const minCount = 3
/** Of the subject, in per cent: less is its shadow or a mere touch of the edge. In a set of close-ups, where most are cut: this many times the usual. */
const cut = { percent: 3.5, times: 2 } as const
/** A picture this much less sharp than is usual in the set was not in focus. */
const softShare = 0.58
/** Noise this many times as strong as is usual, and by so many levels that it is seen. */
const noisy = { times: 2, levels: 0.8 } as const
/** A tilt smaller than this, in degrees, is seen by nobody (common practice). */
const minTiltDegrees = 0.5

const noKinds: ReadonlySet<MarkKind> = new Set()
type Own = PictureTraits
type Mark = readonly [kind: MarkKind, words: string | false | undefined]

/**
 * Tells what stands out about a picture of a set, in words; nothing where all is well.
 * @param off what is not told
 */
export function marksOfSet(set: readonly PictureTraits[], off: ReadonlySet<MarkKind> = noKinds): (own: PictureTraits) => string[] {
  const isSet = set.length >= minCount
  const middle = (of: (own: Own) => number | undefined): number => {
    const values = set.flatMap((own) => of(own) ?? [])
    return isSet && values.length >= minCount ? (median(values) ?? 0) : 0
  }
  const [lightness, a, b] = [middle((own) => own.lightness), middle((own) => own.a), middle((own) => own.b)]
  const [bright, dark, white] = [middle((own) => own.brightPercent), middle((own) => own.darkPercent), middle((own) => own.whitePercent)]
  const [sharpness, noise, usualCut] = [
    middle((own) => own.sharpnessPercent),
    middle((own) => own.noiseLevels),
    middle((own) => own.cutPercent),
  ]
  const lightnessOff = (own: Own): number => own.lightness - lightness
  const colourOff = (own: Own): number => Math.hypot(own.a - a, own.b - b)
  const limit = (min: number, off: (own: Own) => number): number => Math.max(min, farOff * middle((own) => Math.abs(off(own))))
  const limits = {
    bright: limit(noticeable.bright, (own) => own.brightPercent - bright),
    dark: limit(noticeable.dark, (own) => own.darkPercent - dark),
    white: limit(noticeable.white, (own) => own.whitePercent - white),
    lightness: limit(unlike.lightness, lightnessOff),
    colour: limit(unlike.colour, colourOff),
    cut: usualCut < cut.percent ? cut.percent : cut.times * usualCut,
    noise: Math.max(noisy.times * noise, noise + noisy.levels),
  }
  const percent = (share: number, words: string): string => `${share.toFixed(0)} % ${words}`
  const marks = (own: Own): readonly Mark[] => {
    const { sharpnessPercent = sharpness, noiseLevels = 0, tiltDegrees = 0, cutPercent = 0 } = own
    return [
      [
        'light',
        isSet && Math.abs(lightnessOff(own)) > limits.lightness && `${lightnessOff(own) > 0 ? 'brighter' : 'darker'} than the others`,
      ],
      ['colour', isSet && colourOff(own) > limits.colour && 'another colour than the others'],
      ['clipped', isSet && own.whitePercent - white >= limits.white && percent(own.whitePercent, 'nearly white')],
      ['clipped', own.brightPercent - bright >= limits.bright && percent(own.brightPercent, 'clipped bright')],
      ['clipped', own.darkPercent - dark >= limits.dark && percent(own.darkPercent, 'clipped dark')],
      ['cut', cutPercent >= limits.cut && `the frame cuts off ${cutPercent.toFixed(0)} % of the subject`],
      ['soft', isSet && sharpnessPercent < softShare * sharpness && 'softer than the others'],
      ['noise', isSet && noise > 0 && noiseLevels > limits.noise && 'noisier than the others'],
      ['tilt', Math.abs(tiltDegrees) >= minTiltDegrees && `tilted by ${Math.abs(tiltDegrees).toFixed(1)}°`],
    ]
  }
  return (own) => marks(own).flatMap(([kind, words]) => (words && !off.has(kind) ? [words] : []))
}

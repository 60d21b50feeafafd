import { bisectLeft, bisectRight } from 'd3'
import { doubleAt, floatAt, numberAt } from '@/base/numbers'
import { present } from '@/base/present'
import { mapTriple, triple } from '@/base/tuples'
import type { LinearPicture } from '@/pixels/linear-picture'
import { boxMean } from '../support/grid'
import { lightnessOf } from '../support/lab-planes'

/** Angles tried. */
const stepDegrees = 0.05
/** Half-width of the windows that straightness is judged in, in pixels of the small copy. */
const windowRadius = 3
/** An edge counts if its window is this straight: 1 is a line and nothing else. */
const minCoherence = 0.9
/** Fainter edges, in squared lightness, are noise. */
const minEnergy = 2e-4
/** A pixel votes for a line if its own edge leans no further from it than this. */
const votesWithinDegrees = 1.5
/** A line's length, as a share of the short edge, below which it says nothing. */
const minLength = 0.45
/** The lines at the angle found must outweigh those that are level already, and the middle of all angles, this many times. */
const minOverLevel = 1.8
const minProminence = 3.2
/** Turns smaller than this are not worth the resampling. */
const minDegrees = 0.15

/** Edges that are nearly level, or nearly plumb, in the order of their lean. */
interface Edges {
  /** Clockwise from level or plumb, in degrees. */
  readonly lean: Float32Array
  /** Places from the middle of the picture: off the line through it, and along that, a quarter turn clockwise from off. */
  readonly off: Float32Array
  readonly along: Float32Array
}

/**
 * How many degrees a picture must be turned clockwise to be level; 0 where its lines do not say so clearly.
 * @param maxDegrees larger tilts are left alone.
 */
export function findTilt(picture: LinearPicture, maxDegrees: number): number {
  const { width, height } = picture.size
  const edges = straightEdges(picture, maxDegrees + votesWithinDegrees)
  const steps = Math.round(maxDegrees / stepDegrees)
  const reach = Math.ceil(Math.hypot(width, height) / 2) + 2
  const scores = Array.from({ length: 2 * steps + 1 }, (_, i) => scoreAt(edges, (i - steps) * stepDegrees, reach))
  const energy = scores.map((score) => score.energy)
  const peak = energy.reduce((best, value, i) => (value > numberAt(energy, best) ? i : best), 0)
  const found = (peak - steps + offsetOfPeak(energy, peak)) * stepDegrees
  const best = present(scores[peak])
  const level = Math.max(...energy.slice(Math.max(0, steps - 2), steps + 3))
  const middle = doubleAt(Float64Array.from(energy).sort(), energy.length >> 1)
  if (Math.abs(peak - steps) > steps - 4) return 0
  const isClear =
    best.longest >= minLength * Math.min(width, height) && best.energy > minOverLevel * level && best.energy > minProminence * middle
  return isClear && Math.abs(found) >= minDegrees ? Math.round(-found * 20) / 20 + 0 : 0
}

/** Pixels on straight edges: those that are nearly level, and those that are nearly plumb. */
function straightEdges(picture: LinearPicture, maxLean: number): readonly [Edges, Edges] {
  const { width, height } = picture.size
  const light = lightnessOf(picture)
  const [xx, xy, yy] = triple(() => new Float32Array(width * height))
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x
      const [a, b, c] = [floatAt(light, i - width - 1), floatAt(light, i - width), floatAt(light, i - width + 1)]
      const [d, e] = [floatAt(light, i - 1), floatAt(light, i + 1)]
      const [f, g, h] = [floatAt(light, i + width - 1), floatAt(light, i + width), floatAt(light, i + width + 1)]
      // Scharr's derivative keeps directions to a few hundredths of a degree.
      const gx = (3 * (c - a) + 10 * (e - d) + 3 * (h - f)) / 32
      const gy = (3 * (f - a) + 10 * (g - b) + 3 * (h - c)) / 32
      xx[i] = gx * gx
      xy[i] = gx * gy
      yy[i] = gy * gy
    }
  const [p, q, r] = mapTriple([xx, xy, yy], (plane) => boxMean(picture.kernels, plane, picture.size, windowRadius))
  const [level, plumb]: [FoundEdge[], FoundEdge[]] = [[], []]
  const margin = windowRadius + 1
  for (let y = margin; y < height - margin; y++)
    for (let x = margin; x < width - margin; x++) {
      const i = y * width + x
      const [a, b, c] = [floatAt(p, i), floatAt(q, i), floatAt(r, i)]
      const energy = a + c
      // The crest of the edge alone: its own gradient is above what its window has on average.
      if (energy < minEnergy || floatAt(xx, i) + floatAt(yy, i) < energy) continue
      if ((a - c) ** 2 + 4 * b * b < (minCoherence * energy) ** 2) continue
      const gradient = (Math.atan2(2 * b, a - c) * 90) / Math.PI
      const isLevel = Math.abs(gradient) > 45
      const lean = isLevel ? gradient - Math.sign(gradient) * 90 : gradient
      if (Math.abs(lean) > maxLean) continue
      const [right, down] = [x - width / 2, y - height / 2]
      if (isLevel) level.push({ lean, off: down, along: -right })
      else plumb.push({ lean, off: right, along: down })
    }
  return [byLean(level), byLean(plumb)]
}

type FoundEdge = Readonly<Record<keyof Edges, number>>

function byLean(found: readonly FoundEdge[]): Edges {
  const sorted = found.toSorted((a, b) => a.lean - b.lean)
  const all = (key: keyof Edges): Float32Array => new Float32Array(sorted.map((edge) => edge[key]))
  return { lean: all('lean'), off: all('off'), along: all('along') }
}

interface Score {
  /** Sum of the squared lengths of all lines at this angle. */
  readonly energy: number
  readonly longest: number
}

/** Edges that lie on common lines at an angle (Duda & Hart 1972, for one angle). */
function scoreAt(edges: readonly Edges[], degrees: number, reach: number): Score {
  let [energy, longest] = [0, 0]
  for (const own of edges)
    for (const length of linesAt(own, degrees, reach)) {
      energy += length * length
      if (length > longest) longest = length
    }
  return { energy, longest }
}

/** How much of edges lies on each line at an angle, by its distance from the middle, a pixel each; `reach` stands for the middle. */
function linesAt({ lean, off, along }: Edges, degrees: number, reach: number): Float64Array {
  const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)]
  const lines = new Float64Array(2 * reach + 1)
  const end = bisectRight(lean, degrees + votesWithinDegrees)
  for (let i = bisectLeft(lean, degrees - votesWithinDegrees); i < end; i++) {
    const at = reach + floatAt(off, i) * c + floatAt(along, i) * s
    const bin = Math.floor(at)
    lines[bin] = doubleAt(lines, bin) + 1 - (at - bin)
    lines[bin + 1] = doubleAt(lines, bin + 1) + at - bin
  }
  return lines
}

/** Where between three steps a parabola through them has its top. */
function offsetOfPeak(values: readonly number[], peak: number): number {
  const [left, middle, right] = [values[peak - 1], numberAt(values, peak), values[peak + 1]]
  if (left === undefined || right === undefined) return 0
  const bend = left - 2 * middle + right
  return bend === 0 ? 0 : (left - right) / (2 * bend)
}

import { median, quantileSorted } from 'd3'
import { codeAt, floatAt } from '@/base/numbers'
import { vector3 } from '@/colour/matrix'
import { colourSpaces, rgbToXyz } from '@/colour/spaces'
import { srgbTransfer } from '@/colour/transfer'
import type { Codes } from './codes'

/*
 * How much lighter and in which colour a picture lies beside its siblings, whatever they show. Two pictures of a series share surfaces: the
 * table, the wall, the same glaze. In logarithms of linear light, what was exposed otherwise is moved by one distance, and what was lit
 * otherwise by another. So the move is looked for under which the colours of one meet most of the other's.
 */

/** Steps of light, in stops, and of the logarithms of red and blue over green, to the base of 2. */
const lightStep = 1 / 8
const castStep = 0.12
/** Cells along each axis: light from −8 stops to full, casts from −3 to 3. */
const lightCells = 66
const castCells = 51
const lightFrom = -8
const castFrom = -3
/** Codes of 8 bits beyond these are cut off, or noise. */
const usable = { from: 7, to: 249 } as const
/** Pixels looked at, evenly spread. */
const maxPixels = 40_000
/** Fewer usable ones than this share of all tell little. */
const minUsable = 0.1

/** The colours of a picture, as a cloud in logarithms of light. */
export interface ColourCloud {
  /** Square root of the share of usable pixels in each cell, by `cellAt`. */
  readonly cells: Float32Array
  /** Cells that are not empty. */
  readonly filled: Int32Array
  /** Light that 99 % of the pixels stay below, in stops from full. */
  readonly highlight: number
}

const cellAt = (light: number, red: number, blue: number): number => (light * castCells + red) * castCells + blue
const log2 = Math.log2
/** Luminance of linear sRGB (IEC 61966-2-1). */
const [ofRed, ofGreen, ofBlue] = vector3(rgbToXyz(colourSpaces.srgb).slice(3, 6))
const lightOfByte = Float64Array.from({ length: 256 }, (_, code) => srgbTransfer.decode(code / 255))
const highlightShare = 0.99

/** The cloud of a finished picture; codes are read as sRGB. */
export function cloudOf({ values, channels }: Pick<Codes, 'values' | 'channels'>): ColourCloud {
  const shift = values.BYTES_PER_ELEMENT === 2 ? 8 : 0
  const pixels = Math.floor(values.length / channels)
  const step = channels * Math.max(1, Math.floor(pixels / maxPixels))
  const cells = new Float32Array(lightCells * castCells * castCells)
  const lights: number[] = []
  let used = 0
  for (let i = 0; i + 2 < values.length; i += step) {
    const [r, g, b] = [codeAt(values, i) >> shift, codeAt(values, i + 1) >> shift, codeAt(values, i + 2) >> shift]
    const [red, green, blue] = [lightOfByte[r] ?? 0, lightOfByte[g] ?? 0, lightOfByte[b] ?? 0]
    const light = log2(Math.max(1e-6, ofRed * red + ofGreen * green + ofBlue * blue))
    lights.push(light)
    if (Math.max(r, g, b) > usable.to || Math.min(r, g, b) < usable.from) continue
    used++
    spread(cells, (light - lightFrom) / lightStep, (log2(red / green) - castFrom) / castStep, (log2(blue / green) - castFrom) / castStep)
  }
  const filled: number[] = []
  // Of what can be used: a picture that is mostly cut off is compared by the rest.
  const counted = Math.max(used, minUsable * lights.length)
  for (let cell = 0; cell < cells.length; cell++) {
    const count = floatAt(cells, cell)
    if (count === 0) continue
    cells[cell] = Math.sqrt(count / counted)
    filled.push(cell)
  }
  lights.sort((a, b) => a - b)
  return { cells, filled: Int32Array.from(filled), highlight: quantileSorted(lights, highlightShare) ?? lightFrom }
}

/** One pixel, shared out among the cells around it. */
function spread(cells: Float32Array, light: number, red: number, blue: number): void {
  const [l, r, b] = [Math.floor(light), Math.floor(red), Math.floor(blue)]
  if (l < 0 || r < 0 || b < 0 || l + 1 >= lightCells || r + 1 >= castCells || b + 1 >= castCells) return
  for (let corner = 0; corner < 8; corner++) {
    const [dl, dr, db] = [corner >> 2, (corner >> 1) & 1, corner & 1]
    const weight = Math.abs(1 - dl - (light - l)) * Math.abs(1 - dr - (red - r)) * Math.abs(1 - db - (blue - b))
    const at = cellAt(l + dl, r + dr, b + db)
    cells[at] = floatAt(cells, at) + weight
  }
}

/** How much of two clouds meets (Bhattacharyya 1943), the first moved by whole cells: 0–1. */
function meeting(own: ColourCloud, other: ColourCloud, light: number, red: number, blue: number): number {
  const by = cellAt(light, red, blue)
  let sum = 0
  for (const cell of own.filled) {
    const at = cell + by
    if (at >= 0 && at < other.cells.length) sum += floatAt(own.cells, cell) * floatAt(other.cells, at)
  }
  return sum
}

/** Where the best of values at −reach … reach lies, between them by a parabola, and its value. */
function bestOf(reach: number, valueAt: (place: number) => number): { readonly place: number; readonly value: number } {
  const values = Array.from({ length: 2 * reach + 1 }, (_, i) => valueAt(i - reach))
  const best = values.reduce((at, value, i) => (value > (values[at] ?? 0) ? i : at), reach)
  const [left, middle, right] = [values[best - 1], values[best] ?? 0, values[best + 1]]
  const bend = left === undefined || right === undefined ? 0 : left - 2 * middle + right
  const between = bend < 0 ? ((left ?? 0) - (right ?? 0)) / (2 * bend) : 0
  return { place: best - reach + between, value: middle }
}

/** Moves tried either way: 2.5 stops, and casts as far as from daylight to cloudy. */
const lightReach = 20
const castReach = 4

/** What would have to be added to a picture, in stops and in logarithms of red and blue over green. */
export interface Shift {
  readonly ev: number
  readonly red: number
  readonly blue: number
}

interface Seen {
  readonly ev: number
  /** How much of the two meets there. */
  readonly meets: number
  readonly highlight: number
  readonly cloud: ColourCloud
}

function seenBeside(own: ColourCloud, cloud: ColourCloud): Seen {
  const light = bestOf(lightReach, (place) => meeting(own, cloud, place, 0, 0))
  return { ev: light.place * lightStep, meets: light.value, highlight: cloud.highlight, cloud }
}

/** Steps of the coarse search for a cast, in cells. */
const coarse = 2

interface Cast {
  readonly red: number
  readonly blue: number
  readonly meets: number
}

/** The cast under which most of two clouds meets, and how much that is; light may differ, too. */
function castBeside(own: ColourCloud, other: ColourCloud, ev: number): Cast {
  const middle = Math.round(ev / lightStep)
  let best = { light: middle, red: 0, blue: 0, meets: meeting(own, other, middle, 0, 0) }
  const tryAt = (light: number, red: number, blue: number): void => {
    const meets = meeting(own, other, light, red, blue)
    if (meets > best.meets) best = { light, red, blue, meets }
  }
  for (let light = -4 * coarse; light <= 4 * coarse; light += coarse)
    for (let red = -castReach; red <= castReach; red += coarse)
      for (let blue = -castReach; blue <= castReach; blue += coarse) tryAt(light, red, blue)
  for (let round = 0; round < coarse; round++) {
    const { light, red, blue } = best
    for (const by of [-1, 1]) {
      tryAt(light + by, red, blue)
      tryAt(light, red + by, blue)
      tryAt(light, red, blue + by)
    }
  }
  const { light } = best
  const red = bestOf(1, (by) => meeting(own, other, light, best.red + by, best.blue))
  const blue = bestOf(1, (by) => meeting(own, other, light, best.red, best.blue + by))
  return { red: (best.red + red.place) * castStep, blue: (best.blue + blue.place) * castStep, meets: best.meets }
}

/** A sibling counts if this much of it meets the picture, and this share of what meets with the most alike. */
const minMeets = 0.3
const minOfBest = 0.5
const minSiblings = 2

/** The value that half of the weight lies below. */
function weightedMedian(values: readonly (readonly [value: number, weight: number])[]): number {
  const sorted = values.toSorted(([a], [b]) => a - b)
  const half = sorted.reduce((sum, [, weight]) => sum + weight, 0) / 2
  let below = 0
  for (const [value, weight] of sorted) {
    below += weight
    if (below >= half) return value
  }
  return 0
}

/** From here on, in stops from full, highlights are cut off. */
const clippedFrom = -0.08
/** A picture whose colours lie less than this from its siblings', in stops, was exposed like them. */
const minColoursEv = 0.3
/** Where highlights are cut off, which is a sign by itself: this much. */
const minClippedEv = 0.2
/** So was one whose highlights lie where theirs do: what differs then is what it shows. A photographer's meter places highlights (common practice). */
const minHighlightEv = 0.6
/** Where this much meets, the colours tell the distance best, and a cast at all; else the highlights do. */
const trustedMeets = 0.6
/** Casts smaller than this are of the things shown, not of the light. */
const minCast = 0.12
/** A cast is believed where this many times as much meets under it. */
const minGain = 1.4

/** By what a picture's light is brought to its siblings'. */
export type Measure = 'colours' | 'highlights'

export interface Likeness {
  /** Where it is not among its siblings: what would bring it there. All 0 where it is, or where they do not tell. */
  readonly shift: Shift
  readonly measure: Measure
}

const seenOf = (own: ColourCloud, siblings: readonly ColourCloud[]): Seen[] => siblings.map((sibling) => seenBeside(own, sibling))

/** Those of which enough meets the picture. */
function telling(seen: readonly Seen[]): Seen[] {
  const most = Math.max(0, ...seen.map(({ meets }) => meets))
  return seen.filter(({ meets }) => meets >= Math.max(minMeets, minOfBest * most))
}

const coloursEv = (seen: readonly Seen[]): number => weightedMedian(seen.map(({ ev, meets }) => [ev, meets]))
const highlightEv = (own: ColourCloud, seen: readonly Seen[]): number => (median(seen, ({ highlight }) => highlight) ?? 0) - own.highlight

/**
 * What brings a picture among its siblings. Nothing where it is among them already: where its colours or its highlights lie where theirs
 * do, or where too few of them show anything of the same.
 */
export function likenessTo(own: ColourCloud, siblings: readonly ColourCloud[]): Likeness {
  const all = seenOf(own, siblings)
  const cast = castTo(own, all)
  const seen = telling(all)
  if (seen.length < minSiblings) return { shift: { ev: 0, ...cast }, measure: 'colours' }
  const [colours, highlights] = [coloursEv(seen), highlightEv(own, seen)]
  const isClipped = own.highlight >= clippedFrom
  const isOff = isClipped
    ? colours <= -minClippedEv
    : Math.abs(colours) >= minColoursEv && Math.abs(highlights) >= minHighlightEv && colours * highlights > 0
  const isTrusted = isClipped || Math.max(...seen.map(({ meets }) => meets)) >= trustedMeets
  const measure = isTrusted ? 'colours' : 'highlights'
  const ev = isOff ? (isTrusted ? colours : highlights) : 0
  return { shift: { ev, ...cast }, measure }
}

/** How many stops are left of the way, measured as at the start. */
export function distanceTo(own: ColourCloud, siblings: readonly ColourCloud[], measure: Measure): number {
  const seen = telling(seenOf(own, siblings))
  if (seen.length === 0) return 0
  return measure === 'colours' ? coloursEv(seen) : highlightEv(own, seen)
}

/** The cast beside the siblings, where most of them see the same one, and far more meets under it. */
function castTo(own: ColourCloud, all: readonly Seen[]): Pick<Shift, 'red' | 'blue'> {
  const casts = all
    .map(({ ev, meets, cloud }) => ({ ...castBeside(own, cloud, ev), before: meets }))
    .filter(({ meets, before }) => meets >= trustedMeets && meets >= minGain * before)
  if (casts.length < minSiblings || casts.length < all.length / 2) return { red: 0, blue: 0 }
  const [red, blue] = [
    weightedMedian(casts.map((cast) => [cast.red, cast.meets])),
    weightedMedian(casts.map((cast) => [cast.blue, cast.meets])),
  ]
  const apart = median(casts, (cast) => Math.hypot(cast.red - red, cast.blue - blue)) ?? 0
  const cast = Math.hypot(red, blue)
  return cast >= minCast && apart < cast / 2 ? { red, blue } : { red: 0, blue: 0 }
}

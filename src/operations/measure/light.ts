import type { Kernels } from '@kernels/binding'
import { doubleAt, integerAt, numberAt } from '@/base/numbers'
import { present } from '@/base/present'
import { mapPair } from '@/base/tuples'
import { acrossLocus, whiteOfTemperature } from '@/colour/illuminant'
import { degreesBetween, invert, transform, type Vector3 } from '@/colour/matrix'
import { rgbToXyz, workingSpace, xyzOfChromaticity } from '@/colour/spaces'
import { type LinearPicture, laidOut, quantilesOnHeap } from '@/pixels/linear-picture'

/*
 * The light a picture was taken in, from the colours that surfaces have. Under each light that is known, lamps and daylight, the picture's
 * colours are compared with those that surfaces show in plain light: which are common, which are bright. What is common was learned from
 * computed scenes (bench/train-light.ts). After Barron (2015), convolutional colour constancy: a score that moves with the light, over
 * histograms of log chroma; in place of a free filter, one on few places, close together near grey, that few scenes can teach.
 */

/** A colour without its lightness: how warm and how magenta, both as natural logarithms of channel ratios, turned by 45°. */
type Chroma = readonly [warm: number, magenta: number]

const chromaOf = (red: number, green: number, blue: number): Chroma => {
  const [r, b] = [Math.log(red / green), Math.log(blue / green)]
  return [(r - b) * Math.SQRT1_2, (r + b) * Math.SQRT1_2]
}

export interface Light {
  readonly mired: number
  readonly duv: number
  /** Linear working RGB of white in it, green 1. */
  readonly white: Vector3
  readonly chroma: Chroma
}

const fromXyz = invert(rgbToXyz(workingSpace))
export function lightOf(mired: number, duv: number): Light {
  const [r, g, b] = transform(fromXyz, xyzOfChromaticity(acrossLocus(whiteOfTemperature(1e6 / mired), duv)))
  return { mired, duv, white: [r / g, 1, b / g], chroma: chromaOf(r, g, b) }
}

/** Lights that are tried: 2500–11,100 K, to both sides of the locus as far as lamps go (ANSI C78.377, from memory) and a little further. */
export const lights: readonly Light[] = Array.from({ length: 32 }, (_, i) => 90 + 10 * i).flatMap((mired) =>
  [-0.012, -0.006, 0, 0.006, 0.012].map((duv) => lightOf(mired, duv)),
)

/** Places where the filter has values, to either side of grey: even steps of the inverse hyperbolic sine, so close together near grey. */
export const filterPlaces = { warm: 13, magenta: 9 } as const
const filterReach = { warm: 1.6, magenta: 1 } as const
const closeness = 0.08

/** Where a distance from grey lies among the places of the filter: from 0 to the last. */
export function placeOf(distance: number, axis: 'warm' | 'magenta'): number {
  const end = Math.asinh(filterReach[axis] / closeness)
  const last = filterPlaces[axis] - 1
  return Math.min(last, Math.max(0, ((Math.asinh(distance / closeness) / end + 1) / 2) * last))
}

/** Width of the cells in which colours are counted; kernels/assembly/light.ts names how many there are, too. */
const cell = 0.03
const cellsAcross = 128
const middleCell = cellsAcross / 2
/** Cells that a doubling of a channel moves a colour along both axes. */
const cellsOfDoubling = (Math.LN2 * Math.SQRT1_2) / cell

/** Pixels brighter than this in any channel may be clipped, darker ones are mostly noise. */
const usable = { darkest: 0.002, brightest: 0.9 } as const
/** Fewer usable pixels tell nothing. */
const minPixels = 50
/** What counts as the bright part of the picture. */
const brightShare = 0.2

/** The colours that occur. Of each, one after the other: */
export interface SeenColours {
  /** How warm and how magenta it is, in cells from grey. */
  readonly cells: Int32Array
  /** Its weight among all colours, and among the bright ones; each sums to 1. */
  readonly among: Float64Array
}

/** Colours as they were counted: for each cell, how many pixels, and how many of them bright. */
function countedColours(picture: LinearPicture): readonly [all: Int32Array, bright: Int32Array] | undefined {
  const { kernels, size } = picture
  const { heap, run } = kernels
  const length = size.width * size.height
  return heap.scope(() => {
    const planes = laidOut(picture)
    // What is written last is kept only if it counts: a vector more.
    const [cells, luminance] = [heap.allocate(length * 4 + 16), heap.allocate(length * 4 + 16)]
    const count = run.lightColours(...planes, length, usable.darkest, usable.brightest, cellsOfDoubling, cells, luminance)
    if (count < minPixels) return undefined
    const [threshold = 0] = quantilesOnHeap(kernels, luminance, count, [1 - brightShare])
    const [all, bright] = [heap.allocate(cellsAcross ** 2 * 4), heap.allocate(cellsAcross ** 2 * 4)]
    run.countColours(cells, luminance, count, threshold, all, bright)
    return mapPair([all, bright], (counts) => heap.i32(counts, cellsAcross ** 2).slice())
  })
}

/** The colours of a picture; undefined where too little of it can be judged. A colour that fills the picture counts by its square root. */
export function seenColours(picture: LinearPicture): SeenColours | undefined {
  const counted = countedColours(picture)
  if (!counted) return undefined
  const [all, bright] = counted
  let [ofAll, ofBright, occurring] = [0, 0, 0]
  for (let index = 0; index < all.length; index++) {
    const count = integerAt(all, index)
    if (count === 0) continue
    occurring++
    ofAll += Math.sqrt(count)
    ofBright += Math.sqrt(integerAt(bright, index))
  }
  const [cells, among] = [new Int32Array(2 * occurring), new Float64Array(2 * occurring)]
  for (let index = 0, to = 0; index < all.length; index++) {
    const count = integerAt(all, index)
    if (count === 0) continue
    cells[to] = Math.floor(index / cellsAcross) - middleCell
    among[to++] = Math.sqrt(count) / ofAll
    cells[to] = (index % cellsAcross) - middleCell
    among[to++] = Math.sqrt(integerAt(bright, index)) / ofBright
  }
  return { cells, among }
}

/** How warm and how magenta the cell of a colour is. */
export const chromaOfCell = (cells: Int32Array, colour: number): Chroma => [
  integerAt(cells, 2 * colour) * cell,
  integerAt(cells, 2 * colour + 1) * cell,
]

/** What was learned: the filter's values by `filterPlaces`, for all colours and for the bright ones, and what is said of lights beforehand. */
export interface LightModel {
  readonly filters: readonly [all: readonly number[], bright: readonly number[]]
  readonly before: readonly number[]
}

/** What is said of a light before the picture is seen: how it grows with its temperature and distance from the locus, and plain light. */
export const beforehand = ({ mired, duv }: Light): readonly number[] => [
  (mired - 154) / 100,
  ((mired - 154) / 100) ** 2,
  (duv / 0.006) ** 2,
  Math.abs(mired - 154) < 6 && Math.abs(duv) < 0.003 ? 1 : 0,
]

/**
 * The filters are read at even steps, so that a lookup takes the place of the formula. Colours lie a whole number of steps apart, so that
 * under one light all of them are read at every third step alone: those that are read together lie together.
 */
const step = 0.01
const stepsPerCell = Math.round(cell / step)
/** Steps to either side beyond which a filter has its last value. */
const reach = { warm: 330, magenta: 250 } as const
/** Cells to either side of the middle in which a colour can come to lie: those it was counted in, moved by as much as any light does. */
const cellsBeyond = (axis: 0 | 1): number =>
  middleCell + Math.ceil(Math.max(...lights.map(({ chroma }) => Math.abs(chroma[axis]))) / cell) + 1
const around = { warm: cellsBeyond(0), magenta: cellsBeyond(1) } as const
const columnsAcross = 2 * around.magenta + 1
/** Both filters, value beside value, for each cell; one such table after the other for each step within a cell, warm before magenta. */
type FilterTables = Float32Array
const tableLength = 2 * (2 * around.warm + 1) * columnsAcross

/** Of every cell of an axis, so many steps beyond where it begins: the place of the filter before it, and how far towards the next. */
function placesAlong(axis: 'warm' | 'magenta', beyond: number): { readonly place: Int32Array; readonly share: Float64Array } {
  const places = Array.from({ length: 2 * around[axis] + 1 }, (_, i) => {
    const steps = (i - around[axis]) * stepsPerCell + beyond
    return placeOf(Math.min(reach[axis], Math.max(-reach[axis], steps)) * step, axis)
  })
  const place = Int32Array.from(places, (value) => Math.min(Math.floor(value), filterPlaces[axis] - 2))
  return { place, share: Float64Array.from(places, (value, i) => value - integerAt(place, i)) }
}

function filterTables(filters: LightModel['filters']): FilterTables {
  const { magenta: across } = filterPlaces
  const tables = new Float32Array(stepsPerCell ** 2 * tableLength)
  for (let part = 0; part < stepsPerCell ** 2; part++) {
    const rows = placesAlong('warm', Math.floor(part / stepsPerCell))
    const columns = placesAlong('magenta', part % stepsPerCell)
    for (const [which, filter] of filters.entries())
      for (let i = 0, to = part * tableLength + which; i < rows.place.length; i++) {
        const row = integerAt(rows.place, i) * across
        const fx = doubleAt(rows.share, i)
        for (let j = 0; j < columns.place.length; j++, to += 2) {
          const at = row + integerAt(columns.place, j)
          const fy = doubleAt(columns.share, j)
          const nearer = numberAt(filter, at) * (1 - fy) + numberAt(filter, at + 1) * fy
          const further = numberAt(filter, at + across) * (1 - fy) + numberAt(filter, at + across + 1) * fy
          tables[to] = nearer * (1 - fx) + further * fx
        }
      }
  }
  return tables
}

/** A number of steps as whole cells and the steps beyond them. */
const inCells = (steps: number): readonly [cells: number, beyond: number] => {
  const cells = Math.floor(steps / stepsPerCell)
  return [cells, steps - cells * stepsPerCell]
}

/** How well the colours suit each light. */
function scoresOf({ heap, run }: Kernels, tables: FilterTables, { cells, among }: SeenColours, model: LightModel): number[] {
  const count = cells.length / 2
  return heap.scope(() => {
    const own = new Int32Array(count)
    for (let i = 0; i < count; i++) own[i] = integerAt(cells, 2 * i) * columnsAcross + integerAt(cells, 2 * i + 1)
    const [places, weights, table] = [heap.integers(own), heap.doubles(among), heap.floats(tables)]
    return lights.map((light) => {
      const beforeSeen = beforehand(light).reduce((all, value, k) => all + value * numberAt(model.before, k), 0)
      const [[rows, warmSteps], [columns, magentaSteps]] = mapPair(light.chroma, (one) => inCells(Math.round(-one / step)))
      const part = table + (warmSteps * stepsPerCell + magentaSteps) * tableLength * Float32Array.BYTES_PER_ELEMENT
      const middle = (around.warm + rows) * columnsAcross + around.magenta + columns
      return boldness * (beforeSeen + run.scoreLight(places, weights, count, part, middle))
    })
  })
}

export interface JudgedLight {
  /** Linear working RGB of white in the light that is most probable, green 1. */
  readonly white: Vector3
  /** How probable it is that to take this light away leaves the picture no further off than it is by more than two degrees; 0–1. */
  readonly sureness: number
}

const plain: Vector3 = [1, 1, 1]
const harmDegrees = 2
/** Scores are a little too modest: on scenes that were left out of learning, this factor makes sureness what it says. */
const boldness = 1.5
/** Lights so near to the best count with it. */
const near = { mired: 25, duv: 0.007 } as const

/** Judges the light by a model. @param colours from `seenColours` */
export function lightJudge(model: LightModel): (kernels: Kernels, colours: SeenColours) => JudgedLight {
  let tables: FilterTables | undefined
  return (kernels, colours) => {
    tables ??= filterTables(model.filters)
    const scores = scoresOf(kernels, tables, colours, model)
    const top = Math.max(...scores)
    const best = present(lights[scores.indexOf(top)])
    const weights = scores.map((score) => Math.exp(score - top))
    let [sum, red, blue] = [0, 0, 0]
    for (const [i, light] of lights.entries()) {
      if (Math.hypot((light.mired - best.mired) / near.mired, (light.duv - best.duv) / near.duv) >= 1) continue
      const weight = numberAt(weights, i)
      sum += weight
      red += weight * Math.log(light.white[0])
      blue += weight * Math.log(light.white[2])
    }
    const white: Vector3 = [Math.exp(red / sum), 1, Math.exp(blue / sum)]
    let [total, harmed] = [0, 0]
    for (const [i, light] of lights.entries()) {
      const weight = numberAt(weights, i)
      total += weight
      if (degreesBetween(white, light.white) > degreesBetween(plain, light.white) + harmDegrees) harmed += weight
    }
    return { white, sureness: 1 - harmed / total }
  }
}

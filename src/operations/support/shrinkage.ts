import type { Pointer } from '@kernels/heap'
import { allocatePlane, copyPlane } from '@kernels/planes'
import { type Rect, sameRect } from '@/base/geometry'
import { numberAt } from '@/base/numbers'
import { present } from '@/base/present'
import { mapTriple } from '@/base/tuples'
import type { NeighbourhoodJob } from '../declare/operation'
import { blockEdge, frequencyRings, type NoiseProfile, ringOf } from './noise-profile'

/** How blocks are laid, and how often they are looked at. */
export interface Way {
  /** Blocks begin at all multiples of `step`, or staggered at every second one. Every pixel lies in 16, 4 or 2. */
  readonly step: 4 | 2
  readonly isStaggered: boolean
  /** Hard thresholds; then, in a second pass, gains from what the first one left. */
  readonly passes: 1 | 2
}

/** How brightness, or colour, is cleaned. */
export interface Shrinking {
  /** Share of the noise that is taken away, 0–1. */
  readonly share: number
  /** Coefficients below this many deviations go. */
  readonly threshold: number
  /** How many reduced copies are cleaned, the picture itself counted. */
  readonly copies: number
  readonly whole: Way
  /** The smallest copy: it costs little, and all that is smooth is decided there. */
  readonly last: Way
}

export interface ShrinkAmounts {
  readonly brightness: Shrinking
  readonly colour: Shrinking
}

/** From one end to before the other, in pixels of a reduced copy, whose grid begins where the picture does. */
interface Span {
  readonly from: number
  readonly to: number
}

/** What of a reduced copy must be there for a tile, along one side. */
interface Needed {
  /** What takes the correction from the next copy, or is the result. */
  readonly corrected: Span
  /** What must come out clean: it is halved for the next copy's correction. */
  readonly clean: Span
  /** What the blocks that reach it lie in. */
  readonly blocks: Span
  /** What must be read: for the blocks here and on all smaller copies. */
  readonly read: Span
}

/** A block's pixels lie at most this far from one another. */
const blockReach = blockEdge - 1

/** Blocks lie at the same places whatever tile is asked for. */
const gridOf = ({ step, isStaggered }: Way): number => (isStaggered ? 2 * step : step)

/** `level`: 0 for the picture itself. */
const wayAt = ({ whole, last, copies }: Shrinking, level: number): Way => (level > 0 && level === copies - 1 ? last : whole)

function neededOf(wanted: Span, shrinking: Shrinking, level = 0): readonly Needed[] {
  const way = wayAt(shrinking, level)
  const grid = gridOf(way)
  const margin = way.passes * blockReach
  const corrected = { from: Math.floor(wanted.from / 2) * 2, to: Math.ceil(wanted.to / 2) * 2 }
  const half = { from: corrected.from / 2 - 1, to: corrected.to / 2 + 1 }
  const below = level + 1 < shrinking.copies ? neededOf(half, shrinking, level + 1) : []
  const [next] = below
  const clean = next ? { from: 2 * half.from, to: 2 * half.to } : corrected
  const blocks = { from: Math.floor((clean.from - margin) / grid) * grid, to: Math.ceil((clean.to + margin) / grid) * grid }
  const read = next ? { from: Math.min(blocks.from, 2 * next.read.from), to: Math.max(blocks.to, 2 * next.read.to) } : blocks
  return [{ corrected, clean, blocks, read }, ...below]
}

/** The farthest that a tile looks, wherever it lies on the grids of its reduced copies. */
export function shrinkReach({ brightness, colour }: ShrinkAmounts): number {
  const farthest = (way: Shrinking): number => {
    const grid = Math.max(gridOf(way.whole), gridOf(way.last))
    const places = Array.from({ length: grid << (way.copies - 1) }, (_, at) => at)
    return Math.max(
      ...places.map((at) => {
        const whole = present(neededOf({ from: at, to: at + 1 }, way)[0])
        return Math.max(at - whole.read.from, whole.read.to - at - 1)
      }),
    )
  }
  return Math.max(farthest(brightness), farthest(colour))
}

/** A plane of a rectangle of a reduced copy. */
interface Sheet {
  readonly at: Pointer
  readonly area: Rect
  /** In floats. */
  readonly stride: number
}

const placeOn = ({ at, area, stride }: Sheet, { x, y }: Pick<Rect, 'x' | 'y'>): Pointer => at + ((y - area.y) * stride + x - area.x) * 4

/** What the kernels need in floats. */
const scratchPerColumn = { dense: 9, staggered: 36 } as const
const scratchBeside = 6600

/** Deviations at a reduction that may lie between two measured ones; beyond the last, noise is taken to be gone. */
function deviationsAt(levels: readonly (readonly number[])[], level: number): number[] {
  const below = Math.floor(level)
  const [fine, coarse] = [levels[below], levels[below + 1]]
  return Array.from({ length: frequencyRings }, (_, ring) => {
    const [a = 0, b = 0] = [fine?.[ring], coarse?.[ring]]
    return a + (b - a) * (level - below)
  })
}

/** The kernel's transform is 8 times the orthonormal one. */
const kernelScale = 8

/** Keeps 0 / 0 away. */
const minVariance = 1e-18

/** A number for every frequency of a block, from one for every ring. `constant`: that of the block's mean. */
const overFrequencies = (rings: readonly number[], constant: number): Float32Array =>
  Float32Array.from(ringOf, (ring) => (ring < 0 ? constant : Math.max(numberAt(rings, ring), constant)))

/** What one reduction is cleaned with, on the heap. */
interface Spectrum {
  readonly thresholds: Pointer
  readonly variances: Pointer
  /** Too little noise to be seen: this reduction is left as it is. */
  readonly isQuiet: boolean
}

/** Deviations that nobody sees, 0–1; the eye forgives more in colour. */
const unseen = { brightness: 0.2 / 255, colour: 0.75 / 255 } as const
/** The next reduction sees to the rings below this one. */
const leftToNext = 3

const isQuiet = (deviations: readonly number[], channel: number, hasNext: boolean): boolean =>
  Math.max(...deviations.slice(hasNext ? leftToNext : 0)) < (channel === 0 ? unseen.brightness : unseen.colour)

type Areas = Readonly<Record<keyof Needed, Rect>>

function areasOf({ x, y, width, height }: Rect, way: Shrinking): Areas[] {
  const down = neededOf({ from: y, to: y + height }, way)
  return neededOf({ from: x, to: x + width }, way).map((across, level) => {
    const area = (part: keyof Needed): Rect => {
      const [columns, rows] = [across[part], present(down[level])[part]]
      return { x: columns.from, y: rows.from, width: columns.to - columns.from, height: rows.to - rows.from }
    }
    return { corrected: area('corrected'), clean: area('clean'), blocks: area('blocks'), read: area('read') }
  })
}

/** The tile's brightness, or a reduced copy of it, noise and all: thresholds follow it. What else is read lies as it does. */
type Light = Sheet

/**
 * Takes noise out of a tile of brightness and colour differences: cosine-transform shrinkage (Yu & Sapiro 2011), from coarse to fine
 * (after Pierazzo, Morel & Facciolo 2017): each copy gives the one above it its low frequencies.
 */
export function shrinkNoise(job: NeighbourhoodJob, profile: NoiseProfile, amounts: ShrinkAmounts): void {
  const { kernels, input, mayOverwrite, output, reach, x, y, scale } = job
  const { heap, run } = kernels
  const tile: Rect = { x, y, width: output.width, height: output.height }
  const factors = heap.floats(profile.factors)
  const around: Rect = { x: x - reach, y: y - reach, width: input.width, height: input.height }
  const sheets = mapTriple(input.channels, (at): Sheet => ({ at, area: around, stride: input.stride }))
  const [ofBrightness, ofColour] = [areasOf(tile, amounts.brightness), areasOf(tile, amounts.colour)]
  const lights: Light[] = [sheets[0]]
  for (let level = 1; level < Math.max(ofBrightness.length, ofColour.length); level++)
    lights.push(halved(present(lights[level - 1]), unionOf(ofBrightness[level]?.read, ofColour[level]?.read)))

  for (const [channel, sheet] of sheets.entries()) {
    const result: Sheet = { at: numberAt(output.channels, channel), area: tile, stride: output.stride }
    const way = channel === 0 ? amounts.brightness : amounts.colour
    heap.scope(() => {
      const spectra = way.share > 0 ? spectraOf(channel, way) : []
      const areas = channel === 0 ? ofBrightness : ofColour
      const isLast = mayOverwrite && way.share === 1 && channel > 0
      const cleaned = spectra.length === 0 ? sheet : shrunk({ sheet, level: 0, lights, areas, spectra, shrinking: way, isLast }, result)
      if (cleaned !== result) copyPlane(heap, placeOn(cleaned, tile), cleaned.stride, 0, 0, result.at, output)
      if (way.share < 1 && cleaned !== sheet) mixRows(result, sheet, way.share)
    })
  }

  /** What of the noise stays goes back on top. */
  function mixRows(result: Sheet, sheet: Sheet, share: number): void {
    for (let row = y; row < y + tile.height; row++)
      run.mix(placeOn(result, { x, y: row }), placeOn(sheet, { x, y: row }), tile.width, share)
  }

  /** What each reduction is cleaned with, down to the last that has anything to clean. */
  function spectraOf(channel: number, { threshold, copies }: Shrinking): Spectrum[] {
    const firstLevel = Math.max(0, -Math.log2(scale))
    const spectra = Array.from({ length: copies }, (_, level) => {
      const deviations = deviationsAt(profile.deviations[channel] ?? [], firstLevel + level)
      const scaled = deviations.map((deviation) => deviation * kernelScale)
      const thresholds = heap.floats(
        overFrequencies(
          scaled.map((deviation) => deviation * threshold),
          0,
        ),
      )
      const variances = heap.floats(
        overFrequencies(
          scaled.map((deviation) => deviation ** 2),
          minVariance,
        ),
      )
      return { thresholds, variances, isQuiet: isQuiet(deviations, channel, level + 1 < copies) }
    })
    return spectra.slice(0, spectra.findLastIndex((spectrum) => !spectrum.isQuiet) + 1)
  }

  function newSheet(area: Rect): Sheet {
    return { at: allocatePlane(heap, area.width, area.height), area, stride: area.width }
  }

  function halved(sheet: Sheet, area: Rect): Sheet {
    const half = newSheet(area)
    const from = placeOn(sheet, { x: 2 * area.x, y: 2 * area.y })
    run.halvePlane(from, sheet.stride, half.at, half.stride, area.width, area.height)
    return half
  }

  /** The clean copy, on the sheet that is wanted if that lies as it must; what lies outside its `corrected` area is of no use. */
  function shrunk({ sheet, level, lights, areas, spectra, shrinking, isLast }: Task, wanted?: Sheet): Sheet {
    const [light, next] = [present(lights[0]), lights[1]]
    const [{ blocks, corrected }, areasBelow] = [present(areas[0]), areas.slice(1)]
    const [spectrum, below] = [present(spectra[0]), spectra.slice(1)]
    const clean = spectrum.isQuiet && isLast ? sheet : newSheet(blocks)
    if (!spectrum.isQuiet) heap.scope(() => shrinkBlocks(sheet, light, clean, spectrum, wayAt(shrinking, level)))
    else if (!isLast) copyPlane(heap, placeOn(sheet, blocks), sheet.stride, 0, 0, clean.at, { ...blocks, stride: clean.stride })
    if (!next || below.length === 0) return clean
    const target = wanted && sameRect(wanted.area, corrected) ? wanted : clean
    heap.scope(() => correct(sheet === light ? next : halved(sheet, next.area), sheet !== light))
    return target

    /** What is left of coarse noise: the smaller copy is cleaned by itself, and its low frequencies are taken over. */
    function correct(small: Sheet, isOwn: boolean): void {
      const better = shrunk({
        sheet: small,
        level: level + 1,
        lights: lights.slice(1),
        areas: areasBelow,
        spectra: below,
        shrinking,
        isLast: isOwn,
      })
      const half = placeOn(better, { x: corrected.x / 2, y: corrected.y / 2 })
      const [base, to] = [placeOn(clean, corrected), placeOn(target, corrected)]
      const { width, height } = corrected
      const scratch = heap.allocate((width * 1.5 + 24) * 4)
      run.followHalf(half, better.stride, base, clean.stride, to, target.stride, width, height, scratch)
    }
  }

  function shrinkBlocks(
    sheet: Sheet,
    light: Light,
    clean: Sheet,
    { thresholds, variances }: Spectrum,
    { step, isStaggered, passes }: Way,
  ): void {
    const { width, height } = clean.area
    const [across, down] = [(width - blockEdge) / step + 1, (height - blockEdge) / step + 1]
    const scratch = heap.allocate((width * scratchPerColumn[isStaggered ? 'staggered' : 'dense'] + scratchBeside) * 4)
    const from = [placeOn(sheet, clean.area), placeOn(light, clean.area), sheet.stride] as const
    if (isStaggered) {
      const gains = passes === 2 ? variances : 0
      run.shrinkStaggered(...from, clean.at, width, across, down, thresholds, gains, factors, scratch)
      return
    }
    const first = passes === 2 ? newSheet(clean.area) : clean
    run.shrinkBlocks(...from, first.at, width, across, down, step, thresholds, factors, scratch)
    if (passes === 2) run.weighBlocks(...from, first.at, width, clean.at, width, across, down, step, variances, factors, scratch)
  }
}

/** A sheet to clean with all its smaller copies. */
interface Task {
  readonly sheet: Sheet
  readonly level: number
  /** From the sheet's own size downwards, like areas and spectra. */
  readonly lights: readonly Light[]
  readonly areas: readonly Areas[]
  readonly spectra: readonly Spectrum[]
  readonly shrinking: Shrinking
  /** The sheet is not needed any more. */
  readonly isLast: boolean
}

function unionOf(a: Rect | undefined, b: Rect | undefined): Rect {
  if (!a || !b) return (a ?? b) as Rect
  const [x, y] = [Math.min(a.x, b.x), Math.min(a.y, b.y)]
  return { x, y, width: Math.max(a.x + a.width, b.x + b.width) - x, height: Math.max(a.y + a.height, b.y + b.height) - y }
}

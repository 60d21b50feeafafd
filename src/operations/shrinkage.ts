import type { Pointer } from '@kernels/heap'
import { allocatePlane, copyPlane } from '@kernels/planes'
import type { Rect } from '@/core/geometry'
import { invert } from '@/core/matrix'
import { conversion } from './domains'
import { blockEdge, frequencyRings, fromOpponent, type NoiseProfile, ringOf, toFile, toOpponent } from './noise'
import type { NeighbourhoodJob, PointPass } from './operation'

/** How much is shrunk, and how many reduced copies are cleaned, for brightness and for colour. */
export interface ShrinkAmounts {
  /** Share of the noise that is taken away, 0–1. */
  readonly brightness: number
  readonly colour: number
  /** Coefficients below this many deviations go. */
  readonly threshold: number
  /** One pass of hard thresholds, or a second one with gains from the first: worth its time in strong noise. */
  readonly passes: 1 | 2
  /** Distance of the blocks: every pixel lies in 4 or in 16. */
  readonly step: 4 | 2
  readonly brightnessLevels: number
  readonly colourLevels: number
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

/** Blocks begin at multiples of 4, or of 2. */
const grid = 4
/** A block's pixels lie at most this far from one another. */
const blockReach = blockEdge - 1

function neededOf(wanted: Span, copies: number, passes: number): readonly Needed[] {
  const corrected = { from: Math.floor(wanted.from / 2) * 2, to: Math.ceil(wanted.to / 2) * 2 }
  const below = copies > 1 ? neededOf({ from: corrected.from / 2 - 1, to: corrected.to / 2 + 1 }, copies - 1, passes) : []
  const [next] = below
  const clean = next ? { from: 2 * (corrected.from / 2 - 1), to: 2 * (corrected.to / 2 + 1) } : corrected
  const blocks = {
    from: Math.floor((clean.from - passes * blockReach) / grid) * grid,
    to: Math.ceil((clean.to + passes * blockReach) / grid) * grid,
  }
  const read = next ? { from: Math.min(blocks.from, 2 * next.read.from), to: Math.max(blocks.to, 2 * next.read.to) } : blocks
  return [{ corrected, clean, blocks, read }, ...below]
}

/** The farthest that a tile looks, wherever it lies on the grids of its reduced copies. */
export function shrinkReach(copies: number, passes: number): number {
  const places = Array.from({ length: grid << (copies - 1) }, (_, at) => at)
  return Math.max(
    ...places.map((at) => {
      const [whole] = neededOf({ from: at, to: at + 1 }, copies, passes) as [Needed]
      return Math.max(at - whole.read.from, whole.read.to - at - 1)
    }),
  )
}

/** A plane of a rectangle of a reduced copy. */
interface Sheet {
  readonly at: Pointer
  readonly area: Rect
  /** In floats. */
  readonly stride: number
}

const placeOn = ({ at, area, stride }: Sheet, { x, y }: Pick<Rect, 'x' | 'y'>): Pointer => at + ((y - area.y) * stride + x - area.x) * 4

const enter: readonly PointPass[] = [
  { kernel: 'matrix', parameters: toFile },
  ...conversion('linear', 'encoded'),
  { kernel: 'matrix', parameters: toOpponent },
]
const leave: readonly PointPass[] = [
  { kernel: 'matrix', parameters: fromOpponent },
  ...conversion('encoded', 'linear'),
  { kernel: 'matrix', parameters: invert(toFile) },
]

/** What the kernel needs in floats. */
const scratchPerColumn = 9
const scratchBeside = 6600

/** Three planes of this many pixels stay in the first cache. */
const piecePixels = 1024

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

function overFrequencies(deviations: readonly number[], factor: number): Float32Array {
  return Float32Array.from(ringOf, (ring) => (ring < 0 ? 0 : factor * (deviations[ring] as number)))
}

/** What one reduction is cleaned with, on the heap. */
interface Spectrum {
  readonly thresholds: Pointer
  readonly deviations: Pointer
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

function areasOf({ x, y, width, height }: Rect, copies: number, passes: number): Areas[] {
  const down = neededOf({ from: y, to: y + height }, copies, passes)
  return neededOf({ from: x, to: x + width }, copies, passes).map((across, level) => {
    const area = (part: keyof Needed): Rect => {
      const [columns, rows] = [across[part], (down[level] as Needed)[part]]
      return { x: columns.from, y: rows.from, width: columns.to - columns.from, height: rows.to - rows.from }
    }
    return { corrected: area('corrected'), clean: area('clean'), blocks: area('blocks'), read: area('read') }
  })
}

/** A reduced copy, or the tile itself. */
interface Copy {
  readonly areas: Areas
  /** Its brightness, noise and all: thresholds follow it. */
  readonly light: Sheet
}

type Three<T> = [T, T, T]

/**
 * Takes noise out of a tile in linear light: cosine-transform shrinkage (Yu & Sapiro 2011) of brightness and colour differences, from
 * coarse to fine (after Pierazzo, Morel & Facciolo 2017): each copy gives the one above it its low frequencies.
 */
export function shrinkNoise(job: NeighbourhoodJob, profile: NoiseProfile, amounts: ShrinkAmounts): void {
  const { kernels, input, spare, output, reach, x, y, scale } = job
  const { heap, run } = kernels
  const tile: Rect = { x, y, width: output.width, height: output.height }
  const factors = heap.floats(profile.factors)
  const areas = areasOf(tile, Math.max(amounts.brightnessLevels, amounts.colourLevels), amounts.passes)
  const { read } = areas[0] as Areas
  const around: Rect = { x: x - reach, y: y - reach, width: input.width, height: input.height }
  const given = input.channels.map((at): Sheet => ({ at, area: around, stride: input.stride }))
  const sheets = (spare ? given : given.map(() => newSheet(read))) as Three<Sheet>
  byPieces(read, enter, (piece, channel) => {
    return { from: placeOn(given[channel] as Sheet, piece), to: placeOn(sheets[channel] as Sheet, piece) }
  })

  const copies: Copy[] = []
  for (const own of areas) {
    const above = copies.at(-1)?.light
    copies.push({ areas: own, light: above ? halved(above, own.read) : sheets[0] })
  }
  const firstLevel = Math.max(0, -Math.log2(scale))
  const shares = [amounts.brightness, amounts.colour, amounts.colour]
  const cleaned = sheets.map((sheet, channel) => {
    const share = shares[channel] as number
    const spectra = spectraOf(channel, channel === 0 ? amounts.brightnessLevels : amounts.colourLevels)
    return share === 0 || spectra.length === 0 ? sheet : shrunk(sheet, copies, spectra, share === 1 && channel > 0)
  })
  byPieces(tile, leave, (piece, channel) => ({
    from: placeOn(cleaned[channel] as Sheet, piece),
    to: (output.channels[channel] as Pointer) + ((piece.y - y) * output.stride + piece.x - x) * 4,
    base: placeOn(sheets[channel] as Sheet, piece),
    share: shares[channel] as number,
  }))

  /** What each reduction is cleaned with, down to the last that has anything to clean. */
  function spectraOf(channel: number, levels: number): Spectrum[] {
    const spectra = Array.from({ length: levels }, (_, level) => {
      const deviations = deviationsAt(profile.deviations[channel] ?? [], firstLevel + level)
      const scaled = (factor: number): Pointer => heap.floats(overFrequencies(deviations, factor * kernelScale))
      return { thresholds: scaled(amounts.threshold), deviations: scaled(1), isQuiet: isQuiet(deviations, channel, level + 1 < levels) }
    })
    return spectra.slice(0, spectra.findLastIndex((spectrum) => !spectrum.isQuiet) + 1)
  }

  /** Copies piece by piece and runs passes on each while it is in the first cache; mixed with the base first, where one is given. */
  function byPieces(area: Rect, passes: readonly PointPass[], way: (piece: Rect, channel: number) => Way): void {
    const ready = passes.map(({ kernel, parameters }) => ({ kernel, at: heap.floats(parameters) }))
    const floats = new Float32Array(heap.memory.buffer)
    for (let row = area.y; row < area.y + area.height; row++)
      for (let column = area.x; column < area.x + area.width; column += piecePixels) {
        const width = Math.min(piecePixels, area.x + area.width - column)
        const targets = [0, 1, 2].map((channel) => {
          const { from, to, base, share = 1 } = way({ x: column, y: row, width, height: 1 }, channel)
          if (from !== to) floats.copyWithin(to >> 2, from >> 2, (from >> 2) + width)
          if (base !== undefined && share < 1) run.mix(to, base, width, share)
          return to
        }) as Three<Pointer>
        for (const { kernel, at } of ready) run[kernel](...targets, width, at)
      }
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

  /** The clean copy; what lies outside its `corrected` area is of no use. `isLast`: the sheet is not needed any more. */
  function shrunk(sheet: Sheet, [copy, ...smaller]: readonly Copy[], [spectrum, ...below]: readonly Spectrum[], isLast: boolean): Sheet {
    const { areas, light } = copy as Copy
    const leaves = (spectrum as Spectrum).isQuiet
    const clean = leaves && isLast ? sheet : newSheet(areas.blocks)
    if (!leaves) heap.scope(() => shrinkBlocks(sheet, light, clean, spectrum as Spectrum))
    else if (!isLast)
      copyPlane(heap, placeOn(sheet, areas.blocks), sheet.stride, 0, 0, clean.at, { ...areas.blocks, stride: areas.blocks.width })
    const [next] = smaller
    if (next && below.length > 0) heap.scope(() => correct(clean, sheet === light ? next.light : halved(sheet, next.areas.read)))
    return clean

    /** What is left of coarse noise: the smaller copy is cleaned by itself, and the difference goes on top. */
    function correct(target: Sheet, small: Sheet): void {
      const better = shrunk(small, smaller, below, small !== next?.light)
      const { clean: twice, corrected } = areas
      const half = { x: twice.x / 2, y: twice.y / 2, width: twice.width / 2, height: twice.height / 2 }
      run.subtractHalved(placeOn(target, twice), target.stride, placeOn(better, half), better.stride, half.width, half.height)
      const from = placeOn(better, { x: corrected.x / 2, y: corrected.y / 2 })
      run.addDoubled(from, better.stride, placeOn(target, corrected), target.stride, corrected.width, corrected.height)
    }
  }

  /** Hard thresholds, then in strong noise gains from what they left. */
  function shrinkBlocks(sheet: Sheet, light: Sheet, clean: Sheet, { thresholds, deviations }: Spectrum): void {
    const { width, height } = clean.area
    const { step, passes } = amounts
    const [across, down] = [(width - blockEdge) / step + 1, (height - blockEdge) / step + 1]
    const first = passes === 1 ? clean : newSheet(clean.area)
    const scratch = heap.allocate((width * scratchPerColumn + scratchBeside) * 4)
    const [source, guide, stride] = [placeOn(sheet, clean.area), placeOn(light, clean.area), sheet.stride]
    run.shrinkBlocks(source, guide, stride, first.at, width, across, down, step, thresholds, factors, scratch)
    if (passes === 1) return
    run.weighBlocks(source, guide, stride, first.at, width, clean.at, width, across, down, step, deviations, factors, scratch)
  }
}

/** From where to where a piece goes, and what of its base stays. */
interface Way {
  readonly from: Pointer
  readonly to: Pointer
  readonly base?: Pointer
  readonly share?: number
}

import type { Pointer } from '@kernels/heap'
import { copyPlane } from '@kernels/planes'
import { expandRect, type Rect, sameRect } from '@/base/geometry'
import { numberAt } from '@/base/numbers'
import { present } from '@/base/present'
import { mapTriple } from '@/base/tuples'
import type { NeighbourhoodJob } from '../declare/operation'
import { type FollowAreas, followAreas, followBrightness, followNeeded, followNoise } from './colour-follow'
import { blockEdge, frequencyRings, type NoiseProfile, ringOf } from './noise-profile'
import { newSheet, placeOn, type Sheet, unionOf } from './sheets'
import {
  type Areas,
  across,
  areasOf,
  type BlockWindow,
  blockReach,
  down,
  followsOf,
  groups,
  type ShrinkAmounts,
  type Shrinking,
  smoothReach,
  type Way,
  wayAt,
} from './shrink-areas'

const windows: Readonly<Record<BlockWindow, readonly number[]>> = {
  even: [1, 1, 1, 1, 1, 1, 1, 1],
  rounded: [0.4387, 0.6813, 0.8768, 0.9858, 0.9858, 0.8768, 0.6813, 0.4387],
}

/** Of the middle, then outwards. */
const smoothing = [1 / 2, 1 / 4] as const

/** What hard thresholds let through of the highest frequencies is noise more often than of the lowest: 0.1 dB in JPEG files. */
const mistrust = (ring: number): number => 1 + 3 * (ring / (frequencyRings - 1)) ** 2

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

const doubledRect = ({ x, y, width, height }: Rect): Rect => ({ x: 2 * x, y: 2 * y, width: 2 * width, height: 2 * height })

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
  const window = heap.floats(windows[amounts.window])
  const around: Rect = { x: x - reach, y: y - reach, width: input.width, height: input.height }
  const sheets = mapTriple(input.channels, (at): Sheet => ({ at, area: around, stride: input.stride }))
  const colourFollows = followsOf(amounts)
  const follow = colourFollows === 'never' ? undefined : followAreas(followNeeded(across(tile)), followNeeded(down(tile)))
  const fromHalf = colourFollows === 'fromHalf' ? follow : undefined
  const ofBrightness = areasOf(tile, amounts.brightness)
  // By level: nothing at full size where colour is cleaned from half size on.
  const ofColour: (Areas | undefined)[] = fromHalf
    ? [undefined, ...areasOf(fromHalf.halfRead, amounts.colour, 1)]
    : areasOf(follow ? doubledRect(follow.halfRead) : tile, amounts.colour)
  const lights: Light[] = [sheets[0]]
  for (let level = 1; level < Math.max(ofBrightness.length, ofColour.length, follow ? 2 : 1); level++) {
    const read = unionOf(ofBrightness[level]?.read, ofColour[level]?.read)
    lights.push(halved(present(lights[level - 1]), level === 1 ? unionOf(read, follow?.halfRead) : read))
  }

  const light = follow ? brightness() : heap.scope(brightness)
  for (const channel of [1, 2] as const) heap.scope(() => colour(channel))

  function resultOf(channel: 0 | 1 | 2): Sheet {
    return { at: output.channels[channel], area: tile, stride: output.stride }
  }

  /** Clean brightness with its share of noise, on the output and, if that lies otherwise, over what is corrected. */
  function brightness(): Sheet {
    const way = amounts.brightness
    const [sheet, result] = [sheets[0], resultOf(0)]
    const spectra = way.share > 0 ? spectraOf(0, way) : []
    const areas = ofBrightness
    const cleaned =
      spectra.length === 0 ? sheet : shrunk({ sheet, level: 0, lights, areas, spectra, shrinking: way, isLast: false }, result)
    if (way.share < 1 && cleaned !== sheet) mixRows(cleaned, sheet, way.share, cleaned === result ? tile : present(areas[0]).corrected)
    if (cleaned !== result) copyPlane(heap, placeOn(cleaned, tile), cleaned.stride, 0, 0, result.at, output)
    return cleaned
  }

  function colour(channel: 1 | 2): void {
    const way = amounts.colour
    const [sheet, result] = [sheets[channel], resultOf(channel)]
    const spectra = way.share > 0 ? spectraOf(channel, way) : []
    const isLast = mayOverwrite && way.share === 1 && !follow
    const wanted = follow ? undefined : result
    const whole = { sheet, level: 0, lights, areas: ofColour.flatMap((areas) => areas ?? []), spectra, shrinking: way, isLast }
    const apart = spectra.length === 0 || fromHalf ? sheet : shrunk(whole, wanted)
    const cleaned = follow && spectra.length > 0 ? following(channel, follow, apart, spectra) : apart
    if (cleaned !== result) copyPlane(heap, placeOn(cleaned, tile), cleaned.stride, 0, 0, result.at, output)
    if (way.share < 1 && cleaned !== sheet) mixRows(result, sheet, way.share, tile)
  }

  /** Colour laid over brightness. `apart`: as it was, or clean at full size. */
  function following(channel: 1 | 2, areas: FollowAreas, apart: Sheet, spectra: readonly Spectrum[]): Sheet {
    const sheet = sheets[channel]
    const chain = fromHalf ? ofColour.slice(1).flatMap((area) => area ?? []) : []
    const read = unionOf(areas.halfRead, chain[0]?.read)
    const [colourHalf, lost] = [newSheet(heap, read), newSheet(heap, read)]
    const from = placeOn(sheet, { x: 2 * read.x, y: 2 * read.y })
    run.halveAndLose(from, sheet.stride, colourHalf.at, lost.at, read.width, read.width, read.height)
    const below = spectra.slice(1)
    const shrinking = amounts.colour
    const task = { sheet: colourHalf, level: 1, lights: lights.slice(1), areas: chain, spectra: below, shrinking, isLast: false }
    const isCleanWhole = !fromHalf
    const cleanHalf = isCleanWhole ? halved(apart, areas.halfRead) : below.length === 0 ? colourHalf : shrunk(task)
    const noise = followNoise(deviationsOf(0, 1), deviationsOf(channel, 0), deviationsOf(channel, 1))
    const lightHalf = present(lights[1])
    const wanted = sameRect(areas.corrected, tile) ? resultOf(channel) : undefined
    return followBrightness(
      { kernels, areas, lightHalf, light, colour: apart, colourHalf, lost, cleanHalf, isCleanWhole, noise, factors },
      wanted,
    )
  }

  /** What of the noise stays goes back on top. */
  function mixRows(result: Sheet, sheet: Sheet, share: number, area: Rect): void {
    for (let row = area.y; row < area.y + area.height; row++)
      run.mix(placeOn(result, { x: area.x, y: row }), placeOn(sheet, { x: area.x, y: row }), area.width, share)
  }

  function deviationsOf(channel: number, level: number): number[] {
    return deviationsAt(profile.deviations[channel] ?? [], Math.max(0, -Math.log2(scale)) + level)
  }

  /** What each reduction is cleaned with, down to the last that has anything to clean. */
  function spectraOf(channel: number, shrinking: Shrinking): Spectrum[] {
    const { threshold, copies } = shrinking
    const spectra = Array.from({ length: copies }, (_, level) => {
      const { isGrouped } = wayAt(shrinking, level)
      const deviations = deviationsOf(channel, level)
      const scaled = deviations.map((deviation) => deviation * kernelScale)
      const thresholds = heap.floats(
        overFrequencies(
          scaled.map((deviation) => deviation * threshold),
          0,
        ),
      )
      const variances = heap.floats(
        overFrequencies(
          scaled.map((deviation, ring) => deviation ** 2 * (isGrouped ? mistrust(ring) : 1)),
          minVariance,
        ),
      )
      return { thresholds, variances, isQuiet: isQuiet(deviations, channel, level + 1 < copies) }
    })
    return spectra.slice(0, spectra.findLastIndex((spectrum) => !spectrum.isQuiet) + 1)
  }

  function halved(sheet: Sheet, area: Rect): Sheet {
    const half = newSheet(heap, area)
    const from = placeOn(sheet, { x: 2 * area.x, y: 2 * area.y })
    run.halvePlane(from, sheet.stride, half.at, half.stride, area.width, area.height)
    return half
  }

  /** The clean copy, on the sheet that is wanted if that lies as it must; what lies outside its `corrected` area is of no use. */
  function shrunk({ sheet, level, lights, areas, spectra, shrinking, isLast }: Task, wanted?: Sheet): Sheet {
    const [light, next] = [present(lights[0]), lights[1]]
    const [{ blocks, corrected }, areasBelow] = [present(areas[0]), areas.slice(1)]
    const [spectrum, below] = [present(spectra[0]), spectra.slice(1)]
    const clean = spectrum.isQuiet && isLast ? sheet : newSheet(heap, blocks)
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
      const low = shrinking.takesSmooth ? smoothlyTowards(better, clean, corrected) : better
      const half = placeOn(low, { x: corrected.x / 2, y: corrected.y / 2 })
      const [base, to] = [placeOn(clean, corrected), placeOn(target, corrected)]
      const { width, height } = corrected
      const scratch = heap.allocate((width * 1.5 + 24) * 4)
      run.followHalf(half, low.stride, base, clean.stride, to, target.stride, width, height, scratch)
    }
  }

  /**
   * The plane's own averages of 2 × 2 pixels, and of what the smaller copy has besides only what is smooth: what is fine there was
   * drawn better at full size (up to 0.3 dB on weave and gravel).
   */
  function smoothlyTowards(small: Sheet, plane: Sheet, corrected: Rect): Sheet {
    const inner = expandRect({ x: corrected.x / 2, y: corrected.y / 2, width: corrected.width / 2, height: corrected.height / 2 }, 1)
    const around = expandRect(inner, smoothReach)
    const own = halved(plane, around)
    const [smallLow, ownLow] = [smoothed(small, around, inner), smoothed(own, around, inner)]
    const result = newSheet(heap, inner)
    copyPlane(heap, placeOn(own, inner), own.stride, 0, 0, result.at, { ...inner, stride: result.stride })
    run.addBand(result.at, smallLow.at, ownLow.at, inner.width * inner.height, 1, 0)
    return result
  }

  function smoothed(sheet: Sheet, around: Rect, inner: Rect): Sheet {
    const weights = heap.floats(smoothing)
    const [across, result] = [newSheet(heap, { ...inner, y: around.y, height: around.height }), newSheet(heap, inner)]
    run.convolveRows(placeOn(sheet, around), sheet.stride, across.at, across.stride, inner.width, around.height, weights, smoothReach)
    run.convolveColumns(across.at, across.stride, result.at, result.stride, inner.width, inner.height, weights, smoothReach)
    return result
  }

  function shrinkBlocks(
    sheet: Sheet,
    light: Light,
    clean: Sheet,
    { thresholds, variances }: Spectrum,
    { step, isStaggered, passes, isGrouped }: Way,
  ): void {
    const { width, height } = clean.area
    const [across, down] = [(width - blockEdge) / step + 1, (height - blockEdge) / step + 1]
    const scratch = heap.allocate((width * scratchPerColumn[isStaggered ? 'staggered' : 'dense'] + scratchBeside) * 4)
    const from = [placeOn(sheet, clean.area), placeOn(light, clean.area), sheet.stride] as const
    if (isStaggered) {
      const gains = passes === 2 ? variances : 0
      run.shrinkStaggered(...from, clean.at, width, across, down, thresholds, gains, factors, window, scratch)
      return
    }
    const first = passes === 2 ? newSheet(heap, clean.area) : clean
    run.shrinkBlocks(...from, first.at, width, across, down, step, thresholds, factors, window, scratch)
    if (isGrouped) shrinkGroups(sheet, light, first, clean, variances)
    else if (passes === 2)
      run.weighBlocks(...from, first.at, width, clean.at, width, across, down, step, variances, factors, window, scratch)
  }

  /** `pilot`: what hard thresholds left; the group's blocks are chosen and weighed by it. What lies at the ends of `clean` is of no use. */
  function shrinkGroups(sheet: Sheet, light: Light, pilot: Sheet, clean: Sheet, variances: Pointer): void {
    const { area, stride } = clean
    const length = area.width * area.height
    const [sums, weights] = [newSheet(heap, area), newSheet(heap, area)]
    for (const { at } of [sums, weights]) heap.f32(at, length).fill(0)
    // Where the pilot is what it is in the whole picture.
    const inset = Math.ceil((blockReach + groups.reach) / groups.step) * groups.step
    const count = (side: number): number => Math.floor((side - 2 * inset - 1) / groups.step)
    const first = { x: area.x + inset, y: area.y + inset }
    const from = [placeOn(sheet, first), placeOn(light, first), sheet.stride, placeOn(pilot, first)] as const
    const to = [placeOn(sums, first), placeOn(weights, first), stride] as const
    const { step, reach, most } = groups
    run.shrinkGroups(...from, ...to, count(area.width), count(area.height), step, reach, most, variances, factors, window)
    run.shareGroups(sums.at, weights.at, clean.at, length)
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

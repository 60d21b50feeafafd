import type { Pointer } from '@kernels/heap'
import { allocatePlane, copyPlane, type Planes } from '@kernels/planes'
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

/** Blocks are this far apart, or half as far. */
const widestStep = 4

/** Pixels at the border that doubling a copy leaves out. */
const doublingMargin = 10

/** Reach of a chain of `levels` reduced copies: the blocks' of two passes at the coarsest, and what reducing and enlarging add at each other. */
function chainReach(levels: number): number {
  return levels === 1 ? 2 * (blockEdge - 1) : 2 * (chainReach(levels - 1) + 1) + doublingMargin
}

/** Windows begin and end where the blocks of every reduced copy do. */
const alignment = (levels: number): number => widestStep << (levels - 1)

export const shrinkReach = (levels: number): number => chainReach(levels) + alignment(levels) - 1

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

interface Window {
  readonly width: number
  readonly height: number
}

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

/**
 * Takes noise out of a tile in linear light: cosine-transform shrinkage (Yu & Sapiro 2011) of brightness and colour differences, from
 * coarse to fine (after Pierazzo, Morel & Facciolo 2017): each copy gives the one above it its low frequencies.
 */
export function shrinkNoise(job: NeighbourhoodJob, profile: NoiseProfile, amounts: ShrinkAmounts): void {
  const { kernels, input, output, reach, x, y, scale } = job
  const { heap, run } = kernels
  const levels = Math.max(amounts.brightnessLevels, amounts.colourLevels)
  const grid = alignment(levels)
  const [left, top] = [align(x - reach, grid), align(y - reach, grid)]
  const width = Math.floor((x + output.width + reach) / grid) * grid - left
  const height = Math.floor((y + output.height + reach) / grid) * grid - top
  const window: Planes = { width, height, stride: width, channels: [0, 1, 2].map(() => allocatePlane(heap, width, height)) as never }
  const toBrightness = ready(enter)
  for (let row = 0; row < height; row++) {
    const planes = window.channels.map((plane) => plane + row * width * 4) as [Pointer, Pointer, Pointer]
    for (const [i, plane] of planes.entries())
      copyPlane(heap, input.channels[i] as Pointer, input.stride, left - x + reach, top - y + reach + row, plane, { ...window, height: 1 })
    toBrightness(planes, width)
  }

  const firstLevel = Math.max(0, -Math.log2(scale))
  const factors = heap.floats(profile.factors)
  const guide = window.channels[0]
  const cleaned = window.channels.map((plane, channel) => {
    const [share, count] = channel === 0 ? [amounts.brightness, amounts.brightnessLevels] : [amounts.colour, amounts.colourLevels]
    if (share === 0) return plane
    const spectra = Array.from({ length: count }, (_, level) => {
      const deviations = deviationsAt(profile.deviations[channel] ?? [], firstLevel + level)
      const scaled = (factor: number): Pointer => heap.floats(overFrequencies(deviations, factor * kernelScale))
      return { thresholds: scaled(amounts.threshold), deviations: scaled(1), isQuiet: isQuiet(deviations, channel, level + 1 < count) }
    })
    const clean = shrinkLevel(plane, guide, window, spectra)
    if (share < 1) run.mix(clean, plane, width * height, share)
    return clean
  })
  const toLight = ready(leave)
  for (let row = 0; row < output.height; row++) {
    const planes = cleaned.map((plane) => plane + (y - top + row) * width * 4) as [Pointer, Pointer, Pointer]
    toLight(planes, width)
    for (const [i, target] of output.channels.entries())
      copyPlane(heap, planes[i] as Pointer, width, x - left, 0, target + row * output.stride * 4, { ...output, height: 1 })
  }

  /** Passes that run on a row while it is still in the cache. */
  function ready(passes: readonly PointPass[]): (planes: readonly [Pointer, Pointer, Pointer], count: number) => void {
    const onHeap = passes.map(({ kernel, parameters }) => ({ kernel, at: heap.floats(parameters) }))
    return (planes, count) => {
      for (const { kernel, at } of onHeap) run[kernel](...planes, count, at)
    }
  }

  /** A new plane of the window's geometry; the outermost pixels are of no use. Hard thresholds, then gains from what they left. */
  function shrinkLevel(plane: Pointer, light: Pointer, { width: w, height: h }: Window, spectra: readonly Spectrum[]): Pointer {
    const clean = allocatePlane(heap, w, h)
    const blockStep = amounts.step
    const { thresholds, deviations, isQuiet: isLeft } = spectra[0] as Spectrum
    if (isLeft) new Uint8Array(heap.memory.buffer).copyWithin(clean, plane, plane + w * h * 4)
    else
      heap.scope(() => {
        const weights = allocatePlane(heap, w, h)
        const scratch = heap.allocate(w * 25 * 4)
        const [across, down] = [(w - blockEdge) / blockStep + 1, (h - blockEdge) / blockStep + 1]
        const into = (sums: Pointer, pass: () => void): void => {
          for (const at of [sums, weights]) heap.f32(at, w * h).fill(0)
          pass()
          run.dividePlane(sums, weights, w, sums, w, w, h)
        }
        const first = amounts.passes === 1 ? clean : allocatePlane(heap, w, h)
        into(first, () => run.shrinkBlocks(plane, light, w, first, weights, across, down, blockStep, thresholds, factors, scratch))
        if (amounts.passes === 2)
          into(clean, () => run.weighBlocks(plane, first, light, w, clean, weights, across, down, blockStep, deviations, factors, scratch))
      })
    if (spectra.length > 1) heap.scope(() => replaceLow(plane, light, clean, { width: w, height: h }, spectra.slice(1)))
    return clean
  }

  /** What is left of coarse noise: the reduced copy is cleaned by itself, and the difference goes on top. */
  function replaceLow(plane: Pointer, light: Pointer, clean: Pointer, { width: w, height: h }: Window, spectra: readonly Spectrum[]): void {
    const small = { width: w / 2, height: h / 2 }
    const [smallPlane, smallLight, smallClean] = [plane, light, clean].map((from) => {
      const target = allocatePlane(heap, small.width, small.height)
      run.halvePlane(from, target, w, h)
      return target
    }) as [Pointer, Pointer, Pointer]
    const better = shrinkLevel(smallPlane, smallLight, small, spectra)
    run.addScaled(better, smallClean, small.width * small.height, -1)
    run.addDoubled(better, clean, w, h)
  }
}

const align = (value: number, grid: number): number => Math.ceil(value / grid) * grid

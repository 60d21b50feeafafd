import type { Kernels } from '@kernels/binding'
import { memoised } from '@/base/lru-cache'
import { floatAt, integerAt, numberAt } from '@/base/numbers'
import { present } from '@/base/present'
import { mapPair, mapTriple, triple } from '@/base/tuples'
import type { LinearPicture } from '@/pixels/linear-picture'
import { brightnessBins, factorNodes, frequencyRings, type NoiseProfile, noiseLevels, ringOf } from '../support/noise-profile'
import { type Blocks, binOf, type Flat, flattestBlocks, frequenciesOfRings, measuredOn, parities } from './noise-blocks'
import { type NoiseShares, noiseShares } from './noise-shares'
import { whiteDeviation } from './noise-white'

/** White noise of one deviation (0–1) in each encoded channel. */
export function whiteNoise(sigma: number): NoiseProfile {
  const shares = [1 / Math.sqrt(3), 1, 1]
  const levels = (share: number) =>
    Array.from({ length: noiseLevels }, (_, level) => Array.from({ length: frequencyRings }, () => (sigma * share) / 2 ** level))
  return { deviations: shares.map(levels), factors: Array.from({ length: factorNodes }, () => 1) }
}

const minBlocks = 8
/** Median of a squared normal deviate. */
const medianSquare = 0.45494

const factorAt = (factors: readonly number[], brightness: number): number => {
  const place = Math.min(1, Math.max(0, brightness)) * (factors.length - 1)
  const index = Math.min(Math.floor(place), factors.length - 2)
  const [low = 1, high = 1] = [factors[index], factors[index + 1]]
  return low + (high - low) * (place - index)
}

const frequenciesOf = Array.from({ length: frequencyRings }, (_, ring) => frequenciesOfRings(ring, ring))

/** Some coefficients of some blocks, each divided by its block's factor. */
interface Coefficients {
  readonly numbers: Int32Array
  readonly factors: Float32Array
  readonly frequencies: readonly number[]
}

const countOf = (parts: readonly Coefficients[]): number =>
  parts.reduce((sum, { numbers, frequencies }) => sum + numbers.length * frequencies.length, 0)

/** Standard deviation of coefficients, by the median of their squares; 0 where there are none. */
function deviationOf({ heap, run }: Kernels, { coefficients }: Blocks, parts: readonly Coefficients[]): number {
  const count = countOf(parts)
  if (count === 0) return 0
  return heap.scope(() => {
    const squares = heap.allocate(count * 4)
    let to = squares
    for (const { numbers, factors, frequencies } of parts) {
      const [at, by, from] = [heap.integers(numbers), heap.floats(factors), heap.integers(frequencies)]
      run.squaresOfBlocks(coefficients, at, by, numbers.length, from, frequencies.length, to)
      to += numbers.length * frequencies.length * 4
    }
    return Math.sqrt(run.floatOfRank(squares, count, count >> 1) / medianSquare)
  })
}

/** Deviation in each ring once the influence of brightness is taken out. */
function ringDeviations(kernels: Kernels, { blocks, chosen }: Flat, factors: readonly number[]): number[] {
  const factorsOf = mapPair(chosen, (numbers) => {
    const own = new Float32Array(numbers.length)
    for (let i = 0; i < own.length; i++) own[i] = factorAt(factors, floatAt(blocks.brightness, integerAt(numbers, i)))
    return own
  })
  return frequenciesOf.map((ring) =>
    deviationOf(
      kernels,
      blocks,
      mapPair(parities, (parity) => ({
        numbers: measuredOn(chosen, parity),
        factors: measuredOn(factorsOf, parity),
        frequencies: present(ring[parity]),
      })),
    ),
  )
}

/** Rings that hold little drawing: what the influence of brightness is measured on. */
const fineRings = { first: 3, last: 8 } as const

function brightnessFactors(kernels: Kernels, { blocks, chosen }: Flat, deviations: readonly number[]): number[] {
  const perBlock = 25
  const rings = frequenciesOf.flatMap((frequencies, ring) => {
    const expected = numberAt(deviations, ring)
    return ring >= fineRings.first && ring <= fineRings.last && expected > 0 ? [{ frequencies, expected }] : []
  })
  const known = Array.from({ length: brightnessBins }, (_, bin) => {
    const own = mapPair(chosen, (numbers) => numbers.filter((n) => binOf(floatAt(blocks.brightness, n)) === bin))
    const parts = rings.flatMap(({ frequencies, expected }) =>
      mapPair(parities, (parity) => {
        const numbers = measuredOn(own, parity)
        return { numbers, factors: new Float32Array(numbers.length).fill(expected), frequencies: present(frequencies[parity]) }
      }),
    )
    return countOf(parts) >= minBlocks * perBlock ? deviationOf(kernels, blocks, parts) : Number.NaN
  })
  return smoothed(filled(known))
}

/** Unknown values take their nearest known neighbour's. */
function filled(values: readonly number[]): number[] {
  const known = values.flatMap((value, i) => (Number.isNaN(value) ? [] : [i]))
  if (known.length === 0) return values.map(() => 1)
  return values.map((value, i) => {
    if (!Number.isNaN(value)) return value
    const nearest = known.reduce((best, k) => (Math.abs(k - i) < Math.abs(best - i) ? k : best))
    return numberAt(values, nearest)
  })
}

/** From the middles of the bins to their borders, held to a sane range. */
function smoothed(bins: readonly number[]): number[] {
  return Array.from({ length: factorNodes }, (_, i) => {
    const [left, right] = [numberAt(bins, Math.max(0, i - 1)), numberAt(bins, Math.min(bins.length - 1, i))]
    return Math.min(5, Math.max(0.2, (left + right) / 2))
  })
}

/** Codes of 8 bits in each channel that a sensor may be expected to stay below at ISO 100, growing with the root of ISO (common practice). */
const maxAtIso100 = 2.7
/** Low frequencies may carry more than white noise does. */
const lowHeadroom = [2, 1.5] as const
const headroom = 1.25

/** What a camera can have made at this ISO. Colour blotches come with high ISO and fade more slowly from copy to copy. */
function isoLimit(iso: number, channel: number, level: number, ring: number): number {
  const share = channel === 0 ? 1 / Math.sqrt(3) : 1
  const fading = channel === 0 ? 1 : Math.min(1, Math.max(0.3, 1 - 0.25 * Math.log2(iso / 400)))
  return (maxAtIso100 / 255) * Math.sqrt(iso / 100) * share * 2 ** (-level * fading) * (lowHeadroom[ring] ?? headroom)
}

/**
 * How much more the lower of two neighbouring frequencies may carry: for white noise, and for noise whose spectrum falls, as cameras and
 * JPEG leave it. Rings 1 to 3 relative to ring 4; what halving a copy leaves; the lowest ring of a copy relative to its next.
 */
const climbs = {
  white: { rings: [1.05, 1.05, 1.05], kept: 0.52, lowest: 1.1 },
  falling: { rings: [1.9, 1.6, 1.3], kept: 0.6, lowest: 1.7 },
} as const

/** 0 for a flat spectrum, 1 for one that loses more than half from ring 4 to ring 7. */
const fallOf = (rings: readonly number[]): number => {
  const ratio = numberAt(rings, 3) / Math.max(numberAt(rings, 6), 1e-6)
  return Math.min(1, Math.max(0, (ratio - 1.05) / 1.2))
}

/** Brightness noise that can't be: what is drawn all over a picture is not taken for noise. */
function plausible(levels: readonly (readonly number[])[]): number[][] {
  const result: number[][] = []
  const fall = fallOf(levels[0] ?? [])
  const between = (white: number, falling: number): number => white + (falling - white) * fall
  const steepest = climbs.white.rings.map((white, ring) => between(white, numberAt(climbs.falling.rings, ring)))
  const kept = between(climbs.white.kept, climbs.falling.kept)
  for (const [level, measured] of levels.entries()) {
    const above = result[level - 1]
    const limited = measured.map((value, ring) => {
      const steep = steepest[ring]
      if (!above) return steep === undefined ? value : Math.min(value, numberAt(measured, 3) * steep)
      if (ring === 0) return value
      // Ring number r + 1 of this copy is (r + 1) / 2 of the one above: between two of its rings, or one.
      const place = (ring + 1) / 2 - 1
      const [low, high] = [numberAt(above, Math.floor(place)), numberAt(above, Math.ceil(place))]
      return Math.min(value, kept * (low + (high - low) * (place - Math.floor(place))))
    })
    if (above) limited[0] = Math.min(numberAt(limited, 0), between(climbs.white.lowest, climbs.falling.lowest) * numberAt(limited, 1))
    result.push(limited)
  }
  return result
}

const rounded = (value: number): number => Number(value.toPrecision(4))

interface Measured {
  /** [channel][level][ring] */
  readonly deviations: readonly (readonly (readonly number[])[])[]
  readonly factors: readonly number[]
  readonly shares: NoiseShares
}

/** The dear part, the same for every setting. */
const measure = memoised((patches: readonly LinearPicture[]): Measured => {
  const { kernels } = present(patches[0])
  return kernels.heap.scope(() => {
    const levels = flattestBlocks(kernels, patches)
    const wholes = present(levels[0])
    const even = Array.from({ length: factorNodes }, () => 1)
    const factors = brightnessFactors(kernels, wholes[0], ringDeviations(kernels, wholes[0], even))
    const deviations = triple((channel) => levels.map((flats) => ringDeviations(kernels, flats[channel], factors)))
    const shares = noiseShares(
      kernels,
      wholes,
      mapTriple(deviations, (rings) => present(rings[0])),
    )
    return { factors, deviations, shares }
  })
})

export interface NoiseKnown {
  readonly iso?: number | undefined
  /** All that flat blocks hold is taken for noise, drawing too, as at first. */
  readonly believesAll?: boolean
}

/**
 * Noise measured on pieces of a picture at full size: medians over the flattest blocks (after Donoho & Johnstone 1994, for every
 * frequency instead of the finest wavelet alone, since cameras and JPEG leave noise that is not white), held to what noise can be.
 * @param patches at least one
 */
export function measureNoise(patches: readonly LinearPicture[], { iso, believesAll = false }: NoiseKnown = {}): NoiseProfile {
  const { deviations, factors, shares } = measure(patches)
  const limited = deviations.map((levels, channel) => {
    const share = believesAll ? 1 : numberAt(shares, channel)
    const scaled = levels.map((rings) => rings.map((value) => value * share))
    return channel === 0 ? plausible(scaled) : scaled
  })
  const found = {
    deviations: limited.map((levels, channel) =>
      levels.map((rings, level) =>
        rings.map((value, ring) => rounded(iso === undefined ? value : Math.min(value, isoLimit(iso, channel, level, ring)))),
      ),
    ),
    factors: factors.map(rounded),
  }
  const white = believesAll ? undefined : whiteDeviation(found)
  return white === undefined ? found : whiteNoise(rounded(white))
}

/** Less than this many codes is no noise whose kind could be told. */
const leastOfAKind = 0.15

/** Noise of a given deviation (0–1) in each encoded channel, of the kind that a picture is measured to have: cameras leave none that is white. */
export function noiseOfKind({ deviations, factors }: NoiseProfile, sigma: number, brightness: number): NoiseProfile {
  const found = deviationCodes({ deviations, factors }, brightness)
  if (found < leastOfAKind) return whiteNoise(sigma)
  const share = (sigma * 255) / Math.sqrt(3) / found
  return { deviations: deviations.map((levels) => levels.map((rings) => rings.map((value) => rounded(value * share)))), factors }
}

/** Standard deviation of brightness noise at full size, in codes of 8 bits, at a brightness. */
export function deviationCodes({ deviations, factors }: NoiseProfile, brightness: number): number {
  const rings = deviations[0]?.[0] ?? []
  const mean = ringOf.slice(1).reduce((sum, ring) => sum + (rings[ring] ?? 0) ** 2, 0) / 63
  return Math.sqrt(mean) * factorAt(factors, brightness) * 255
}

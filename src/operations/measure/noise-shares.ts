import type { Kernels } from '@kernels/binding'
import { floatAt, numberAt } from '@/base/numbers'
import { mapPair } from '@/base/tuples'
import { brightnessBins, ringOf } from '../support/noise-profile'
import { type Blocks, binOf, type Flat, frequenciesOfRings, measuredOn } from './noise-blocks'

/*
 * How much of what the flattest blocks hold is noise. Where a picture has even ground, all; where it is drawn all over, as gravel, wood
 * and cloth are, the flattest blocks hold drawing, too. Three things tell: a sensor's noise is as strong in every block of a brightness
 * (Liu et al. 2008), drawing is not; it rises little towards coarse frequencies and falls steadily towards fine ones; and every channel has
 * its own, so that colour differences hold noise which does not follow brightness, and drawing leaves them nearly empty.
 */

type Rings = readonly number[]

/** 0–1, of brightness and both colour differences. */
export type NoiseShares = readonly [number, number, number]

/** From 1 at `good` and below to 0 at `bad` and above. */
const trust = (value: number, good: number, bad: number): number => Math.min(1, Math.max(0, (bad - value) / (bad - good)))

/** How uneven the chosen blocks of noise are (`spreadOf`): 0.7–1.2. */
const evenSpread = { good: 1.15, bad: 1.4 } as const
/** By how much its coarsest ring stands above the fourth: 0.9–2.4. */
const coarsest = { good: 2.4, bad: 2.9 } as const
/** One of the two may be worse if the other is better: JPEG makes weak noise uneven, and then leaves nothing of it in colour. */
const drawnLimits = { good: 2.3, bad: 2.7 } as const
const drawnLimitsAsJpeg = { good: 4.5, bad: 6 } as const
/** Weak: in codes. Nothing in colour: as a share of brightness. */
const weakNoise = { good: 4, bad: 5.5 } as const
const noColour = { good: 0.03, bad: 0.1 } as const

/** Deviations relative to another ring's: noise of cameras and of JPEG stays below the first of each pair. */
const shapes = [
  { ring: 2, of: 3, good: 1.5, bad: 1.9 },
  { ring: 3, of: 6, good: 4.2, bad: 5.5 },
] as const
/** Brightness noise relative to what colour differences hold beside it: 0.6 for white noise, about as much for a camera's. */
const brightnessHeadroom = 0.85
/** Colour differences of a sensor's noise relative to what they hold beside brightness, at most. */
const colourHeadroom = 1.6
/** Keeps 0 / 0 away. */
const least = 1e-9
/** What is coarse survives JPEG, whose colours are coarser than its brightness. */
const coarseRings = 3

const square = (value: number): number => value * value

/** The blocks of a flat choice, and the frequencies they are measured at: those of the other parity than has chosen them. */
function* chosenBlocks({ chosen }: Flat): Generator<{ readonly block: number; readonly parity: 0 | 1 }> {
  for (const parity of [0, 1] as const) for (const block of measuredOn(chosen, parity)) yield { block, parity }
}

/** What blocks hold: 64 numbers each, as long as nothing is allocated. */
const coefficientsOf = ({ heap }: Kernels, { brightness, coefficients }: Blocks): Float32Array =>
  heap.f32(coefficients, brightness.length * 64)

const minBlocks = 8
const spreadFrequencies = frequenciesOfRings(1, 6)
const coarseFrequencies = frequenciesOfRings(0, coarseRings - 1)

/** Deviation over the coarse frequencies. */
function coarse(rings: readonly number[]): number {
  const squares = ringOf.flatMap((ring) => (ring >= 0 && ring < coarseRings ? [square(rings[ring] ?? 0)] : []))
  return Math.sqrt(squares.reduce((sum, value) => sum + value, 0) / squares.length)
}

/** Logarithm of how much more the busiest tenth of the chosen blocks holds than the quietest, in the mean of all brightnesses. */
function spreadOf(kernels: Kernels, flat: Flat, deviations: readonly number[]): number {
  const coefficients = coefficientsOf(kernels, flat.blocks)
  const bins = Array.from({ length: brightnessBins }, (): number[] => [])
  for (const { block, parity } of chosenBlocks(flat)) {
    let energy = 0
    for (const i of spreadFrequencies[parity])
      energy += square(floatAt(coefficients, block * 64 + i) / Math.max(numberAt(deviations, numberAt(ringOf, i)), least))
    bins[binOf(floatAt(flat.blocks.brightness, block))]?.push(energy)
  }
  let [sum, count] = [0, 0]
  for (const energies of bins) {
    if (energies.length < minBlocks) continue
    const sorted = energies.sort((a, b) => a - b)
    const at = (share: number): number => numberAt(sorted, Math.floor(share * (sorted.length - 1))) + least
    sum += energies.length * Math.log(at(0.9) / at(0.1))
    count += energies.length
  }
  return count === 0 ? 0 : sum / count
}

/** Deviation of a colour difference at coarse frequencies, what follows brightness taken out of each block: the median of blocks. */
function besideBrightness(kernels: Kernels, flat: Flat, colour: Blocks): number {
  const [ofLight, ofColour] = mapPair([flat.blocks, colour], (blocks) => coefficientsOf(kernels, blocks))
  const energies: number[] = []
  for (const { block, parity } of chosenBlocks(flat)) {
    const frequencies = coarseFrequencies[parity]
    let [both, light, tint] = [0, 0, 0]
    for (const i of frequencies) {
      const [x, y] = [floatAt(ofLight, block * 64 + i), floatAt(ofColour, block * 64 + i)]
      both += x * y
      light += x * x
      tint += y * y
    }
    energies.push((tint - (light > 0 ? (both * both) / light : 0)) / (frequencies.length - 1))
  }
  const sorted = Float64Array.from(energies).sort()
  return Math.sqrt(Math.max(0, sorted[sorted.length >> 1] ?? 0))
}

/**
 * @param flats of brightness and both colour differences at full size, measured at the same places
 * @param deviations of each, by ring
 */
export function noiseShares(kernels: Kernels, flats: readonly [Flat, Flat, Flat], deviations: readonly [Rings, Rings, Rings]): NoiseShares {
  const [light, ...colours] = flats
  const [rings, ...ofColours] = deviations
  const beside = Math.min(...colours.map((flat) => besideBrightness(kernels, light, flat.blocks)))
  const found = (numberAt(rings, 2) + numberAt(rings, 3)) / 2
  const byColour = (brightnessHeadroom * beside) / Math.max(found, least)
  const asJpeg = trust(255 * found, weakNoise.good, weakNoise.bad) * trust(byColour, noColour.good, noColour.bad)
  const limit = (which: 'good' | 'bad'): number => drawnLimits[which] + asJpeg * (drawnLimitsAsJpeg[which] - drawnLimits[which])
  const over = (ring: number, of: number): number => numberAt(rings, ring) / Math.max(numberAt(rings, of), least)
  const [spread, rise] = [spreadOf(kernels, light, rings), over(0, 3)]
  const both = trust(spread, evenSpread.good, evenSpread.bad) * trust(rise, coarsest.good, coarsest.bad)
  const even = Math.max(both, trust(spread * rise, limit('good'), limit('bad')))
  const shape = Math.min(...shapes.map(({ ring, of, good, bad }) => trust(over(ring, of), good, bad)))
  const colourShare = (index: 0 | 1): number => Math.min(1, (colourHeadroom * beside) / Math.max(coarse(ofColours[index] ?? []), least))
  return [Math.max(even * shape, Math.min(1, byColour)), colourShare(0), colourShare(1)]
}

import { floatAt, numberAt } from '@/base/numbers'
import { present } from '@/base/present'
import { brightnessBins, ringOf } from '../support/noise-profile'
import { type Blocks, binOf, type Flat, parityOf } from './noise-blocks'

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

/** Logarithm of how much more the busiest tenth of the chosen blocks holds than the quietest: measured 0.7–1.2 on noise. */
const evenSpread = { good: 1.15, bad: 1.4 } as const
/** Deviations relative to another ring's: noise of cameras and of JPEG stays below the first of each pair. */
const shapes = [
  { ring: 0, of: 3, good: 2.4, bad: 2.9 },
  { ring: 2, of: 3, good: 1.5, bad: 1.9 },
  { ring: 3, of: 6, good: 4.2, bad: 5.5 },
] as const
/** Brightness noise relative to what colour differences hold beside it: 0.6 for white noise, about as much for a camera's. */
const brightnessHeadroom = 0.85
/** Colour differences of a sensor's noise relative to what they hold beside brightness, at most. */
const colourHeadroom = 1.6
/** What is coarse survives JPEG, whose colours are coarser than its brightness. */
const coarseRings = 3

const square = (value: number): number => value * value

/** The blocks of a flat choice, and the frequencies they are measured at: those of the other parity than has chosen them. */
function* chosenBlocks({ chosen }: Flat): Generator<{ readonly block: number; readonly parity: 0 | 1 }> {
  for (const parity of [0, 1] as const) for (const block of present(chosen[1 - parity])) yield { block, parity }
}

const minBlocks = 8
const spreadRings = { first: 1, last: 6 } as const

/** Deviation over the coarse frequencies. */
function coarse(rings: readonly number[]): number {
  const squares = ringOf.flatMap((ring) => (ring >= 0 && ring < coarseRings ? [square(rings[ring] ?? 0)] : []))
  return Math.sqrt(squares.reduce((sum, value) => sum + value, 0) / squares.length)
}

/** Spread of the energy over blocks of one brightness, in the mean of all brightnesses. */
function spreadOf(flat: Flat, deviations: readonly number[]): number {
  const bins = Array.from({ length: brightnessBins }, (): number[] => [])
  for (const { block, parity } of chosenBlocks(flat)) {
    let energy = 0
    for (let i = 1; i < 64; i++) {
      const ring = numberAt(ringOf, i)
      if (parityOf[i] !== parity || ring < spreadRings.first || ring > spreadRings.last) continue
      energy += square(floatAt(flat.blocks.coefficients, block * 64 + i) / Math.max(numberAt(deviations, ring), 1e-9))
    }
    bins[binOf(floatAt(flat.blocks.brightness, block))]?.push(energy)
  }
  let [sum, count] = [0, 0]
  for (const energies of bins) {
    if (energies.length < minBlocks) continue
    const sorted = energies.sort((a, b) => a - b)
    const at = (share: number): number => numberAt(sorted, Math.floor(share * (sorted.length - 1))) + 1e-9
    sum += energies.length * Math.log(at(0.9) / at(0.1))
    count += energies.length
  }
  return count === 0 ? 0 : sum / count
}

/** Deviation of a colour difference at coarse frequencies, what follows brightness taken out of each block: the median of blocks. */
function besideBrightness(flat: Flat, colour: Blocks): number {
  const energies: number[] = []
  for (const { block, parity } of chosenBlocks(flat)) {
    let [both, light, tint, count] = [0, 0, 0, 0]
    for (let i = 1; i < 64; i++) {
      if (parityOf[i] !== parity || numberAt(ringOf, i) >= coarseRings) continue
      const [x, y] = [floatAt(flat.blocks.coefficients, block * 64 + i), floatAt(colour.coefficients, block * 64 + i)]
      both += x * y
      light += x * x
      tint += y * y
      count++
    }
    energies.push((tint - (light > 0 ? (both * both) / light : 0)) / (count - 1))
  }
  const sorted = Float64Array.from(energies).sort()
  return Math.sqrt(Math.max(0, sorted[sorted.length >> 1] ?? 0))
}

/**
 * @param flats of brightness and both colour differences at full size, measured at the same places
 * @param deviations of each, by ring
 */
export function noiseShares(flats: readonly [Flat, Flat, Flat], deviations: readonly [Rings, Rings, Rings]): NoiseShares {
  const [light, ...colours] = flats
  const [rings, ...ofColours] = deviations
  const beside = Math.min(...colours.map((flat) => besideBrightness(light, flat.blocks)))
  const even = trust(spreadOf(light, rings), evenSpread.good, evenSpread.bad)
  const shape = Math.min(
    ...shapes.map(({ ring, of, good, bad }) => trust(numberAt(rings, ring) / Math.max(numberAt(rings, of), 1e-9), good, bad)),
  )
  const found = (numberAt(rings, 2) + numberAt(rings, 3)) / 2
  const byColour = (brightnessHeadroom * beside) / Math.max(found, 1e-9)
  const colourShare = (index: 0 | 1): number => Math.min(1, (colourHeadroom * beside) / Math.max(coarse(ofColours[index] ?? []), 1e-9))
  return [Math.max(even * shape, Math.min(1, byColour)), colourShare(0), colourShare(1)]
}

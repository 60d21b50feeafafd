import { mean } from 'd3'
import { present } from '@/base/present'
import type { NoiseProfile } from '../support/noise-profile'

/** Rings that hold little drawing, and enough frequencies each for their deviation to be known to a few per cent. */
const steady = { first: 3, last: 6 } as const
/** How far apart two deviations may lie that were measured on the same noise. */
const ringsApart = 0.12
const channelsApart = { less: 0.9, more: 1.18 } as const
const factorsApart = 0.2

const fineOf = (rings: readonly number[]): number => mean(rings.slice(steady.first, steady.last + 1)) ?? 0

const isFlat = (rings: readonly number[]): boolean => {
  const middle = fineOf(rings)
  return rings.slice(steady.first, steady.last + 1).every((value) => Math.abs(value - middle) <= ringsApart * middle)
}

const isAlike = (value: number, other: number): boolean => value > other * channelsApart.less && value < other * channelsApart.more

/**
 * White noise, alike in the three channels: its deviation in each encoded channel (0–1), if what was measured may be just that. Cameras'
 * noise and JPEG's falls towards the high frequencies, or from channel to channel. Colour tells it best: it has the least drawing.
 */
export function whiteDeviation({ deviations, factors }: NoiseProfile): number | undefined {
  const wholes = deviations.map((levels) => present(levels[0]))
  const [light = 0, first = 0, second = 0] = wholes.map(fineOf)
  const isWhite =
    second > 0 &&
    wholes.every(isFlat) &&
    isAlike(first, second) &&
    isAlike(light * Math.sqrt(3), (first + second) / 2) &&
    // Halving leaves half of it.
    deviations.every((levels, channel) => isAlike(2 * fineOf(present(levels[1])), fineOf(present(wholes[channel])))) &&
    factors.every((factor) => Math.abs(factor - 1) <= factorsApart)
  return isWhite ? (first + second) / 2 : undefined
}

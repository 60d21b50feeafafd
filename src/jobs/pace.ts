import { max, median, min, sum } from 'd3'

/** A picture that is through: when, how long a worker was at it, and how much it weighed. */
export interface Finished {
  readonly at: number
  readonly milliseconds: number
  readonly sizeBytes: number
}

export interface Pace {
  readonly picturesPerSecond: number
  readonly bytesPerSecond: number
}

/**
 * How fast pictures go through, of the newest that are: from when the first of them was begun, not finished. Workers that begin together
 * finish together, and the time between two finished pictures may be next to nothing.
 */
export function paceOf(finished: readonly Finished[]): Pace | null {
  const begun = min(finished, ({ at, milliseconds }) => at - milliseconds)
  const ended = max(finished, ({ at }) => at)
  if (begun === undefined || ended === undefined || ended <= begun) return null
  const span = ended - begun
  const atATime = sum(finished, ({ milliseconds }) => milliseconds) / span
  // Of the one in the middle: the first pictures take longer, while a worker warms up.
  const perByte = median(finished, ({ milliseconds, sizeBytes }) => milliseconds / Math.max(1, sizeBytes)) ?? 0
  return { picturesPerSecond: (1000 * finished.length) / span, bytesPerSecond: perByte > 0 ? (1000 * atATime) / perByte : 0 }
}

/** What is left takes as long as it weighs: large pictures take longer than small ones. */
export const secondsLeft = ({ bytesPerSecond }: Pace, openBytes: number): number | null =>
  openBytes > 0 && bytesPerSecond > 0 ? openBytes / bytesPerSecond : null

import { max, median, min, sum } from 'd3'

/** A picture that is through: when, how long a worker was at it, and how large it was. */
export interface Finished {
  readonly at: number
  readonly milliseconds: number
  readonly pixels: number
}

export interface Pace {
  readonly picturesPerSecond: number
  readonly pixelsPerSecond: number
}

const begunAt = ({ at, milliseconds }: Finished): number => at - milliseconds

/** Of fewer pictures a worker's first one, which takes longer, tells too much. */
const fewest = 4

/** Nobody at work for this many times the longest picture: the run was paused, or the machine was off. */
const pauseFactor = 10

/** Those since the last pause. */
function sincePause(finished: readonly Finished[]): readonly Finished[] {
  const longest = max(finished, ({ milliseconds }) => milliseconds) ?? 0
  let part: Finished[] = []
  let ended = Number.POSITIVE_INFINITY
  for (const picture of finished.toSorted((a, b) => begunAt(a) - begunAt(b))) {
    if (begunAt(picture) - ended > pauseFactor * longest) part = []
    ended = part.length === 0 ? picture.at : Math.max(ended, picture.at)
    part.push(picture)
  }
  return part
}

/**
 * How fast pictures go through, of the newest that are: from when the first of them was begun, not finished. Workers that begin together
 * finish together, and the time between two finished pictures may be next to nothing.
 */
export function paceOf(newest: readonly Finished[]): Pace | null {
  const finished = sincePause(newest)
  const begun = min(finished, begunAt)
  const ended = max(finished, ({ at }) => at)
  if (finished.length < fewest || begun === undefined || ended === undefined || ended <= begun) return null
  const span = ended - begun
  const atATime = sum(finished, ({ milliseconds }) => milliseconds) / span
  // Of the one in the middle: the first pictures take longer, while a worker warms up.
  const perPixel = median(finished, ({ milliseconds, pixels }) => milliseconds / Math.max(1, pixels)) ?? 0
  return { picturesPerSecond: (1000 * finished.length) / span, pixelsPerSecond: perPixel > 0 ? (1000 * atATime) / perPixel : 0 }
}

/** Large pictures take longer than small ones. What a file weighs says less: plain grounds weigh little, and take as long. */
export const secondsLeft = ({ pixelsPerSecond }: Pace, openPixels: number): number | null =>
  openPixels > 0 && pixelsPerSecond > 0 ? openPixels / pixelsPerSecond : null

import { plainNumber } from '@/base/format'

/** What the times on the beads are. */
export const whatTimesAre = 'For this picture in full size, on one core of this machine; reading and writing the file not counted'

const leastMs = 5
const notYet = '…'
const seconds = (milliseconds: number): string => (milliseconds < leastMs ? 'under 0.01 s' : `${plainNumber(milliseconds / 1000, 2)} s`)

/**
 * What a step takes, in words: what the picture takes more with it than without it, those before it done.
 * @param times milliseconds with none of the steps, with the first, with the first two …: as many as are known
 */
export function takenBy(times: readonly number[], index: number): string {
  const [before, after] = [times[index], times[index + 1]]
  return before === undefined || after === undefined ? notYet : seconds(after - before)
}

/** What all steps take. */
export function allOf(times: readonly number[], steps: number): string {
  const all = times[steps]
  return all === undefined ? notYet : `all ${seconds(all)}`
}

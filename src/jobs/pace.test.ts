import { describe, expect, it } from 'vitest'
import { seeded } from '../../tests/pictures'
import { type Finished, paceOf, secondsLeft } from './pace'

/** What two workers make of pictures, one after the other: a tenth of a second each, and for every megabyte; the first two take longer. */
function worked(sizes: readonly number[]): Finished[] {
  const free = [0, 0]
  return sizes
    .map((sizeBytes, i) => {
      const worker = (free[0] as number) <= (free[1] as number) ? 0 : 1
      const milliseconds = 100 + sizeBytes / 1e4 + (i < 2 ? 700 : 0)
      const at = (free[worker] as number) + milliseconds
      free[worker] = at
      return { at, milliseconds, sizeBytes }
    })
    .toSorted((a, b) => a.at - b.at)
}

const random = seeded(3)
const sets: Readonly<Record<string, readonly number[]>> = {
  'all alike': Array.from({ length: 200 }, () => 8e6),
  'phone and camera mixed': Array.from({ length: 200 }, () => (random() < 0.5 ? 3e6 : 14e6)),
  'small ones first': Array.from({ length: 200 }, (_, i) => (i < 40 ? 3e6 : 14e6)),
}

describe('the time that a run has left', () => {
  it.each(Object.entries(sets))('is right within a third from the tenth picture on: %s', (_, sizes) => {
    const all = worked(sizes)
    const end = (all.at(-1) as Finished).at
    for (const through of [10, 20, 50, 120, 180]) {
      const finished = all.slice(0, through)
      const now = (finished.at(-1) as Finished).at
      const pace = paceOf(finished.slice(-20))
      const open = all.slice(through).reduce((sum, { sizeBytes }) => sum + sizeBytes, 0)
      const told = pace && secondsLeft(pace, open)
      expect(Math.abs(((told ?? 0) * 1000) / (end - now) - 1)).toBeLessThan(0.34)
    }
  })
  it('is not told by two workers that finish their first picture at the same moment', () => {
    const pace = paceOf([
      { at: 2000, milliseconds: 1990, sizeBytes: 5e6 },
      { at: 2001, milliseconds: 2001, sizeBytes: 5e6 },
    ])
    expect(pace?.picturesPerSecond).toBeCloseTo(1, 2)
  })
  it('is unknown before a picture is through, and of nothing', () => {
    expect(paceOf([])).toBeNull()
    expect(paceOf([{ at: 5, milliseconds: 0, sizeBytes: 1 }])).toBeNull()
    expect(secondsLeft({ picturesPerSecond: 1, bytesPerSecond: 1e6 }, 0)).toBeNull()
  })
})

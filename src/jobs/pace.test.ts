import { describe, expect, it } from 'vitest'
import { seeded } from '../../tests/pictures'
import { type Finished, paceOf, secondsLeft } from './pace'

/** What two workers make of pictures, one after the other: a tenth of a second each, and for every two megapixels; the first two take longer. */
function worked(sizes: readonly number[]): Finished[] {
  const free = [0, 0]
  return sizes
    .map((pixels, i) => {
      const worker = (free[0] as number) <= (free[1] as number) ? 0 : 1
      const milliseconds = 100 + pixels / 2e4 + (i < 2 ? 700 : 0)
      const at = (free[worker] as number) + milliseconds
      free[worker] = at
      return { at, milliseconds, pixels }
    })
    .toSorted((a, b) => a.at - b.at)
}

const random = seeded(3)
const sets: Readonly<Record<string, readonly number[]>> = {
  'all alike': Array.from({ length: 200 }, () => 24e6),
  'phone and camera mixed': Array.from({ length: 200 }, () => (random() < 0.5 ? 8e6 : 45e6)),
  'small ones first': Array.from({ length: 200 }, (_, i) => (i < 40 ? 8e6 : 45e6)),
}

describe('the time that a run has left', () => {
  it.each(Object.entries(sets))('is right within a third from the tenth picture on: %s', (_, sizes) => {
    const all = worked(sizes)
    const end = (all.at(-1) as Finished).at
    for (const through of [10, 20, 50, 120, 180]) {
      const finished = all.slice(0, through)
      const now = (finished.at(-1) as Finished).at
      const pace = paceOf(finished.slice(-20))
      const open = all.slice(through).reduce((sum, { pixels }) => sum + pixels, 0)
      const told = pace && secondsLeft(pace, open)
      expect(Math.abs(((told ?? 0) * 1000) / (end - now) - 1)).toBeLessThan(0.34)
    }
  })
  it('is not thrown off by two workers that always finish at the same moment', () => {
    const pairs = [1000, 2000].flatMap((at) => [at, at + 1].map((moment) => ({ at: moment, milliseconds: 990, pixels: 5e6 })))
    expect(paceOf(pairs)?.picturesPerSecond).toBeCloseTo(2, 1)
  })
  it('takes no pause for slowness', () => {
    const night = 8 * 3600 * 1000
    const before = worked(Array<number>(20).fill(24e6))
    const after = worked(Array<number>(4).fill(24e6)).map((picture) => ({ ...picture, at: picture.at + night }))
    expect(paceOf([...before, ...after].slice(-20))?.pixelsPerSecond).toBeCloseTo(paceOf(after)?.pixelsPerSecond ?? 0, 3)
  })
  it('is unknown before a few pictures are through, and of nothing', () => {
    expect(paceOf([])).toBeNull()
    expect(paceOf(worked(Array<number>(3).fill(24e6)))).toBeNull()
    expect(paceOf(Array.from({ length: 4 }, () => ({ at: 5, milliseconds: 0, pixels: 1 })))).toBeNull()
    expect(secondsLeft({ picturesPerSecond: 1, pixelsPerSecond: 1e6 }, 0)).toBeNull()
  })
})

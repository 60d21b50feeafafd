import { expect, it } from 'vitest'
import { testKernels } from './kernels'
import { type Away, awayFrom, goodPictures, type Mishap } from './ranges'

/* What finding the full range does to good pictures, and to those that went wrong: against the good ones, as ΔE00. */

async function all(mishap: Mishap, keep: string, every = 1): Promise<Away[]> {
  const kernels = await testKernels()
  const found: Away[] = []
  for (const path of goodPictures().filter((_, i) => i % every === 0)) found.push(await awayFrom(kernels, path, mishap, { keep }))
  return found
}
const mean = (found: readonly Away[], of: (away: Away) => number): number => found.reduce((sum, away) => sum + of(away), 0) / found.length

it.each([
  ['colours', 2],
  ['balanced', 2.5],
])('a good picture is hardly changed, colours kept or balanced (%s)', async (keep, most) => {
  const found = await all('as it is', keep)
  expect(mean(found, ({ after }) => after)).toBeLessThan(most)
  expect(Math.max(...found.map(({ after }) => after))).toBeLessThan(5)
})

it.each([
  ['a stop dark', 0.7],
  // What is cut off does not come back.
  ['a stop bright', 0.9],
  ['scanned flat', 0.7],
] as const)('%s, nine of ten come out better', async (mishap, most) => {
  const found = await all(mishap, 'colours', 2)
  expect(found.filter(({ before, after }) => after < before).length / found.length).toBeGreaterThanOrEqual(0.9)
  expect(mean(found, ({ after }) => after)).toBeLessThan(mean(found, ({ before }) => before) * most)
})

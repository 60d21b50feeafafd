import type { Kernels } from '@kernels/binding'
import { mean } from 'd3'
import { orderOf, type Shot, shoot, shotSizes } from '../tests/jpeg-noise'
import { type Away, awayFrom, goodPictures, type Mishap, mishaps } from '../tests/ranges'
import type { Row } from './measure'

/* What the engine once did wrong, on pictures that show it. */

/** The noise of JPEG files whose sides are multiples of 64, and of others. */
export async function jpegNoiseRow(): Promise<Row> {
  const shots: Shot[] = []
  for (const [width, height] of shotSizes)
    for (const quality of [75, 85, 92, 98]) for (const sigma of [4, 8, 14]) shots.push(await shoot(width, height, { sigma, quality }))
  const off = shots.map(({ found, real }) => Math.abs(found / real - 1))
  const within = off.filter((share) => share <= 0.2).length
  const order = orderOf(shots)
  return {
    what: `noise found in ${shots.length} JPEG files (four sizes, two on the grid; quality 75–98; three strengths): within a fifth of what is in the file; rank correlation`,
    measured: `${within} of ${shots.length}, ${(100 * Math.max(...off)).toFixed(0)} % off at most; ${order.toFixed(2)}`,
    goal: 'all; ≥ 0.95',
    met: within === shots.length && order >= 0.95,
  }
}

/** Full range on the demo's good pictures, and on the same gone wrong. */
export async function rangeRows(kernels: Kernels): Promise<Row[]> {
  const rows: Row[] = []
  for (const mishap of Object.keys(mishaps) as Mishap[]) {
    const found: Away[] = []
    for (const path of goodPictures()) found.push(await awayFrom(kernels, path, mishap, {}))
    const [before, after] = [mean(found, (one) => one.before) ?? 0, mean(found, (one) => one.after) ?? 0]
    const worst = Math.max(...found.map((one) => one.after))
    const better = found.filter((one) => one.after < one.before).length
    const isGood = mishap === 'as it is'
    rows.push({
      what: `full range on ${found.length} good pictures, ${mishap}: mean ΔE00 from the good one before and after; the worst; how many came out better`,
      measured: `${before.toFixed(1)}, ${after.toFixed(1)}; ${worst.toFixed(1)}; ${better}`,
      goal: isGood ? 'mean ≤ 2, none above 5' : 'better in nine of ten',
      met: isGood ? after <= 2 && worst <= 5 : better >= 0.9 * found.length,
    })
  }
  return rows
}

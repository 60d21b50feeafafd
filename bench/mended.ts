import type { Kernels } from '@kernels/binding'
import { mean, median } from 'd3'
import { balancedByItself } from '../tests/balanced'
import { evenedOut, takesApart } from '../tests/even-out'
import { orderOf, type Shot, shoot, shotSizes } from '../tests/jpeg-noise'
import { demoScenes } from '../tests/lit-pictures'
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

const lightsK = [2700, 3000, 3500, 4000, 5000, 6500, 7500, 9000]

/** White balance by itself on the demo's scenes in computed light, and even out on five takes of each. */
export async function lightRows(kernels: Kernels): Promise<Row[]> {
  const scenes = (await demoScenes()).filter(({ isFire }) => !isFire)
  const off: number[] = []
  let [worse, left] = [0, 0]
  for (const temperatureK of lightsK)
    for (const scene of scenes) {
      const { off: after, untouched, isLeft } = balancedByItself(kernels, scene, temperatureK)
      off.push(after)
      if (after > untouched + 2) worse++
      if (isLeft) left++
    }
  const apart = scenes.map((scene) => takesApart(kernels, scene, evenedOut))
  const before = scenes.map((scene) => takesApart(kernels, scene, []))
  const [middle, evened] = [median(off) ?? Number.NaN, median(apart) ?? Number.NaN]
  return [
    {
      what: `white balance by itself, ${scenes.length} demo scenes in ${lightsK.length} lights of 2700–9000 K: median error; left as unsure; worse than untouched by over 2°`,
      measured: `${middle.toFixed(1)}°; ${left} of ${off.length}; ${worse}`,
      goal: '≤ 3°; –; 0',
      met: middle <= 3 && worse === 0,
    },
    {
      what: `five takes of each scene (3400–8000 K, −0.8 to +1 EV), mean ΔE00 of the pair furthest apart: untouched; evened out, median and worst`,
      measured: `${(median(before) ?? Number.NaN).toFixed(1)}; ${evened.toFixed(1)}, ${Math.max(...apart).toFixed(1)}`,
      goal: '≤ 5 in the median',
      met: evened <= 5,
    },
  ]
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

import type { Kernels } from '@kernels/binding'
import { median } from 'd3'
import { cutALittle, cutByEye, demoSets, likeNeighbours, marked, truth } from '../tests/demo-sets'
import type { Row } from './measure'

/** How often what stands out of the demo's sets is told rightly and wrongly, and how near its neighbours a picture is brought. */
export async function standingOutRows(kernels: Kernels): Promise<Row[]> {
  const sets = await demoSets(kernels)
  const numbers = (is: (own: (typeof truth)[string]) => boolean): string[] =>
    Object.entries(truth).flatMap(([name, own]) => (is(own) ? [name.slice(6, 10)] : []))
  const calls = (what: string, told: readonly string[], should: readonly string[], missable: readonly string[] = []): Row => {
    const right = told.filter((name) => should.includes(name)).length
    const wrong = told.length - right
    return {
      what: `what stands out of the demo’s sets, ${what}: told rightly, missed, told wrongly`,
      measured: `${right}, ${should.length - right}, ${wrong}`,
      goal: missable.length > 0 ? `all but ${missable.length} that are hardly seen, 0 wrongly` : 'all, 0 wrongly',
      met: wrong === 0 && should.every((name) => told.includes(name) || missable.includes(name)),
    }
  }
  const solved = likeNeighbours(sets)
  const left = Object.entries(truth).map(([name, { ev_error }]) => ({ ev_error, by: solved.get(name)?.ev ?? Number.NaN }))
  const wrong = median(left.filter(({ ev_error }) => ev_error !== 0).map(({ ev_error, by }) => Math.abs(ev_error + by))) ?? Number.NaN
  const moved = Math.max(...left.filter(({ ev_error }) => ev_error === 0).map(({ by }) => Math.abs(by)))
  return [
    calls('a frame that cuts a vessel', marked(sets, /cuts off/, 'vessels'), cutByEye, cutALittle),
    calls(
      'out of focus',
      marked(sets, /softer/),
      numbers(({ defocus_radius_px }) => defocus_radius_px > 0),
    ),
    calls(
      'tilted',
      marked(sets, /tilted/),
      numbers(({ tilt_degrees }) => tilt_degrees !== 0),
    ),
    calls('noisier than the others', marked(sets, /noisier/), []),
    {
      what: 'like its neighbours, through the shop’s macro: median error of the four wrongly exposed / the most a right one moves',
      measured: `${wrong.toFixed(2)} EV / ${moved.toFixed(2)} EV`,
      goal: '≤ 0.15 EV / ≤ 0.1 EV',
      met: wrong <= 0.15 && moved <= 0.1,
    },
  ]
}

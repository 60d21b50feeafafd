import type { Kernels } from '@kernels/binding'
import { allocatePlane, allocatePlanes, type Planes, strideOf } from '@kernels/planes'
import type { Rect } from '@/base/geometry'
import { integerAt, numberAt } from '@/base/numbers'
import type { WeightTable } from '@/pixels/resampling'
import type { Work } from './plan'

/** How far a reduction may go beyond its surroundings in each direction: about a code of 8 bits, as a share of the root of the light. */
const beyondOf = 2.2 / 255

type ResampleWork = Extract<Work, { kind: 'resample' }>

/** A rectangle of a resampled frame; `before` gives the frame that it is made of. */
export function runResample({ heap, run }: Kernels, work: ResampleWork, before: (rect: Rect) => Planes, rect: Rect): Planes {
  const output = allocatePlanes(heap, rect.width, rect.height)
  const across = span(work.rows, rect.x, rect.width)
  const down = span(work.columns, rect.y, rect.height)
  heap.scope(() => {
    const input = before({ x: across.first, y: down.first, width: across.length, height: down.length })
    const rows = tableOnHeap(work.rows, rect.x, rect.width, across.first)
    const columns = tableOnHeap(work.columns, rect.y, rect.height, down.first)
    const stride = strideOf(across.length)
    const middle = allocatePlane(heap, across.length, rect.height)
    const side = allocatePlane(heap, across.length, 4)
    output.channels.forEach((target, i) => {
      const source = numberAt(input.channels, i)
      const upright = [source, input.stride, middle, stride, stride, rect.height] as const
      run.resampleColumns(...upright, columns.starts, columns.weights, columns.taps, columns.from, columns.count, beyondOf)
      const lying = [middle, stride, target, output.stride, rect.width, rect.height] as const
      run.resampleRows(...lying, rows.starts, rows.weights, rows.taps, rows.from, rows.count, beyondOf, side)
    })
  })
  return output

  function tableOnHeap({ starts, weights, taps, surroundings }: WeightTable, first: number, length: number, origin: number) {
    const relative = starts.slice(first, first + length)
    for (let i = 0; i < length; i++) relative[i] = integerAt(relative, i) - origin
    const held = work.held ? surroundings : undefined
    return {
      taps,
      starts: heap.integers(relative),
      weights: heap.floats(weights.subarray(first * taps, (first + length) * taps)),
      from: held ? heap.integers(held.from.subarray(first, first + length)) : 0,
      count: held?.count ?? 0,
    }
  }
}

/** Input samples that outputs `from` … `from + length − 1` read. */
function span({ starts, taps }: WeightTable, from: number, length: number): { first: number; length: number } {
  const first = integerAt(starts, from)
  return { first, length: integerAt(starts, from + length - 1) + taps - first }
}

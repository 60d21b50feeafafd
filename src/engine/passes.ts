import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import { lruCached, memoised } from '@/base/lru-cache'
import { numberAt } from '@/base/numbers'
import { lightNodes, type PointPass } from '@/operations'

/** A pass with its parameters on the heap. */
export interface ReadyPass {
  run(r: Pointer, g: Pointer, b: Pointer, count: number): void
}

export function readyPasses(kernels: Kernels, passes: readonly PointPass[]): ReadyPass[] {
  const { heap, run } = kernels
  return shortened(kernels, passes).map(({ kernel, parameters }) => {
    const at = heap.floats(parameters)
    return { run: (r, g, b, count) => run[kernel](r, g, b, count, at) }
  })
}

/** A pass whose parameters may be a long table. */
interface LongPass {
  readonly kernel: PointPass['kernel']
  readonly parameters: ArrayLike<number>
}

/** Fewer than this many passes in a row are as quick by themselves. */
const worthATable = 3

/** What has been shortened, by what it was made of: a plan's passes are run once for every strip. */
const known = new WeakMap<readonly PointPass[], readonly LongPass[]>()

/** Passes in a row that treat channels apart become one table a channel: a transfer function and its way back cost more than that. */
function shortened(kernels: Kernels, passes: readonly PointPass[]): readonly LongPass[] {
  if (passes.length < worthATable) return passes
  const found = known.get(passes)
  if (found) return found
  const result: LongPass[] = []
  for (let from = 0; from < passes.length; ) {
    let to = from
    while (to < passes.length && isApart(passes[to] as PointPass)) to++
    const run = passes.slice(from, Math.max(to, from + 1))
    if (run.length < worthATable) result.push(...run)
    else result.push(lruCached(tables, keyOf(run), maxTables, () => tableOf(kernels, run)))
    from += run.length
  }
  known.set(passes, result)
  return result
}

/** Steeper than this at its black, a power is not told by straight lines to a quarter of a code. */
const leastExponent = 0.75
/** Nor is one that ends at white, where entries lie further apart, when it is steeper there than this. */
const leastSteepness = 0.85
/** So is not a curve that turns more sharply, from one of its entries to the next. */
const sharpestTurn = 0.001

function isApart({ kernel, parameters }: PointPass): boolean {
  if (kernel === 'toEncoded' || kernel === 'toLinear') return true
  if (kernel === 'exposure') return numberAt(parameters, 1) === 1
  if (kernel === 'levels') return [2, 7, 12].every((at) => numberAt(parameters, at) >= leastExponent)
  if (kernel === 'contrast') return numberAt(parameters, 1) >= leastSteepness
  return (
    kernel === 'curve' &&
    [0, 1, 2].every((channel) => isSmooth(parameters, (channel * parameters.length) / 3 + 2, parameters.length / 3 - 2))
  )
}

function isSmooth(table: readonly number[], start: number, length: number): boolean {
  for (let i = start + 1; i < start + length - 1; i++)
    if (Math.abs(numberAt(table, i - 1) - 2 * numberAt(table, i) + numberAt(table, i + 1)) > sharpestTurn) return false
  return true
}

/** Tables by what they were made of: a picture is measured and rendered with the same ones, and often so is the next. */
const tables = new Map<string, LongPass>()
const maxTables = 16

/** Parameters that are a table themselves are known by which they are, and not by what they hold. */
const longParameters = 64
let numbered = 0
const numberOf = memoised((_: readonly number[]) => ++numbered)

const keyOf = (passes: readonly PointPass[]): string =>
  passes
    .map(
      ({ kernel, parameters }) =>
        `${kernel} ${parameters.length < longParameters ? parameters.join(' ') : `table ${numberOf(parameters)}`}`,
    )
    .join(', ')

const { length: nodeCount } = lightNodes
const paddedNodes = new Float32Array((nodeCount + 3) & ~3)
paddedNodes.set(lightNodes)

/** The passes themselves say what stands in the table, so that it is the same to the bit on every machine. */
function tableOf({ heap, run }: Kernels, passes: readonly PointPass[]): LongPass {
  const parameters = new Float32Array(3 * nodeCount)
  heap.scope(() => {
    const planes = [heap.floats(paddedNodes), heap.floats(paddedNodes), heap.floats(paddedNodes)] as const
    for (const { kernel, parameters: own } of passes) run[kernel](...planes, paddedNodes.length, heap.floats(own))
    for (const [channel, plane] of planes.entries()) parameters.set(heap.f32(plane, nodeCount), channel * nodeCount)
  })
  return { kernel: 'lightTables', parameters }
}

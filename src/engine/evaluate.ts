import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import { allocatePlanes, copyPlane, type Planes, strideOf } from '@kernels/planes'
import { clipRect, expandRect, type Rect, type Size, sameRect } from '@/base/geometry'
import { numberAt } from '@/base/numbers'
import { mapTriple } from '@/base/tuples'
import { type Matrix3, transform } from '@/colour/matrix'
import { expandGrid } from '@/operations'
import { limitReach, paintLimits } from './limits'
import { mixer } from './mixing'
import { readyPasses } from './passes'
import { type Frame, isInPlace, type PassGroup, type Plan, type Stage, scaleOf, takesAll, type Work } from './plan'
import { readSource, viewOf } from './read-source'
import { runResample } from './resampled'
import { sourceRect, turnMap } from './turned'

/** Point functions run on blocks of this many pixels: three planes of it stay in a first-level cache. */
const blockPixels = 1024

/** One walk over a picture from top to bottom: what its strips share. */
export interface Walk {
  readonly kernels: Kernels
  readonly plan: Plan
  /** By stage: the lowest rows of its frame that the last strip needed, for the next strip that needs them again. */
  readonly kept: Map<number, KeptRows>
}

interface KeptRows {
  readonly rect: Rect
  /** Three planes, rows without gaps. */
  readonly planes: Float32Array
}

export const newWalk = (kernels: Kernels, plan: Plan): Walk => ({ kernels, plan, kept: new Map() })

const frameSize = ({ plan }: Walk, index: number): Size => plan.stages[index]?.frame.size ?? plan.start.size

/**
 * Renders one rectangle of the frame after `stages[index]` (−1: the source). The rectangle may reach over the
 * picture's edge: pixels out there repeat the edge, so no kernel knows borders. Every pixel's value depends
 * only on its place, never on the rectangle it was asked for with.
 */
export function evaluate(walk: Walk, index: number, rect: Rect): Planes {
  const stage = walk.plan.stages[index]
  if (!sameRect(clipRect(rect, frameSize(walk, index)), rect)) return gather(walk, index, rect, 0)
  if (!stage) {
    const target = allocatePlanes(walk.kernels.heap, rect.width, rect.height)
    readSource(walk.kernels, walk.plan, rect, target)
    return target
  }
  return runStage(walk, stage, index - 1, rect)
}

/** The same for work that does not write to what it reads: a held frame is read where it lies. */
function peek(walk: Walk, index: number, rect: Rect): Planes {
  const { source } = walk.plan
  const lies = index < 0 && source.kind === 'held' && sameRect(clipRect(rect, source.size), rect)
  return lies ? viewOf(source, rect) : evaluate(walk, index, rect)
}

function runStage(walk: Walk, stage: Stage, before: number, rect: Rect): Planes {
  const { work } = stage
  const { kernels } = walk
  const evaluateBefore = (wanted: Rect): Planes => evaluate(walk, before, wanted)
  switch (work.kind) {
    case 'points':
      return runPoints(kernels, evaluateBefore(rect), work.groups)
    case 'crop':
      return evaluateBefore({ ...rect, x: rect.x + work.rect.x, y: rect.y + work.rect.y })
    case 'turn':
      return runTurn(kernels, work, evaluateBefore, rect)
    case 'neighbourhood':
      return runNeighbourhood(walk, work, stage.frame, before, rect)
    case 'warp':
      return runWarp(kernels, work, evaluateBefore, rect)
    case 'pad':
      return runPad(kernels, work, stage.frame, evaluateBefore, rect)
    case 'resample':
      return runResample(kernels, work, (wanted) => peek(walk, before, wanted), rect)
  }
}

/** Three planes of this many pixels stay in a second-level cache. */
const chunkPixels = 1 << 15

/** Whether the frames up to a stage come out pixel by pixel, so that rows can be made in small pieces at no cost. */
const isCheap = ({ plan }: Walk, index: number): boolean =>
  plan.stages.slice(0, index + 1).every(({ work }) => work.kind === 'points' || work.kind === 'crop' || isInPlace(work))

/**
 * A rectangle of the frame after a stage, with what reaches over the picture's edge repeated. `overlap`: how many of its lowest rows
 * the next strip will ask for again; those are kept.
 */
export function gather(walk: Walk, index: number, rect: Rect, overlap: number): Planes {
  const { kernels, kept } = walk
  const { heap } = kernels
  const inside = clipRect(rect, frameSize(walk, index))
  // A row more: see `fill`.
  const target = { ...allocatePlanes(heap, rect.width, rect.height + 1), height: rect.height }
  const [left, top] = [inside.x - rect.x, inside.y - rect.y]
  const at = (channel: number, y: number): number => (numberAt(target.channels, channel) >> 2) + (y - rect.y) * target.stride + left
  const slot = ({ y, width, height }: Rect): Planes => ({
    width,
    height,
    stride: target.stride,
    channels: three((channel) => at(channel, y) * 4),
  })
  const end = inside.y + inside.height
  let y = inside.y
  const earlier = kept.get(index)
  if (earlier && earlier.rect.x === inside.x && earlier.rect.width === inside.width && earlier.rect.y <= y && bottom(earlier.rect) > y) {
    const floats = new Float32Array(heap.memory.buffer)
    for (const stop = Math.min(bottom(earlier.rect), end); y < stop; y++)
      for (const channel of [0, 1, 2]) {
        const from = (channel * earlier.rect.height + y - earlier.rect.y) * inside.width
        floats.set(earlier.planes.subarray(from, from + inside.width), at(channel, y))
      }
  }
  if (isCheap(walk, index)) fillRows()
  else if (y < end) copyRows()
  keep(end - overlap)
  for (const channel of target.channels)
    kernels.run.repeatEdges(channel, target.stride, rect.width, rect.height, left, top, left + inside.width, top + inside.height)
  return target

  /** The rows that are missing, in pieces that stay in a second-level cache, made where they are wanted. */
  function fillRows(): void {
    const rows = Math.max(1, Math.floor(chunkPixels / inside.width))
    for (; y < end; y += rows) {
      const wanted = { ...inside, y, height: Math.min(rows, end - y) }
      heap.scope(() => fill(walk, index, wanted, slot(wanted)))
    }
  }

  /** The same in one go, and to where they are wanted. Point functions come last: they run there, while it is in the first cache. */
  function copyRows(): void {
    const wanted = { ...inside, y, height: end - y }
    heap.scope(() => {
      const last = walk.plan.stages[index]?.work
      const piece = evaluate(walk, last?.kind === 'points' ? index - 1 : index, wanted)
      const floats = new Float32Array(heap.memory.buffer)
      for (const [channel, plane] of piece.channels.entries())
        for (let row = 0; row < wanted.height; row++) {
          const from = (plane >> 2) + row * piece.stride
          floats.copyWithin(at(channel, y + row), from, from + inside.width)
        }
      if (last?.kind === 'points') runPoints(kernels, slot(wanted), last.groups)
    })
  }

  /** Rows that will be needed again; none where the picture ends, and none of a part of it, which is not walked in strips. */
  function keep(from: number): void {
    kept.delete(index)
    const size = frameSize(walk, index)
    if (overlap === 0 || end === size.height) return
    const rect = { ...inside, y: Math.max(from, inside.y), height: Math.min(overlap, inside.height) }
    const length = 3 * rect.height * rect.width
    // What the last strip kept has been taken over by now: its place serves again.
    const planes = earlier?.planes.length === length ? earlier.planes : new Float32Array(length)
    const floats = new Float32Array(heap.memory.buffer)
    for (const channel of [0, 1, 2])
      for (let row = 0; row < rect.height; row++) {
        const start = at(channel, rect.y + row)
        planes.set(floats.subarray(start, start + inside.width), (channel * rect.height + row) * rect.width)
      }
    kept.set(index, { rect, planes })
  }
}

/**
 * Renders a rectangle of a frame that comes out pixel by pixel to planes that are there already. What lies between their rows is worked
 * on too, and as much behind the last.
 */
function fill(walk: Walk, index: number, rect: Rect, target: Planes): void {
  const stage = walk.plan.stages[index]
  const work = stage?.work
  if (!work) readSource(walk.kernels, walk.plan, rect, target)
  else if (work.kind === 'crop') fill(walk, index - 1, { ...rect, x: rect.x + work.rect.x, y: rect.y + work.rect.y }, target)
  else {
    fill(walk, index - 1, rect, target)
    if (work.kind === 'points') runPoints(walk.kernels, target, work.groups)
    else if (work.kind === 'neighbourhood') runInPlace(walk, work, stage.frame, target, rect)
  }
}

const three = <T>(make: (channel: number) => T): [T, T, T] => [make(0), make(1), make(2)]

/** Rows that two strips both need because later stages resample them: a strip's lowest and the next one's highest taps. */
const sharedRows = ({ plan }: Walk, index: number): number =>
  plan.stages.slice(index + 1).reduce((rows, { work }) => rows + (work.kind === 'resample' ? work.columns.taps + 1 : 0), 0)

const bottom = ({ y, height }: Rect): number => y + height

/** Runs every group over one block before it goes to the next. What lies between rows is processed too, up to a vector's width: harmless. */
export function runPoints(kernels: Kernels, planes: Planes, groups: readonly PassGroup[]): Planes {
  const { heap } = kernels
  if (groups.length === 0) return planes
  heap.scope(() => {
    const ready = groups.map(({ passes, mix }) => ({
      passes: readyPasses(kernels, passes),
      mix: takesAll(mix) ? undefined : mixer(kernels, mix),
    }))
    const before: readonly [Pointer, Pointer, Pointer] = [
      heap.allocate(blockPixels * 4),
      heap.allocate(blockPixels * 4),
      heap.allocate(blockPixels * 4),
    ]
    const bytes = new Uint8Array(heap.memory.buffer)
    const hasGaps = planes.stride > strideOf(planes.width)
    const lines = hasGaps ? planes.height : 1
    const length = hasGaps ? planes.width : planes.stride * planes.height
    for (let line = 0; line < lines; line++)
      for (let start = 0; start < length; start += blockPixels) {
        const count = Math.min(blockPixels, length - start)
        const [r, g, b] = mapTriple(planes.channels, (channel) => channel + (line * planes.stride + start) * 4)
        for (const group of ready) {
          if (group.mix) for (const [i, channel] of [r, g, b].entries()) bytes.copyWithin(numberAt(before, i), channel, channel + count * 4)
          for (const pass of group.passes) pass.run(r, g, b, count)
          group.mix?.([r, g, b], before, count)
        }
      }
  })
  return planes
}

type NeighbourhoodWork = Extract<Work, { kind: 'neighbourhood' }>

function runNeighbourhood(walk: Walk, work: NeighbourhoodWork, frame: Frame, before: number, rect: Rect): Planes {
  const { kernels } = walk
  const { heap } = kernels
  if (isInPlace(work)) {
    const planes = evaluate(walk, before, rect)
    runInPlace(walk, work, frame, planes, rect)
    return planes
  }
  const scale = scaleOf(frame)
  const place = { x: rect.x, y: rect.y, frame: frame.size }
  const output = allocatePlanes(heap, rect.width, rect.height)
  const reach = work.effect.reach(scale)
  const { limit } = work.mix
  const around = Math.max(reach, limitReach(limit, scale))
  heap.scope(() => {
    const whole =
      around === 0 ? evaluate(walk, before, rect) : gather(walk, before, expandRect(rect, around), 2 * around + sharedRows(walk, before))
    const mayOverwrite = takesAll(work.mix)
    work.effect.apply({ kernels, scale, input: inset(whole, around - reach), mayOverwrite, output, reach, ...place })
    if (takesAll(work.mix)) return
    const base = allocatePlanes(heap, rect.width, rect.height)
    for (const [i, channel] of base.channels.entries())
      copyPlane(heap, numberAt(whole.channels, i), whole.stride, around, around, channel, base)
    const { domain } = work.mix
    const mask =
      limit.length > 0 ? paintLimits({ kernels, input: whole, domain, reach: around, ...rect, scale, ...place }, limit) : undefined
    mixer(kernels, work.mix)(output.channels, base.channels, output.stride * output.height, mask)
  })
  return output
}

function runInPlace({ kernels }: Walk, { effect }: NeighbourhoodWork, frame: Frame, planes: Planes, { x, y }: Rect): void {
  const place = { x, y, frame: frame.size, scale: scaleOf(frame) }
  kernels.heap.scope(() => effect.apply({ kernels, input: planes, mayOverwrite: true, output: planes, reach: 0, ...place }))
}

/** The same planes without their outermost pixels. */
const inset = (planes: Planes, by: number): Planes => ({
  ...planes,
  width: planes.width - 2 * by,
  height: planes.height - 2 * by,
  channels: mapTriple(planes.channels, (channel) => channel + (by * planes.stride + by) * 4),
})

function runTurn(
  { heap, run }: Kernels,
  { effect, before: size }: Extract<Work, { kind: 'turn' }>,
  before: (rect: Rect) => Planes,
  rect: Rect,
): Planes {
  const output = allocatePlanes(heap, rect.width, rect.height)
  const map = turnMap(effect, size)
  heap.scope(() => {
    const from = sourceRect(map, rect)
    const input = before(from)
    const startX = map.xx * rect.x + map.xy * rect.y + map.x0 - from.x
    const startY = map.yx * rect.x + map.yy * rect.y + map.y0 - from.y
    const first = (startY * input.stride + startX) * 4
    const [stepX, stepY] = [map.xx + map.yx * input.stride, map.xy + map.yy * input.stride]
    for (const [i, target] of output.channels.entries())
      run.copyTurned(numberAt(input.channels, i) + first, stepX, stepY, target, output.stride, rect.width, rect.height)
  })
  return output
}

/** What a map's cubic reads around a place. */
const cubicReach = 2

function runWarp(
  { heap, run }: Kernels,
  { toSource, before: size }: Extract<Work, { kind: 'warp' }>,
  before: (rect: Rect) => Planes,
  rect: Rect,
): Planes {
  const output = allocatePlanes(heap, rect.width, rect.height)
  heap.scope(() => {
    const from = warpedRect(toSource, rect, size)
    const input = before(from)
    const matrix = heap.doubles(toSource)
    for (let row = 0; row < rect.height; row++) {
      const to = mapTriple(output.channels, (channel) => channel + row * output.stride * 4)
      run.warpRow(...input.channels, input.stride, from.x, from.y, size.width, size.height, ...to, rect.width, rect.x, rect.y + row, matrix)
    }
  })
  return output
}

/** The rectangle of the picture before, with what the cubic reads around, that a rectangle of the new one is made of. */
function warpedRect(toSource: Matrix3, rect: Rect, size: Size): Rect {
  const corners = [rect.x, rect.x + rect.width].flatMap((x) =>
    [rect.y, rect.y + rect.height].map((y) => {
      const [u, v, w] = transform(toSource, [x, y, 1])
      return [Math.min(Math.max(u / w, 0), size.width), Math.min(Math.max(v / w, 0), size.height)] as const
    }),
  )
  const [across, down] = [corners.map(([u]) => u), corners.map(([, v]) => v)]
  const [x, y] = [Math.floor(Math.min(...across)) - cubicReach - 1, Math.floor(Math.min(...down)) - cubicReach - 1]
  return { x, y, width: Math.ceil(Math.max(...across)) + cubicReach + 1 - x, height: Math.ceil(Math.max(...down)) + cubicReach + 1 - y }
}

function runPad(
  kernels: Kernels,
  { inner, ground }: Extract<Work, { kind: 'pad' }>,
  frame: Frame,
  before: (rect: Rect) => Planes,
  rect: Rect,
): Planes {
  const { heap } = kernels
  const output = allocatePlanes(heap, rect.width, rect.height)
  heap.scope(() => {
    const length = output.stride * output.height
    if (ground.kind === 'plain')
      for (const [i, channel] of output.channels.entries()) heap.f32(channel, length).fill(numberAt(ground.colour, i))
    else {
      const job = { kernels, frame: frame.size, x: rect.x, y: rect.y }
      for (const [i, plane] of expandGrid(job, ground.grid, output).entries())
        copyPlane(heap, plane, output.stride, 0, 0, numberAt(output.channels, i), output)
    }
    const [left, top] = [Math.max(rect.x, inner.x), Math.max(rect.y, inner.y)]
    const [right, bottom] = [Math.min(rect.x + rect.width, inner.x + inner.width), Math.min(rect.y + rect.height, inner.y + inner.height)]
    if (left >= right || top >= bottom) return
    const [width, height] = [right - left, bottom - top]
    const picture = before({ x: left - inner.x, y: top - inner.y, width, height })
    for (const [i, channel] of picture.channels.entries()) {
      const target = numberAt(output.channels, i) + ((top - rect.y) * output.stride + left - rect.x) * 4
      copyPlane(heap, channel, picture.stride, 0, 0, target, { width, height, stride: output.stride })
    }
  })
  return output
}

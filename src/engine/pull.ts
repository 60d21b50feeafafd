import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import { allocatePlane, allocatePlanes, copyPlane, type Planes, strideOf } from '@kernels/planes'
import { clipRect, expandRect, type Rect, type Size, sameRect } from '@/core/geometry'
import { type Matrix3, transform } from '@/core/matrix'
import type { InterleavedSource } from '@/core/picture'
import type { WeightTable } from '@/core/resampling'
import { expandGrid } from '@/operations'
import { limitReach, paintLimits } from './limits'
import { mixer } from './mixing'
import { readyPasses } from './passes'
import { type Frame, type PassGroup, type Plan, type Stage, scaleOf, takesAll, type Work } from './plan'
import { decodeTables, type PlaneSource } from './source'
import { sourceRect, turnMap } from './turned'

/** Point functions run on blocks of this many pixels: three planes of it stay in a first-level cache. */
const blockPixels = 1024

/**
 * Renders one rectangle of the frame after `stages[index]` (−1: the source). The rectangle may reach over the
 * picture's edge: pixels out there repeat the edge, so no kernel knows borders. Every pixel's value depends
 * only on its place, never on the rectangle it was asked for with.
 */
export function pull(kernels: Kernels, plan: Plan, index: number, rect: Rect): Planes {
  const stage = plan.stages[index]
  const size = stage?.frame.size ?? plan.start.size
  const inside = clipRect(rect, size)
  if (!sameRect(inside, rect)) return repeatEdges(kernels, pull(kernels, plan, index, inside), inside, rect)
  if (!stage) return readSource(kernels, plan, rect)
  const before = (wanted: Rect): Planes => pull(kernels, plan, index - 1, wanted)
  return runStage(kernels, stage, before, rect)
}

function runStage(kernels: Kernels, stage: Stage, before: (rect: Rect) => Planes, rect: Rect): Planes {
  const { work } = stage
  switch (work.kind) {
    case 'points':
      return runPoints(kernels, before(rect), work.groups)
    case 'crop':
      return before({ ...rect, x: rect.x + work.rect.x, y: rect.y + work.rect.y })
    case 'turn':
      return runTurn(kernels, work, before, rect)
    case 'neighbourhood':
      return runNeighbourhood(kernels, work, stage.frame, before, rect)
    case 'warp':
      return runWarp(kernels, work, before, rect)
    case 'pad':
      return runPad(kernels, work, stage.frame, before, rect)
    case 'resample':
      return runResample(kernels, work, before, rect)
  }
}

/** Lays `inside`, already rendered, into the larger `rect` and repeats its edge pixels outwards. */
function repeatEdges({ heap }: Kernels, planes: Planes, inside: Rect, rect: Rect): Planes {
  const target = allocatePlanes(heap, rect.width, rect.height)
  const floats = new Float32Array(heap.memory.buffer)
  const left = inside.x - rect.x
  const right = left + inside.width
  planes.channels.forEach((channel, i) => {
    const to = (target.channels[i] as Pointer) >> 2
    for (let row = 0; row < rect.height; row++) {
      const sourceRow = Math.min(Math.max(row + rect.y - inside.y, 0), inside.height - 1)
      const from = (channel >> 2) + sourceRow * planes.stride
      const start = to + row * target.stride
      floats.copyWithin(start + Math.max(left, 0), from, from + inside.width)
      if (left > 0) floats.fill(floats[from] as number, start, start + left)
      if (right < rect.width) floats.fill(floats[from + inside.width - 1] as number, start + right, start + rect.width)
    }
  })
  return target
}

function readSource(kernels: Kernels, plan: Plan, rect: Rect): Planes {
  return plan.source.kind === 'planes' ? copyFrame(kernels, plan.source, rect) : decode(kernels, plan.source, rect)
}

function copyFrame({ heap }: Kernels, source: PlaneSource, rect: Rect): Planes {
  const target = allocatePlanes(heap, rect.width, rect.height)
  const planeLength = source.size.width * source.size.height
  target.channels.forEach((channel, i) => {
    const floats = heap.f32(channel, target.stride * rect.height)
    for (let row = 0; row < rect.height; row++) {
      const start = i * planeLength + (row + rect.y) * source.size.width + rect.x
      floats.set(source.planes.subarray(start, start + rect.width), row * target.stride)
    }
  })
  return target
}

function decode(kernels: Kernels, source: InterleavedSource, rect: Rect): Planes {
  const { heap, run } = kernels
  const target = allocatePlanes(heap, rect.width, rect.height)
  heap.scope(() => {
    const wide = source.pixels instanceof Uint16Array
    const { tables, matrix } = decodeTables(source.colour, wide ? 16 : 8)
    const tablesAt = heap.floats(tables)
    const matrixAt = heap.floats(matrix)
    const rowAt = heap.allocate((rect.width + 4) * 3 * source.pixels.BYTES_PER_ELEMENT)
    const buffer = heap.memory.buffer
    const row = wide ? new Uint16Array(buffer, rowAt, rect.width * 3) : new Uint8Array(buffer, rowAt, rect.width * 3)
    const [r, g, b] = target.channels
    for (let y = 0; y < rect.height; y++) {
      const start = ((y + rect.y) * source.size.width + rect.x) * 3
      row.set(source.pixels.subarray(start, start + rect.width * 3))
      const at = y * target.stride * 4
      if (wide) run.decodeRow16(rowAt, rect.width, tablesAt, matrixAt, r + at, g + at, b + at)
      else run.decodeRow8(rowAt, rect.width, tablesAt, r + at, g + at, b + at)
    }
  })
  return target
}

/** Runs every group over one block before it goes to the next. Padding behind short rows is processed too: harmless. */
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
    const total = planes.stride * planes.height
    for (let start = 0; start < total; start += blockPixels) {
      const count = Math.min(blockPixels, total - start)
      const [r, g, b] = planes.channels.map((channel) => channel + start * 4) as [Pointer, Pointer, Pointer]
      for (const group of ready) {
        if (group.mix) for (const [i, channel] of [r, g, b].entries()) bytes.copyWithin(before[i] as Pointer, channel, channel + count * 4)
        for (const pass of group.passes) pass.run(r, g, b, count)
        group.mix?.([r, g, b], before, count)
      }
    }
  })
  return planes
}

type NeighbourhoodWork = Extract<Work, { kind: 'neighbourhood' }>

function runNeighbourhood(kernels: Kernels, work: NeighbourhoodWork, frame: Frame, before: (rect: Rect) => Planes, rect: Rect): Planes {
  const { heap } = kernels
  const scale = scaleOf(frame)
  const output = allocatePlanes(heap, rect.width, rect.height)
  const reach = work.effect.reach(scale)
  const { limit } = work.mix
  const around = Math.max(reach, limitReach(limit, scale))
  heap.scope(() => {
    const whole = before(expandRect(rect, around))
    const place = { x: rect.x, y: rect.y, frame: frame.size }
    work.effect.apply({ kernels, scale, input: inset(whole, around - reach), output, reach, ...place })
    if (takesAll(work.mix)) return
    const base = allocatePlanes(heap, rect.width, rect.height)
    for (const [i, channel] of base.channels.entries())
      copyPlane(heap, whole.channels[i] as Pointer, whole.stride, around, around, channel, base)
    const { domain } = work.mix
    const mask =
      limit.length > 0 ? paintLimits({ kernels, input: whole, domain, reach: around, ...rect, scale, ...place }, limit) : undefined
    mixer(kernels, work.mix)(output.channels, base.channels, output.stride * output.height, mask)
  })
  return output
}

/** The same planes without their outermost pixels. */
const inset = (planes: Planes, by: number): Planes => ({
  ...planes,
  width: planes.width - 2 * by,
  height: planes.height - 2 * by,
  channels: planes.channels.map((channel) => channel + (by * planes.stride + by) * 4) as [Pointer, Pointer, Pointer],
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
      run.copyTurned((input.channels[i] as Pointer) + first, stepX, stepY, target, output.stride, rect.width, rect.height)
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
      const to = output.channels.map((channel) => channel + row * output.stride * 4) as [Pointer, Pointer, Pointer]
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
      for (const [i, channel] of output.channels.entries()) heap.f32(channel, length).fill(ground.colour[i] as number)
    else {
      const job = { kernels, frame: frame.size, x: rect.x, y: rect.y }
      for (const [i, plane] of expandGrid(job, ground.grid, output).entries())
        copyPlane(heap, plane, output.stride, 0, 0, output.channels[i] as Pointer, output)
    }
    const [left, top] = [Math.max(rect.x, inner.x), Math.max(rect.y, inner.y)]
    const [right, bottom] = [Math.min(rect.x + rect.width, inner.x + inner.width), Math.min(rect.y + rect.height, inner.y + inner.height)]
    if (left >= right || top >= bottom) return
    const [width, height] = [right - left, bottom - top]
    const picture = before({ x: left - inner.x, y: top - inner.y, width, height })
    for (const [i, channel] of picture.channels.entries()) {
      const target = (output.channels[i] as Pointer) + ((top - rect.y) * output.stride + left - rect.x) * 4
      copyPlane(heap, channel, picture.stride, 0, 0, target, { width, height, stride: output.stride })
    }
  })
  return output
}

type ResampleWork = Extract<Work, { kind: 'resample' }>

function runResample({ heap, run }: Kernels, work: ResampleWork, before: (rect: Rect) => Planes, rect: Rect): Planes {
  const output = allocatePlanes(heap, rect.width, rect.height)
  const across = span(work.rows, rect.x, rect.width)
  const down = span(work.columns, rect.y, rect.height)
  heap.scope(() => {
    const input = before({ x: across.first, y: down.first, width: across.length, height: down.length })
    const [rowStarts, rowWeights] = tableOnHeap(work.rows, rect.x, rect.width, across.first)
    const [columnStarts, columnWeights] = tableOnHeap(work.columns, rect.y, rect.height, down.first)
    const stride = strideOf(across.length)
    const middle = allocatePlane(heap, across.length, rect.height)
    output.channels.forEach((target, i) => {
      const source = input.channels[i] as Pointer
      run.resampleColumns(source, input.stride, middle, stride, stride, rect.height, columnStarts, columnWeights, work.columns.taps)
      run.resampleRows(middle, stride, target, output.stride, rect.width, rect.height, rowStarts, rowWeights, work.rows.taps)
    })
  })
  return output

  function tableOnHeap({ starts, weights, taps }: WeightTable, from: number, length: number, origin: number): [Pointer, Pointer] {
    const relative = starts.subarray(from, from + length).map((start) => start - origin)
    return [heap.integers(relative), heap.floats(weights.subarray(from * taps, (from + length) * taps))]
  }
}

/** Input samples that outputs `from` … `from + length − 1` read. */
function span({ starts, taps }: WeightTable, from: number, length: number): { first: number; length: number } {
  const first = starts[from] as number
  return { first, length: (starts[from + length - 1] as number) + taps - first }
}

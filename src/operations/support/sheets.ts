import type { Heap, Pointer } from '@kernels/heap'
import { allocatePlane } from '@kernels/planes'
import type { Rect } from '@/base/geometry'

/** From one end to before the other, in pixels of a reduced copy, whose grid begins where the picture does. */
export interface Span {
  readonly from: number
  readonly to: number
}

/** A plane of a rectangle of a reduced copy. */
export interface Sheet {
  readonly at: Pointer
  readonly area: Rect
  /** In floats. */
  readonly stride: number
}

export const placeOn = ({ at, area, stride }: Sheet, { x, y }: Pick<Rect, 'x' | 'y'>): Pointer =>
  at + ((y - area.y) * stride + x - area.x) * 4

export const newSheet = (heap: Heap, area: Rect): Sheet => ({ at: allocatePlane(heap, area.width, area.height), area, stride: area.width })

export const unionOfSpans = (a: Span, b: Span): Span => ({ from: Math.min(a.from, b.from), to: Math.max(a.to, b.to) })

/** Out to multiples of `grid`. */
export const onGrid = ({ from, to }: Span, grid: number): Span => ({
  from: Math.floor(from / grid) * grid,
  to: Math.ceil(to / grid) * grid,
})

export const widened = ({ from, to }: Span, by: number): Span => ({ from: from - by, to: to + by })
export const scaled = ({ from, to }: Span, by: number): Span => ({ from: from * by, to: to * by })

export const rectOf = (across: Span, down: Span): Rect => ({
  x: across.from,
  y: down.from,
  width: across.to - across.from,
  height: down.to - down.from,
})

export function unionOf(a: Rect | undefined, b: Rect | undefined): Rect {
  if (!a || !b) return (a ?? b) as Rect
  const [x, y] = [Math.min(a.x, b.x), Math.min(a.y, b.y)]
  return { x, y, width: Math.max(a.x + a.width, b.x + b.width) - x, height: Math.max(a.y + a.height, b.y + b.height) - y }
}

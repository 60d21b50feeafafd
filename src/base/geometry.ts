/** Width and height in pixels; both whole and at least 1 for anything that is rendered. */
export interface Size {
  readonly width: number
  readonly height: number
}

/** A rectangle in pixels; `x`, `y` is its upper left corner and may lie outside the picture. */
export interface Rect extends Size {
  readonly x: number
  readonly y: number
}

export const wholeRect = (size: Size): Rect => ({ x: 0, y: 0, width: size.width, height: size.height })

export const expandRect = (rect: Rect, by: number): Rect => ({
  x: rect.x - by,
  y: rect.y - by,
  width: rect.width + 2 * by,
  height: rect.height + 2 * by,
})

/** The part of `rect` inside a picture of `size`; never empty: a rect outside gives the nearest edge pixels. */
export function clipRect(rect: Rect, size: Size): Rect {
  const left = Math.min(Math.max(rect.x, 0), size.width - 1)
  const top = Math.min(Math.max(rect.y, 0), size.height - 1)
  const right = Math.min(Math.max(rect.x + rect.width, left + 1), size.width)
  const bottom = Math.min(Math.max(rect.y + rect.height, top + 1), size.height)
  return { x: left, y: top, width: right - left, height: bottom - top }
}

export const sameRect = (a: Rect, b: Rect): boolean => a.x === b.x && a.y === b.y && a.width === b.width && a.height === b.height

/** Size scaled and rounded, never below one pixel. */
export const scaleSize = (size: Size, scale: number): Size => ({
  width: Math.max(1, Math.round(size.width * scale)),
  height: Math.max(1, Math.round(size.height * scale)),
})

export const areaOf = ({ width, height }: Size): number => width * height

export const longEdge = (size: Size): number => Math.max(size.width, size.height)

export type Orientation = 'portrait' | 'landscape' | 'square'
export const orientationOf = ({ width, height }: Size): Orientation =>
  width === height ? 'square' : width > height ? 'landscape' : 'portrait'

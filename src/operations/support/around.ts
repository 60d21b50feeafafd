import type { Size } from '@/base/geometry'
import { choice } from '../declare/settings'
import { fillOutlines, type PathCommand } from './outline-fill'

/* What is drawn around a mark, in the mark's own colour: a frame, a ring, or a line below it. */

export const arounds = ['nothing', 'frame', 'ring', 'line'] as const
export type Around = (typeof arounds)[number]

export const aroundSetting = choice<Around>({
  label: 'Around it',
  options: [
    { value: 'nothing', label: 'Nothing' },
    { value: 'frame', label: 'A frame' },
    { value: 'ring', label: 'A ring' },
    { value: 'line', label: 'A line below' },
  ],
  default: 'nothing',
  help: 'Drawn with the mark, in its colour; the mark stays as large as it is set.',
})

/** Width of the line, and the room between it and the mark, of the mark's shorter side. */
const strokeShare = 0.05
const roomShare = 0.2

const shorter = ({ width, height }: Size): number => Math.min(width, height)

/** The box that a mark and what is around it take. A ring is an ellipse through the corners of the mark's box. */
export function boxAround(around: Around, mark: Size): Size {
  if (around === 'nothing') return mark
  const edge = 2 * (roomShare + strokeShare) * shorter(mark)
  const growth = around === 'ring' ? Math.SQRT2 : 1
  const grown = { width: mark.width * growth, height: mark.height * growth }
  return {
    width: Math.ceil(around === 'line' ? mark.width : grown.width + (around === 'ring' ? edge / 2 : edge)),
    height: Math.ceil(grown.height + (around === 'ring' ? edge / 2 : edge)),
  }
}

/** Where the mark itself lies in such a box, from its upper left corner. A line's room above the mark keeps it in the middle. */
export const insetOf = (box: Size, mark: Size): { readonly x: number; readonly y: number } => ({
  x: Math.round((box.width - mark.width) / 2),
  y: Math.round((box.height - mark.height) / 2),
})

const rectangle = (left: number, top: number, right: number, bottom: number, isHole = false): PathCommand[] => {
  const corners: [number, number][] = [
    [left, top],
    [right, top],
    [right, bottom],
    [left, bottom],
  ]
  const [first, ...others] = isHole ? corners.reverse() : corners
  return [
    ...(first ? [{ type: 'M', x: first[0], y: first[1] } as const] : []),
    ...others.map(([x, y]): PathCommand => ({ type: 'L', x, y })),
    { type: 'Z' },
  ]
}

/** Straight pieces of an ellipse: finer than can be seen on the largest mark. */
const ringPieces = 360

function ellipse(size: Size, radii: Size, isHole = false): PathCommand[] {
  const at = (i: number): { x: number; y: number } => {
    const angle = ((isHole ? -i : i) / ringPieces) * 2 * Math.PI
    return { x: size.width / 2 + radii.width * Math.cos(angle), y: size.height / 2 + radii.height * Math.sin(angle) }
  }
  return [
    { type: 'M', ...at(0) },
    ...Array.from({ length: ringPieces - 1 }, (_, i): PathCommand => ({ type: 'L', ...at(i + 1) })),
    { type: 'Z' },
  ]
}

/** How much of each pixel of a box what is around the mark covers, 0–1. */
export function coverageAround(around: Around, box: Size, mark: Size): Float32Array | undefined {
  if (around === 'nothing') return undefined
  const { width, height } = box
  const stroke = Math.max(1, strokeShare * shorter(mark))
  const outlines = {
    frame: () => [...rectangle(0, 0, width, height), ...rectangle(stroke, stroke, width - stroke, height - stroke, true)],
    line: () => rectangle(0, height - stroke, width, height),
    ring: () => [
      ...ellipse(box, { width: width / 2, height: height / 2 }),
      ...ellipse(box, { width: width / 2 - stroke, height: height / 2 - stroke }, true),
    ],
  }
  return fillOutlines(outlines[around](), width, height)
}

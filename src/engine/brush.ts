import { longEdge, type Size, scaleSize } from '@/base/geometry'
import { memoised } from '@/base/lru-cache'
import { floatAt } from '@/base/numbers'
import { smoothStep } from '@/base/scale'
import type { Stroke } from '@/macros/limit'
import type { Grid } from '@/operations'

/** Brushed areas are soft: they are drawn on a grid of this long an edge and spread over the picture. */
const gridEdge = 1024

/** Grids by shape of the picture, kept as long as the strokes are. */
const drawn = memoised((_: readonly Stroke[]) => new Map<string, Grid>())

/** Strokes drawn in turn: each raises the mask to its own, or takes its own away. */
export function brushGrid(strokes: readonly Stroke[], frame: Size): Grid {
  // The shape alone matters: preview and run draw the same grid but for rounding to whole cells of the frame.
  const size = scaleSize(frame, Math.min(1, gridEdge / longEdge(frame)))
  const known = drawn(strokes)
  const key = `${size.width} ${size.height}`
  const grid = known.get(key) ?? { size, planes: [draw(strokes, size)] }
  known.set(key, grid)
  return grid
}

function draw(strokes: readonly Stroke[], size: Size): Float32Array {
  const mask = new Float32Array(size.width * size.height)
  for (const stroke of strokes) {
    const own = drawStroke(stroke, size)
    for (let i = 0; i < mask.length; i++) {
      const [before, here] = [floatAt(mask, i), floatAt(own, i)]
      mask[i] = stroke.erases ? before * (1 - here) : Math.max(before, here)
    }
  }
  return mask
}

/** The largest of the brush's profiles along the stroke. */
function drawStroke({ points, sizePercent, softnessPercent }: Stroke, size: Size): Float32Array {
  const own = new Float32Array(size.width * size.height)
  const radius = Math.max(0.5, (longEdge(size) * sizePercent) / 200)
  const inner = radius * (1 - softnessPercent / 100)
  const fade = Math.max(radius - inner, 1)
  const places = points.map(([x, y]) => [(x / 100) * size.width, (y / 100) * size.height] as const)
  for (const [index, [bx, by]] of places.entries()) {
    const [ax, ay] = places[index - 1] ?? [bx, by]
    const [dx, dy] = [bx - ax, by - ay]
    const squared = dx * dx + dy * dy
    const reach = radius + 1
    const [left, right] = [Math.max(0, Math.floor(Math.min(ax, bx) - reach)), Math.min(size.width - 1, Math.ceil(Math.max(ax, bx) + reach))]
    const [top, bottom] = [
      Math.max(0, Math.floor(Math.min(ay, by) - reach)),
      Math.min(size.height - 1, Math.ceil(Math.max(ay, by) + reach)),
    ]
    for (let y = top; y <= bottom; y++)
      for (let x = left; x <= right; x++) {
        const [px, py] = [x + 0.5 - ax, y + 0.5 - ay]
        const along = squared === 0 ? 0 : Math.min(1, Math.max(0, (px * dx + py * dy) / squared))
        const distance = Math.hypot(px - along * dx, py - along * dy)
        const i = y * size.width + x
        own[i] = Math.max(floatAt(own, i), smoothStep(radius - distance, 0, fade))
      }
  }
  return own
}

import { floatAt } from '@/base/numbers'
/** A drawing command with absolute places: move, line, quadratic, cubic, close. */
export type PathCommand =
  | { readonly type: 'M'; readonly x: number; readonly y: number }
  | { readonly type: 'L'; readonly x: number; readonly y: number }
  | { readonly type: 'Q'; readonly x1: number; readonly y1: number; readonly x: number; readonly y: number }
  | {
      readonly type: 'C'
      readonly x1: number
      readonly y1: number
      readonly x2: number
      readonly y2: number
      readonly x: number
      readonly y: number
    }
  | { readonly type: 'Z' }

/** Straight pieces that a curve becomes: at sizes of text, finer than can be seen. */
const piecesPerCurve = 12

/**
 * Share of each pixel that lies inside outlines, 0–1, from the signed areas left of each edge: exact for straight edges. Outlines may
 * lie inside each other as those of letters do.
 */
export function fillOutlines(commands: readonly PathCommand[], width: number, height: number): Float32Array {
  const areas = new Float32Array(width * height + 2)
  let [x, y, startX, startY] = [0, 0, 0, 0]
  const lineTo = (toX: number, toY: number): void => {
    addEdge(areas, width, height, x, y, toX, toY)
    x = toX
    y = toY
  }
  for (const command of commands) {
    if (command.type === 'Z') lineTo(startX, startY)
    else if (command.type === 'M') [x, y, startX, startY] = [command.x, command.y, command.x, command.y]
    else if (command.type === 'L') lineTo(command.x, command.y)
    else {
      const [fromX, fromY] = [x, y]
      for (let i = 1; i <= piecesPerCurve; i++) {
        const [t, u] = [i / piecesPerCurve, 1 - i / piecesPerCurve]
        if (command.type === 'Q')
          lineTo(u * u * fromX + 2 * u * t * command.x1 + t * t * command.x, u * u * fromY + 2 * u * t * command.y1 + t * t * command.y)
        else
          lineTo(
            u ** 3 * fromX + 3 * u * u * t * command.x1 + 3 * u * t * t * command.x2 + t ** 3 * command.x,
            u ** 3 * fromY + 3 * u * u * t * command.y1 + 3 * u * t * t * command.y2 + t ** 3 * command.y,
          )
      }
    }
  }
  const coverage = new Float32Array(width * height)
  let sum = 0
  for (let i = 0; i < coverage.length; i++) {
    sum = i % width === 0 ? floatAt(areas, i) : sum + floatAt(areas, i)
    coverage[i] = Math.min(1, Math.abs(sum))
  }
  return coverage
}

/** Adds an edge's signed area, row by row: to the pixels it crosses in part, and to all behind them through the running sum. */
function addEdge(areas: Float32Array, width: number, height: number, x0: number, y0: number, x1: number, y1: number): void {
  if (y0 === y1) return
  const direction = y0 < y1 ? 1 : -1
  const [topX, topY, bottomX, bottomY] = y0 < y1 ? [x0, y0, x1, y1] : [x1, y1, x0, y0]
  const slope = (bottomX - topX) / (bottomY - topY)
  for (let row = Math.max(0, Math.floor(topY)); row < Math.min(height, Math.ceil(bottomY)); row++) {
    const [from, to] = [Math.max(row, topY), Math.min(row + 1, bottomY)]
    const rise = to - from
    if (rise <= 0) continue
    const ends = [topX + (from - topY) * slope, topX + (to - topY) * slope].map((value) => Math.min(width, Math.max(0, value)))
    const [left, right] = [Math.min(...ends), Math.max(...ends)]
    const [first, last] = [Math.floor(left), Math.min(width - 1, Math.floor(right))]
    const add = (column: number, value: number): void => {
      if (column < width) areas[row * width + column] = floatAt(areas, row * width + column) + direction * value
    }
    if (first >= width) continue
    if (first === last) {
      const share = (left + right) / 2 - first
      add(first, rise * (1 - share))
      add(first + 1, rise * share)
      continue
    }
    // The part of each column that lies right of the edge; what a column gains over the one before is what is stored.
    let before = 0
    for (let column = first; column <= last; column++) {
      const [a, b] = [Math.max(left, column), Math.min(right, column + 1)]
      const crossed = (rise * (b - a)) / (right - left)
      const above = (rise * (a - left)) / (right - left)
      const covered = above + crossed * (column + 1 - (a + b) / 2)
      add(column, covered - before)
      before = covered
    }
    add(last + 1, rise - before)
  }
}

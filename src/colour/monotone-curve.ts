import { numberAt } from '@/base/numbers'
import { present } from '@/base/present'
/** A place a curve goes through. */
export type CurvePoint = readonly [input: number, output: number]

/**
 * The cubic through `points` (ascending inputs, at least two) that never overshoots them: Steffen 1990, "A simple method for
 * monotonic interpolation in one dimension". Chosen before Fritsch & Carlson 1980 because each point only moves the two spans
 * beside it. Before the first and behind the last point the curve is level.
 */
export function monotoneCurve(points: readonly CurvePoint[]): (input: number) => number {
  const tangents = tangentsOf(points)
  const [first, last] = [present(points[0]), present(points.at(-1))]
  return (input) => {
    if (input <= first[0]) return first[1]
    if (input >= last[0]) return last[1]
    const index = points.findIndex(([x]) => x > input) - 1
    const [x0, y0] = present(points[index])
    const [x1, y1] = present(points[index + 1])
    const [m0, m1] = [numberAt(tangents, index), numberAt(tangents, index + 1)]
    const width = x1 - x0
    const t = (input - x0) / width
    // Cubic Hermite basis.
    return y0 * (1 + 2 * t) * (1 - t) ** 2 + m0 * width * t * (1 - t) ** 2 + y1 * t * t * (3 - 2 * t) + m1 * width * t * t * (t - 1)
  }
}

function tangentsOf(points: readonly CurvePoint[]): number[] {
  const widths = points.slice(1).map(([x], i) => x - present(points[i])[0])
  const slopes = points.slice(1).map(([, y], i) => (y - present(points[i])[1]) / numberAt(widths, i))
  const inner = slopes.slice(1).map((after, i) => {
    const [before, widthBefore, widthAfter] = [numberAt(slopes, i), numberAt(widths, i), numberAt(widths, i + 1)]
    const middle = (before * widthAfter + after * widthBefore) / (widthBefore + widthAfter)
    return (Math.sign(before) + Math.sign(after)) * Math.min(Math.abs(before), Math.abs(after), 0.5 * Math.abs(middle))
  })
  if (inner.length === 0) return [numberAt(slopes, 0), numberAt(slopes, 0)]
  // The outermost spans are parabolas where nothing else is known.
  const end = (slope: number, neighbour: number): number => (3 * slope - neighbour) / 2
  return [end(numberAt(slopes, 0), numberAt(inner, 0)), ...inner, end(present(slopes.at(-1)), present(inner.at(-1)))]
}

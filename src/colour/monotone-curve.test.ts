import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { type CurvePoint, monotoneCurve } from './monotone-curve'

const anyPoints = fc
  .uniqueArray(fc.integer({ min: 0, max: 255 }), { minLength: 2, maxLength: 16 })
  .chain((inputs) =>
    fc
      .array(fc.integer({ min: 0, max: 255 }), { minLength: inputs.length, maxLength: inputs.length })
      .map((outputs) => inputs.toSorted((a, b) => a - b).map((input, i): CurvePoint => [input, outputs[i] ?? 0])),
  )

/** Between neighbouring points, in steps. */
function eachSpan(points: readonly CurvePoint[], visit: (values: readonly number[], from: CurvePoint, to: CurvePoint) => void): void {
  const curve = monotoneCurve(points)
  for (const [i, to] of points.entries()) {
    const from = points[i - 1]
    if (!from) continue
    visit(
      Array.from({ length: 41 }, (_, k) => curve(from[0] + ((to[0] - from[0]) * k) / 40)),
      from,
      to,
    )
  }
}

describe('the curve through points (Steffen 1990)', () => {
  it('goes through every point, and is level before the first and behind the last', () => {
    fc.assert(
      fc.property(anyPoints, (points) => {
        const curve = monotoneCurve(points)
        for (const [input, output] of points) expect(curve(input)).toBeCloseTo(output, 9)
        expect(curve((points[0] as CurvePoint)[0] - 10)).toBe((points[0] as CurvePoint)[1])
        expect(curve((points.at(-1) as CurvePoint)[0] + 10)).toBe((points.at(-1) as CurvePoint)[1])
      }),
    )
  })
  it('rises where its points rise and falls where they fall, so it overshoots none', () => {
    fc.assert(
      fc.property(anyPoints, (points) => {
        eachSpan(points, (values, [, from], [, to]) => {
          const direction = Math.sign(to - from)
          for (let k = 1; k < values.length; k++)
            expect(((values[k] as number) - (values[k - 1] as number)) * direction).toBeGreaterThanOrEqual(-1e-9)
          if (direction === 0) for (const value of values) expect(value).toBeCloseTo(from, 9)
        })
      }),
    )
  })
  it('has no kink: on both sides of an inner point it is equally steep', () => {
    fc.assert(
      fc.property(anyPoints, (points) => {
        const curve = monotoneCurve(points)
        const h = 1e-5
        for (const [input] of points.slice(1, -1)) {
          const [left, right] = [(curve(input) - curve(input - h)) / h, (curve(input + h) - curve(input)) / h]
          expect(Math.abs(left - right)).toBeLessThan(0.05 + 0.02 * Math.max(Math.abs(left), Math.abs(right)))
        }
      }),
    )
  })
  it('is straight through points on a line, and changes only the two spans beside a point and those beside them when it moves', () => {
    const line = monotoneCurve([
      [0, 10],
      [80, 50],
      [200, 110],
    ])
    for (let input = 0; input <= 200; input += 7) expect(line(input)).toBeCloseTo(10 + input / 2, 9)
    const points: CurvePoint[] = [0, 40, 80, 120, 160, 200, 240].map((x) => [x, x ** 2 / 255])
    const moved = points.map((point, i): CurvePoint => (i === 3 ? [120, 70] : point))
    const [still, bent] = [monotoneCurve(points), monotoneCurve(moved)]
    for (const input of [5, 30, 39, 201, 230]) expect(bent(input)).toBe(still(input))
    expect(bent(121)).not.toBeCloseTo(still(121), 1)
  })
  it('has the derivatives of the paper at its inner points: the harmonic-like limit of two slopes', () => {
    // Slopes 1 and 3 over equal widths: p = 2, and twice the smaller slope is 2: the derivative is 2 (equation 11).
    const curve = monotoneCurve([
      [0, 0],
      [1, 1],
      [2, 4],
    ])
    const h = 1e-6
    expect((curve(1 + h) - curve(1 - h)) / (2 * h)).toBeCloseTo(2, 4)
  })
})

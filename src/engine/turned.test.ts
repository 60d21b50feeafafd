import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Size } from '@/base/geometry'
import { sourceRect, turnMap } from './turned'

type Grid = readonly (readonly number[])[]

/** Turns a table of numbers step by step, as one would with paper. */
const clockwise = (grid: Grid): Grid => (grid[0] ?? []).map((_, x) => grid.map((row) => row[x] as number).reverse())
function turnedByHand(grid: Grid, degrees: number, mirrorAcross: boolean, mirrorDown: boolean): Grid {
  let turned = grid
  for (let quarter = 0; quarter < degrees / 90; quarter++) turned = clockwise(turned)
  if (mirrorAcross) turned = turned.map((row) => row.toReversed())
  return mirrorDown ? turned.toReversed() : turned
}

const anyTurn = fc.record({
  kind: fc.constant('turn' as const),
  degrees: fc.constantFrom(0, 90, 180, 270) as fc.Arbitrary<0 | 90 | 180 | 270>,
  mirrorAcross: fc.boolean(),
  mirrorDown: fc.boolean(),
})
const anySize: fc.Arbitrary<Size> = fc.record({ width: fc.integer({ min: 1, max: 9 }), height: fc.integer({ min: 1, max: 7 }) })

describe('a turn and mirroring', () => {
  it('takes every pixel from where paper would', () => {
    fc.assert(
      fc.property(anyTurn, anySize, (turn, size) => {
        const grid = Array.from({ length: size.height }, (_, y) => Array.from({ length: size.width }, (_, x) => y * 100 + x))
        const map = turnMap(turn, size)
        const expected = turnedByHand(grid, turn.degrees, turn.mirrorAcross, turn.mirrorDown)
        for (const [y, row] of expected.entries())
          for (const [x, value] of row.entries())
            expect((map.yx * x + map.yy * y + map.y0) * 100 + map.xx * x + map.xy * y + map.x0).toBe(value)
      }),
    )
  })
  it('needs of the picture before exactly what the rectangle is made of', () => {
    fc.assert(
      fc.property(anyTurn, anySize, fc.nat(6), fc.nat(6), (turn, size, left, top) => {
        const map = turnMap(turn, size)
        const lies = turn.degrees % 180 === 0
        const after = lies ? size : { width: size.height, height: size.width }
        const [x, y] = [left % after.width, top % after.height]
        const rect = { x, y, width: after.width - x, height: after.height - y }
        const from = sourceRect(map, rect)
        expect(from.width * from.height).toBe(rect.width * rect.height)
        expect(from.x).toBeGreaterThanOrEqual(0)
        expect(from.y).toBeGreaterThanOrEqual(0)
        expect(from.x + from.width).toBeLessThanOrEqual(size.width)
        expect(from.y + from.height).toBeLessThanOrEqual(size.height)
      }),
    )
  })
})

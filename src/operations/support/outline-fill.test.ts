import { describe, expect, it } from 'vitest'
import { fillOutlines, type PathCommand } from './outline-fill'

const polygon = (...points: readonly (readonly [number, number])[]): PathCommand[] => [
  ...points.map(([x, y], i): PathCommand => ({ type: i === 0 ? 'M' : 'L', x, y })),
  { type: 'Z' },
]
const sum = (values: Float32Array): number => values.reduce((total, value) => total + value, 0)

describe('filling outlines', () => {
  it('covers a rectangle by its exact shares', () => {
    const coverage = fillOutlines(polygon([1.25, 1], [3.5, 1], [3.5, 2.5], [1.25, 2.5]), 5, 4)
    expect([...coverage.slice(5, 10)]).toEqual([0, 0.75, 1, 0.5, 0])
    expect([...coverage.slice(10, 15)]).toEqual([0, 0.375, 0.5, 0.25, 0])
  })
  it.each([
    [
      'a triangle',
      [
        [2, 1],
        [18, 5],
        [7, 17],
      ],
      118,
    ],
    [
      'a slanted square',
      [
        [10, 2],
        [18, 10],
        [10, 18],
        [2, 10],
      ],
      128,
    ],
  ] as const)('%s has the area of the shoelace formula', (_, points, area) => {
    expect(sum(fillOutlines(polygon(...points), 20, 20))).toBeCloseTo(area, 3)
  })
  it('leaves holes that run the other way round, and cuts off what lies outside', () => {
    const ring = [...polygon([2, 2], [12, 2], [12, 12], [2, 12]), ...polygon([5, 5], [5, 9], [9, 9], [9, 5])]
    const coverage = fillOutlines(ring, 14, 14)
    expect(sum(coverage)).toBeCloseTo(84, 4)
    expect(coverage[7 * 14 + 7]).toBeCloseTo(0, 6)
    expect(sum(fillOutlines(polygon([-5, -5], [30, -5], [30, 30], [-5, 30]), 8, 8))).toBeCloseTo(64, 4)
  })
  it('draws a circle of four cubics to within a thousandth of its area', () => {
    const k = 0.5522847 * 8
    const circle: PathCommand[] = [
      { type: 'M', x: 18, y: 10 },
      { type: 'C', x1: 18, y1: 10 + k, x2: 10 + k, y2: 18, x: 10, y: 18 },
      { type: 'C', x1: 10 - k, y1: 18, x2: 2, y2: 10 + k, x: 2, y: 10 },
      { type: 'C', x1: 2, y1: 10 - k, x2: 10 - k, y2: 2, x: 10, y: 2 },
      { type: 'C', x1: 10 + k, y1: 2, x2: 18, y2: 10 - k, x: 18, y: 10 },
    ]
    expect(sum(fillOutlines(circle, 20, 20)) / (Math.PI * 64)).toBeCloseTo(1, 2)
  })
})

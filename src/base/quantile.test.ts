import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { bucketsOf, quantileOf, sortedValuesAt } from './quantile'

describe('the values at a rank', () => {
  it('is what sorting gives, whatever the values are, and leaves them as they were', () => {
    fc.assert(
      fc.property(fc.float32Array({ noNaN: true, minLength: 1, maxLength: 300 }), (values) => {
        const before = values.slice()
        const sorted = values.slice().sort()
        for (let rank = 0; rank < values.length; rank++)
          expect(sortedValuesAt(bucketsOf(values), rank)).toEqual([sorted[rank], sorted[Math.min(rank + 1, values.length - 1)]])
        expect(values).toEqual(before)
      }),
    )
  })
  it('takes a part of a larger array for what it is, and many of the same', () => {
    expect(sortedValuesAt(bucketsOf(Float32Array.of(9, 3, -1, 2, 8).subarray(1, 4)), 1)).toEqual([2, 3])
    expect(sortedValuesAt(bucketsOf(new Float32Array(1000).fill(0.25)), 999)).toEqual([0.25, 0.25])
  })
})

it('a share lies between the values on either side of it, in proportion', () => {
  const buckets = bucketsOf(Float32Array.of(4, 1, 3, 2))
  expect([0, 0.5, 1, -1, 2].map((share) => quantileOf(buckets, share))).toEqual([1, 2.5, 4, 1, 4])
  expect(quantileOf(bucketsOf(Float32Array.of(7)), 0.3)).toBe(7)
})

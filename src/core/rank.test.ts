import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { valueAtRank } from './rank'

describe('the value at a rank', () => {
  it('is what sorting gives, whatever the values are, and leaves them as they were', () => {
    fc.assert(
      fc.property(fc.float32Array({ noNaN: true, minLength: 1, maxLength: 300 }), (values) => {
        const before = values.slice()
        const sorted = values.slice().sort()
        for (let rank = 0; rank < values.length; rank++) expect(valueAtRank(values, rank)).toBe(sorted[rank])
        expect(values).toEqual(before)
      }),
    )
  })
  it('takes a part of a larger array for what it is, and many of the same', () => {
    expect(valueAtRank(Float32Array.of(9, 3, -1, 2, 8).subarray(1, 4), 1)).toBe(2)
    expect(valueAtRank(new Float32Array(1000).fill(0.25), 700)).toBe(0.25)
  })
})

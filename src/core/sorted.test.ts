import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { sortedFloats } from './sorted'

describe('sorting floats by their digits', () => {
  it('gives what comparing gives, whatever they are, and leaves them as they were', () => {
    fc.assert(
      fc.property(fc.float32Array({ noNaN: true, maxLength: 300 }), (values) => {
        const before = values.slice()
        expect(sortedFloats(values)).toEqual(before.slice().sort())
        expect(values).toEqual(before)
      }),
    )
  })
  it('takes a part of a larger array for what it is', () => {
    expect([...sortedFloats(Float32Array.of(9, 3, -1, 2, 8).subarray(1, 4))]).toEqual([-1, 2, 3])
  })
})

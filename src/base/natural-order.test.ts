import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { inNaturalOrder } from './natural-order'

const sorted = (names: readonly string[]): string[] => inNaturalOrder(names, (name) => name)

describe('natural order', () => {
  it.each([
    [
      ['a10', 'a9', 'a1', 'a100'],
      ['a1', 'a9', 'a10', 'a100'],
    ],
    [
      ['B2', 'b1', 'a3'],
      ['a3', 'b1', 'B2'],
    ],
    [
      ['éclair', 'eclair', 'zebra', 'Echo'],
      ['Echo', 'eclair', 'éclair', 'zebra'],
    ],
    [
      ['x01', 'x1', 'x001', 'x2'],
      ['x001', 'x01', 'x1', 'x2'],
    ],
    [
      ['IMG_0002', 'IMG_0010', 'IMG_2', 'IMG_12345678901234567890'],
      ['IMG_0002', 'IMG_2', 'IMG_0010', 'IMG_12345678901234567890'],
    ],
  ])('%j', (names, expected) => expect(sorted(names)).toEqual(expected))
  it('is the order of ICU’s numeric collation for plain names', () => {
    const plain = fc.array(fc.stringMatching(/^[a-c]{1,2}[0-9]{1,3}$/), { maxLength: 20 })
    const collator = new Intl.Collator('en', { numeric: true, sensitivity: 'base' })
    fc.assert(
      fc.property(plain, (names) => {
        const values = (list: readonly string[]): string[] => list.map((name) => name.replace(/\d+/, (digits) => String(Number(digits))))
        return values(sorted(names)).join() === values([...names].sort(collator.compare)).join()
      }),
    )
  })
  it('does not depend on the order before, and loses nothing', () => {
    fc.assert(
      fc.property(fc.array(fc.string({ unit: 'grapheme' })), (names) => {
        expect(sorted(names.toReversed())).toEqual(sorted(names))
        expect(sorted(names)).toHaveLength(names.length)
      }),
    )
  })
})

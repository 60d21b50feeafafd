import { describe, expect, it } from 'vitest'
import { describeEnd, describeTotals } from './run'

describe('the counts of a run in words', () => {
  it.each([
    [{ waiting: 0, working: 0, done: 30, failed: 2, skipped: 0 }, '30 delivered, 2 failed'],
    [{ waiting: 3, working: 1, done: 0, failed: 0, skipped: 1 }, '1 skipped, 4 pictures to go'],
    [{ waiting: 0, working: 0, done: 0, failed: 0, skipped: 0 }, 'no pictures'],
  ])('%o reads: %s', (totals, words) => expect(describeTotals(totals)).toBe(words))
  it('end with what was delivered, what failed, and that originals are as they were', () => {
    const totals = { waiting: 0, working: 0, done: 15, failed: 0, skipped: 0 }
    expect(describeEnd({ totals, originals: { compared: 15, changed: 0 } })).toBe('15 delivered, 0 failed, 15 originals unchanged')
    expect(describeEnd({ totals, originals: { compared: 15, changed: 1 } })).toBe(
      '15 delivered, 0 failed, 14 originals unchanged, 1 original changed by another program',
    )
    expect(describeEnd({ totals, originals: { compared: 0, changed: 0 } })).toBe('15 delivered, 0 failed')
    const gathered = [{ problem: null }, { problem: 'The disk is full.' }]
    expect(describeEnd({ totals, originals: { compared: 0, changed: 0 }, gathered })).toBe(
      '15 delivered, 0 failed, its pages could not be made',
    )
  })
})

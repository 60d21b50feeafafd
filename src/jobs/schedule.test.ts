import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { everyDay } from './loop'
import { lastDue, nextStart } from './schedule'

const at = (text: string): number => new Date(text).getTime()
const daily = { when: 'atTimes', at: '18:30', days: everyDay } as const
const weekdays = { when: 'atTimes', at: '06:05', days: [1, 2, 3, 4, 5] } as const

describe('a schedule', () => {
  it.each([
    [daily, '2026-03-14T12:00', '2026-03-14T18:30', '2026-03-13T18:30'],
    [daily, '2026-03-14T18:30', '2026-03-15T18:30', '2026-03-14T18:30'],
    [daily, '2026-12-31T23:59', '2027-01-01T18:30', '2026-12-31T18:30'],
    // 14 March 2026 is a Saturday.
    [weekdays, '2026-03-14T12:00', '2026-03-16T06:05', '2026-03-13T06:05'],
    [{ ...weekdays, days: [6] }, '2026-03-14T06:05', '2026-03-21T06:05', '2026-03-14T06:05'],
    [{ ...weekdays, days: [0] }, '2024-02-28T00:00', '2024-03-03T06:05', '2024-02-25T06:05'],
  ])('%o as of %s', (start, now, next, last) => {
    expect(nextStart(start, at(now))).toBe(at(next))
    expect(lastDue(start, at(now))).toBe(at(last))
  })
  it('without a day is never due', () => {
    expect(nextStart({ ...daily, days: [] }, 0)).toBeUndefined()
    expect(lastDue({ ...daily, days: [] }, 0)).toBeUndefined()
  })
  it('goes from one due moment to the next without a gap, at any time, on any days', () => {
    const start = fc.record({
      when: fc.constant('atTimes' as const),
      at: fc.tuple(fc.nat(23), fc.nat(59)).map((parts) => parts.map((part) => String(part).padStart(2, '0')).join(':')),
      days: fc.uniqueArray(fc.integer({ min: 0, max: 6 }), { minLength: 1 }),
    })
    const moment = fc.date({ min: new Date('2020-01-01'), max: new Date('2035-01-01'), noInvalidDate: true }).map(Number)
    fc.assert(
      fc.property(start, moment, (start, now) => {
        const [last, next] = [lastDue(start, now), nextStart(start, now)]
        if (last === undefined || next === undefined) return false
        return last <= now && now < next && lastDue(start, next) === next && nextStart(start, last) === next
      }),
    )
  })
})

import { describe, expect, it } from 'vitest'
import { Pace } from './pace'

describe('a station’s pace', () => {
  const watched = (): { look(seconds: number, count: number, isBusy?: boolean): number } => {
    let now = 0
    const pace = new Pace(() => now)
    return {
      look(seconds, count, isBusy = true) {
        now += seconds * 1000
        return pace.perMinute(count, isBusy)
      },
    }
  }
  it('is what was done in the last minute of work', () => {
    const { look } = watched()
    look(0, 0)
    for (let done = 1; done <= 40; done++) expect(look(2, done)).toBe(30)
    // Twice as fast from now on: after a minute nothing of before is left.
    for (let done = 42; done <= 102; done += 2) look(2, done)
    expect(look(2, 104)).toBe(60)
  })
  it('does not sink while there is nothing to do, and begins anew with the next work', () => {
    const { look } = watched()
    look(0, 0, false)
    look(3600, 0, false)
    look(2, 0)
    expect(look(2, 2)).toBe(30)
    expect(look(2, 4)).toBe(40)
    expect(look(20, 4, false)).toBe(0)
    expect(look(1000, 4, false)).toBe(0)
    look(2, 4)
    expect(look(2, 5)).toBeGreaterThan(10)
  })
})

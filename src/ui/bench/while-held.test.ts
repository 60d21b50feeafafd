import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { densityFor, followers, judgeOfPace } from './while-held'
import type { RenderedView } from './worker/protocol'

const taken = (width: number, height: number, milliseconds: number) => ({ size: { width, height }, milliseconds, isQuick: false })

describe('the resolution of a picture while a control is held', () => {
  it('is the screen’s own for a quick picture, less for a slow one, and never unrecognisable', () => {
    expect(densityFor(0)).toBe(1)
    expect(densityFor(80)).toBe(1)
    const densities = [85, 180, 400, 1500].map(densityFor)
    expect(densities).toEqual(densities.toSorted((a, b) => b - a))
    expect(densities.at(-1)).toBeGreaterThan(0.3)
  })
  it('keeps to the time there is, as long as it is not at its least', () => {
    for (let ms = 1; ms < 300; ms++) expect(ms * densityFor(ms) ** 2).toBeLessThanOrEqual(80)
  })
})

describe('the pace of a picture', () => {
  it('is what the whole took at rest, whatever was thought before', () => {
    const judge = judgeOfPace()
    expect(judge(5, taken(1000, 600, 48), false)).toBe(48)
    expect(judge(48, taken(1000, 600, 20), false)).toBe(20)
  })
  it('is taken from a share of the pixels while a control is held: quicker counts, a little slower does not, much slower does', () => {
    const judge = judgeOfPace()
    judge(0, taken(1000, 600, 48), false)
    // 10 ms do not depend on the size.
    expect(judge(48, taken(500, 300, 13), true)).toBeCloseTo(22)
    expect(judge(22, taken(500, 300, 16), true)).toBe(22)
    expect(judge(22, taken(500, 300, 35), true)).toBeCloseTo(110)
    expect(judge(48, taken(500, 300, 6), true)).toBeCloseTo(6)
  })
})

describe('a picture drawn by a palette', () => {
  it('says nothing about the pace of others', () => {
    const judge = judgeOfPace()
    judge(0, taken(1000, 600, 48), false)
    expect(judge(48, { ...taken(1000, 600, 9), isQuick: true }, true)).toBe(48)
  })
})

describe('what follows a picture', () => {
  beforeEach(() => void vi.useFakeTimers())
  afterEach(() => void vi.useRealTimers())
  const view = (id: number) => ({ id }) as RenderedView

  it('comes at once unless the picture is painted already', () => {
    const hand = vi.fn()
    const follow = followers(hand, vi.fn())
    follow('after', view(1), false)
    expect(hand).toHaveBeenCalledExactlyOnceWith('after', view(1))
  })
  it('comes a little later for painted ones, the newest of each lane, and once', () => {
    const [hand, giveBack] = [vi.fn(), vi.fn()]
    const follow = followers(hand, giveBack)
    for (let id = 1; id <= 5; id++) {
      follow('after', view(id), true)
      vi.advanceTimersByTime(20)
    }
    follow('before', view(9), true)
    expect(hand).not.toHaveBeenCalled()
    vi.advanceTimersByTime(500)
    expect(hand.mock.calls).toEqual([
      ['after', view(5)],
      ['before', view(9)],
    ])
    expect(giveBack.mock.calls.flat()).toEqual([1, 2, 3, 4].map(view))
  })
  it('is not held up by a wait once a picture comes that is not painted, and nothing older comes after it', () => {
    const hand = vi.fn()
    const follow = followers(hand, vi.fn())
    follow('after', view(1), true)
    follow('after', view(2), false)
    vi.advanceTimersByTime(500)
    expect(hand.mock.calls).toEqual([['after', view(2)]])
  })
})

import { describe, expect, it, vi } from 'vitest'
import { lruCached, memoised } from './lru-cache'

describe('what is remembered', () => {
  it('is made once, and made again when it had to go', () => {
    const cache = new Map<string, number>()
    const make = vi.fn(() => 7)
    for (let i = 0; i < 3; i++) expect(lruCached(cache, 'a', 2, make)).toBe(7)
    expect(make).toHaveBeenCalledTimes(1)
    for (const key of ['b', 'c']) lruCached(cache, key, 2, make)
    expect([...cache.keys()]).toEqual(['b', 'c'])
    lruCached(cache, 'a', 2, make)
    expect(make).toHaveBeenCalledTimes(4)
  })
  it('stays as long as it is asked for: what was unused for longest goes first', () => {
    const cache = new Map<string, string>()
    const ask = (key: string): string => lruCached(cache, key, 3, () => key.toUpperCase())
    for (const key of ['a', 'b', 'c', 'a', 'd']) expect(ask(key)).toBe(key.toUpperCase())
    expect([...cache.keys()]).toEqual(['c', 'a', 'd'])
  })
  it('is not kept where making it failed', () => {
    const cache = new Map<string, number>()
    const fail = (): number => {
      throw new Error('no')
    }
    expect(() => lruCached(cache, 'a', 2, fail)).toThrow('no')
    expect(cache.size).toBe(0)
    expect(lruCached(cache, 'a', 2, () => 1)).toBe(1)
  })
  it('belongs to the very object, not to one that looks like it', () => {
    const work = vi.fn(({ n }: { n: number }) => n * 2)
    const doubled = memoised(work)
    const [one, other] = [{ n: 4 }, { n: 4 }]
    expect([doubled(one), doubled(one), doubled(other)]).toEqual([8, 8, 8])
    expect(work).toHaveBeenCalledTimes(2)
  })
})

import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { extend, invert, meantBy, pickAll, picking, toggle } from './picking'

const paths = ['/a/1.jpg', '/a/2.jpg', '/a/3.jpg', '/a/4.jpg', '/a/5.jpg']
const numbers = (state: { readonly picked: ReadonlySet<string> }): string =>
  paths.flatMap((path, i) => (state.picked.has(path) ? [i + 1] : [])).join('')

describe('ticking', () => {
  it('ticks one, and a range to either side, as the first of it is', () => {
    const second = toggle(picking([]), paths, 1)
    expect(numbers(second)).toBe('2')
    expect(numbers(extend(second, paths, 3))).toBe('234')
    expect(numbers(extend(second, paths, 0))).toBe('12')
    const without = toggle(pickAll(second, paths, true), paths, 2)
    expect(numbers(without)).toBe('1245')
    expect(numbers(extend(without, paths, 4))).toBe('12')
  })
  it('keeps what is out of sight: ticks of other folders, and those that a pattern hides', () => {
    const elsewhere = picking(['/b/9.jpg', '/a/2.jpg'])
    expect([...pickAll(elsewhere, paths, false).picked]).toEqual(['/b/9.jpg'])
    expect(invert(elsewhere, paths).picked.has('/b/9.jpg')).toBe(true)
  })
  it('inverts, and twice is nothing', () => {
    fc.assert(
      fc.property(fc.subarray(paths), (picked) => {
        const state = picking(picked)
        expect(numbers(invert(state, paths))).toBe(paths.flatMap((path, i) => (picked.includes(path) ? [] : [i + 1])).join(''))
        expect(invert(invert(state, paths), paths).picked).toEqual(state.picked)
      }),
    )
  })
  it('finds by a part of a name or by a pattern', () => {
    const pictures = ['IMG_1.jpg', 'tall/IMG_12.jpg', 'tall/other.png'].map((relativePath) => ({ relativePath }))
    const meant = (pattern: string): string[] => meantBy(pictures, pattern).map(({ relativePath }) => relativePath)
    expect(meant('')).toHaveLength(3)
    expect(meant('img_1')).toEqual(['IMG_1.jpg', 'tall/IMG_12.jpg'])
    expect(meant('IMG_?.jpg')).toEqual(['IMG_1.jpg'])
    expect(meant('tall/*')).toEqual(['tall/IMG_12.jpg', 'tall/other.png'])
  })
})

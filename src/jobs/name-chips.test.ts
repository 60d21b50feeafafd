import { describe, expect, it } from 'vitest'
import { parsePattern } from '@/files/names'
import { checkCaption } from '@/operations/declare/caption'
import { captionChips, counterOf, nameChips, openBrace, withCounter } from './name-chips'

describe('chips', () => {
  it('are fields that names take, and captions theirs', () => {
    for (const { field } of nameChips) expect(() => parsePattern(field)).not.toThrow()
    for (const { field } of captionChips) expect(() => checkCaption(field)).not.toThrow()
    expect(captionChips).toHaveLength(7)
  })
})

describe('a counter', () => {
  it('is read from its example number', () => {
    expect(counterOf('a-{name}')).toBeUndefined()
    expect(counterOf('{n}')).toEqual({ start: 1, digits: 1, inFolder: false })
    expect(counterOf('a-{n:0250/folder}')).toEqual({ start: 250, digits: 4, inFolder: true })
  })
  it('is written as one that names take', () => {
    expect(withCounter('a-{n:001}.{name}', { start: 20, digits: 4, inFolder: true })).toBe('a-{n:0020/folder}.{name}')
    expect(withCounter('{n}', { start: 1000, digits: 2, inFolder: false })).toBe('{n:1000}')
    expect(withCounter('{name}', { start: 1, digits: 1, inFolder: false })).toBe('{name}')
    for (const digits of [1, 5, 9]) expect(() => parsePattern(withCounter('{n}', { start: 7, digits, inFolder: true }))).not.toThrow()
  })
})

describe('a brace', () => {
  it('is open up to the one that closes it', () => {
    expect(openBrace('a-{na', 5)).toBe(2)
    expect(openBrace('a-{', 3)).toBe(2)
    expect(openBrace('a-{name}', 8)).toBeUndefined()
    expect(openBrace('a-{name}', 5)).toBe(2)
    expect(openBrace('{name}', 0)).toBeUndefined()
    expect(openBrace('abc', 2)).toBeUndefined()
  })
})

import { describe, expect, it } from 'vitest'
import { PatternError } from '@/base/tokens'
import { checkCaption, expandCaption } from './caption'

const subject = {
  name: 'TLK27_0422.jpg',
  facts: {
    size: { width: 1, height: 1 },
    format: 'jpeg',
    bits: 8,
    space: 'srgb',
    hasAlpha: false,
    title: 'Red vase',
    iso: 200,
    taken: '2026-03-14T09:30:00',
    keywords: ['glaze', 'red'],
  },
}

describe('a line of text on a picture', () => {
  it.each([
    ['© Tern Lane', '© Tern Lane'],
    ['{name}', 'TLK27_0422'],
    ['{title:upper} · ISO {iso}', 'RED VASE · ISO 200'],
    ['{taken:yyyy-MM-dd}', '2026-03-14'],
    ['{camera|title}', 'Red vase'],
    ['{keyword:plain}', 'glaze'],
    ['{camera}', ''],
    ['', ''],
  ])('%j becomes %j', (line, expected) => expect(expandCaption(line, subject)).toBe(expected))
  it('leaves fields empty where nothing is known', () => {
    expect(expandCaption('by {name} {taken:yyyy}', undefined)).toBe('by')
  })
  it.each(['{nothing}', '{name', 'name}', '{n:001}', '{title:loud}', 'x'.repeat(201)])('refuses %j', (line) => {
    expect(() => checkCaption(line)).toThrow(PatternError)
  })
})

import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { plainText } from '@/base/tokens'
import { expandPattern, type NameContext, PatternError, parsePattern } from './names'
import { collisionKey, fitName, safeSegment } from './safe-names'

const context: NameContext = {
  name: 'TLK27_0401',
  folders: ['pictures', 'kiln-and-yard', 'day 2'],
  index: 11,
  indexInFolder: 3,
  facts: {
    size: { width: 2400, height: 1600 },
    format: 'jpeg',
    bits: 8,
    space: 'srgb',
    hasAlpha: false,
    taken: '2026-03-14T09:05:07',
    iso: 3200,
    camera: 'Marram Optical MO-2',
    keywords: ['Firing 27', 'kiln'],
  },
  deliveredSize: { width: 1350, height: 900 },
  macro: 'Shop listing',
  loop: 'Vessels',
  delivery: 'Web set',
  run: '7',
  today: '2026-11-25T02:00:00',
  answers: { Client: 'Tern Lane / Harbour', Copies: 3 },
}
const name = (pattern: string, suffix = '.jpg', part: Partial<NameContext> = {}): string =>
  expandPattern(parsePattern(pattern), { ...context, ...part }, suffix)

describe('name patterns', () => {
  it.each([
    ['{name}', 'TLK27_0401.jpg'],
    ['web-{name:lower}', 'web-tlk27_0401.jpg'],
    ['{name:upper}', 'TLK27_0401.jpg'],
    ['{n:001}', '012.jpg'],
    ['{n:1}', '12.jpg'],
    ['{n:500}', '511.jpg'],
    ['{n:01/folder}', '04.jpg'],
    ['{n}', '12.jpg'],
    ['{taken:yyyy-MM-dd}', '2026-03-14.jpg'],
    ['{taken:yyyyMMdd-HHmmss}', '20260314-090507.jpg'],
    ['{taken:d MMM yy}', '14 Mar 26.jpg'],
    ['{today:yyyy}/{name}', '2026/TLK27_0401.jpg'],
    ['{ask:Client}-{n:1}', 'Tern Lane - Harbour-12.jpg'],
    ['{ask:Copies}x {ask:Nobody|name}', '3x TLK27_0401.jpg'],
    ['{folder}', 'day 2.jpg'],
    ['{folder:2}-{name}', 'kiln-and-yard-day 2-TLK27_0401.jpg'],
    ['{folder:plain}', null],
    ['{iso}_{width}x{height}', '3200_1350x900.jpg'],
    ['{camera:plain}', 'Marram-Optical-MO-2.jpg'],
    ['{keyword}', 'Firing 27.jpg'],
    ['{title|name}', 'TLK27_0401.jpg'],
    ['{lens|title|keyword:plain}', 'Firing-27.jpg'],
    ['{macro}/{delivery}/{loop} {run}', 'Shop listing/Web set/Vessels 7.jpg'],
    ['a/../b', 'a/_/b.jpg'],
    ['/x', '_/x.jpg'],
    ['{lens}', '_.jpg'],
  ])('%s gives %s', (pattern, expected) => {
    if (expected === null) expect(() => parsePattern(pattern)).toThrow(PatternError)
    else expect(name(pattern)).toBe(expected)
  })
  it.each([
    ['', /empty/],
    ['   ', /empty/],
    ['{', /not closed/],
    ['a}', /without its \{/],
    ['{nonsense}', /not a field/],
    ['{name:shout}', /lower, upper or plain/],
    ['{n:abc}', /example number/],
    ['{folder:x}', /number of levels/],
    ['x'.repeat(201), /at most 200/],
  ])('%s is refused in words', (pattern, sentence) => expect(() => parsePattern(pattern)).toThrow(sentence))

  it('lets no value open a folder or leave one', () => {
    expect(name('{name}', '.jpg', { name: '../../etc/passwd' })).toBe('..-..-etc-passwd.jpg')
    expect(name('{title}', '.jpg', { facts: { ...context.facts, title: 'a\\b/c' } })).toBe('a-b-c.jpg')
  })
  it('never breaks a system’s rules, whatever the picture is called', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: 'grapheme', maxLength: 400 }),
        fc.constantFrom('{name}', 'x/{name}', '{name}-{n:001}', '{name:lower}'),
        (source, pattern) => {
          for (const segment of name(pattern, '.jpg', { name: source }).split('/')) {
            expect(Buffer.byteLength(segment)).toBeLessThanOrEqual(255)
            expect(segment).not.toMatch(/[<>:"|?*\\\p{Cc}]|[. ]$|^$|^\.{1,2}$/u)
            expect(segment.normalize('NFC')).toBe(segment)
          }
        },
      ),
    )
  })
})

describe('safe names', () => {
  it.each([
    ['con', '_con'],
    ['CON.jpg', '_CON.jpg'],
    ['console', 'console'],
    ['lpt1', '_lpt1'],
    ['a:b*c', 'a-b-c'],
    ['trailing. . ', 'trailing'],
    ['  leading', 'leading'],
    ['...', '_'],
    ['', '_'],
    ['glasur-ø-青磁', 'glasur-ø-青磁'],
    ['e\u0301', '\u00e9'],
    ['tab\there', 'tab-here'],
  ])('%s becomes %s', (given, expected) => expect(safeSegment(given)).toBe(expected))

  it('cuts long names at whole characters and keeps the extension', () => {
    const cut = fitName('青'.repeat(200), '.jpg')
    expect(Buffer.byteLength(cut)).toBeLessThanOrEqual(255)
    expect(cut).toMatch(/^青+\.jpg$/)
  })
  it('takes names for the same that differ in case or composition alone', () => {
    expect(collisionKey('/a/E\u0301.JPG')).toBe(collisionKey('/A/\u00e9.jpg'))
  })
  it.each([
    ['Glasur Ø 青磁', 'Glasur'],
    ['Crème brûlée', 'Creme-brulee'],
    ['a_b-c', 'a_b-c'],
  ])('plain: %s becomes %s', (given, expected) => expect(plainText(given)).toBe(expected))
})

import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { isLike } from '@/base/wildcards'
import { resolveSteps } from '@/engine/resolve'
import {
  type Condition,
  type ConditionKind,
  conditionKinds,
  conditionLike,
  conditionSchema,
  describeCondition,
  holds,
  joinPatterns,
  patternFor,
  type Subject,
  splitPatterns,
} from './condition'
import { newStep, stepSetting } from './step'

const subject: Subject = {
  name: 'TLK27_0401.jpg',
  facts: {
    size: { width: 2400, height: 1600 },
    format: 'jpeg',
    bits: 8,
    space: 'srgb',
    hasAlpha: false,
    iso: 3200,
    camera: 'Kilnworks K2',
    taken: '2026-03-14T09:30:00',
    keywords: ['Firing 27', 'kiln'],
  },
}
const portrait = { ...subject, facts: { ...subject.facts, size: { width: 1600, height: 2400 } } }
const untold = {
  ...subject,
  facts: { ...subject.facts, iso: undefined, keywords: undefined, camera: undefined, taken: undefined, space: 'b-w' },
}

describe('conditions', () => {
  it.each<[Condition, string, boolean, boolean, boolean]>([
    [{ kind: 'orientation', is: 'landscape' }, 'landscapes', true, false, true],
    [{ kind: 'orientation', is: 'portrait' }, 'portraits', false, true, false],
    [{ kind: 'iso', from: 1600, to: null }, 'ISO 1600 and more', true, true, false],
    [{ kind: 'iso', from: null, to: 400 }, 'up to ISO 400', false, false, false],
    [{ kind: 'iso', from: null, to: null }, 'any', true, true, false],
    [{ kind: 'megapixels', from: 3, to: 4 }, '3 MP to 4 MP', true, true, true],
    [{ kind: 'megapixels', from: 12, to: null }, '12 MP and more', false, false, false],
    [{ kind: 'format', is: 'jpeg' }, 'JPEG files', true, true, true],
    [{ kind: 'format', is: 'tiff' }, 'TIFF files', false, false, false],
    [{ kind: 'tone', is: 'mono' }, 'mono pictures', false, false, true],
    [{ kind: 'tone', is: 'colour' }, 'colour pictures', true, true, false],
    [{ kind: 'name', like: 'tlk27_04??.*' }, 'names like tlk27_04??.*', true, true, true],
    [{ kind: 'name', like: 'tlk27_0401' }, 'names like tlk27_0401', true, true, true],
    [{ kind: 'name', like: 'other*; TLK27_0401.jpg, x' }, 'names like other*; TLK27_0401.jpg, x', true, true, true],
    [{ kind: 'name', like: 'other*, x' }, 'names like other*, x', false, false, false],
    [{ kind: 'keyword', has: ' KILN ' }, 'keyword  KILN ', true, true, false],
    [{ kind: 'keyword', has: '' }, 'keyword …', false, false, false],
    [{ kind: 'camera', has: 'kiln' }, 'cameras like kiln', true, true, false],
    [{ kind: 'taken', from: '2026-03-14', to: null }, 'taken from 2026-03-14', true, true, false],
    [{ kind: 'taken', from: null, to: '2026-03-14' }, 'taken up to 2026-03-14', true, true, false],
    [{ kind: 'taken', from: '2026-03-15', to: '2026-04-01' }, 'taken from 2026-03-15 to 2026-04-01', false, false, false],
  ])(
    '%o reads "%s": %s for a landscape, %s for a portrait, %s for a mono picture that tells little',
    (condition, words, first, second, third) => {
      expect(describeCondition(condition)).toBe(words)
      expect([subject, portrait, untold].map((each) => holds(condition, each))).toEqual([first, second, third])
    },
  )
  it.each(Object.keys(conditionKinds) as ConditionKind[])(
    'a new one of kind %s holds for the picture in hand, and turned round for all but it',
    (kind) => {
      const condition = conditionLike(kind, subject)
      const turned = { ...condition, not: true } as const
      const hasStart = kind === 'megapixels' || kind === 'iso' ? conditionKinds[kind].start : undefined
      expect(hasStart ?? holds(condition, subject)).toEqual(hasStart ? condition : true)
      for (const each of [subject, portrait, untold]) expect(holds(turned, each)).toBe(!holds(condition, each))
      expect(describeCondition(turned)).toBe(`not ${describeCondition(condition)}`)
      expect(conditionSchema.isValidSync(turned)).toBe(true)
      expect(conditionSchema.isValidSync({ ...condition, not: false })).toBe(false)
    },
  )
  it('of names takes those that are picked, whatever stands in them', () => {
    const names = ['a, b.jpg', 'c.jpg']
    const condition = { kind: 'name', like: joinPatterns(names.map(patternFor)) } as const
    expect(condition.like).toBe('a? b.jpg, c.jpg')
    expect(splitPatterns(condition.like)).toHaveLength(2)
    expect(names.every((name) => holds(condition, { ...subject, name }))).toBe(true)
    expect(holds(condition, { ...subject, name: 'b.jpg' })).toBe(false)
  })
  it.each(Object.keys(conditionKinds) as ConditionKind[])('a new one of kind %s starts whole', (kind) =>
    expect(conditionKinds[kind].start.kind).toBe(kind),
  )
})

describe('name patterns with * and ?', () => {
  it.each([
    ['abc', 'abc', true],
    ['abc', 'a*', true],
    ['abc', '*c', true],
    ['abc', 'a?c', true],
    ['abc', 'a?', false],
    ['', '*', true],
    ['abc', '', false],
    ['a.b', 'a?b', true],
    ['[x]', '[x]', true],
  ])('%s is like %s: %s', (name, pattern, expected) => expect(isLike(name, pattern)).toBe(expected))

  it('agree with a regular expression, and no pattern takes long', () => {
    const letters = fc.string({ unit: fc.constantFrom('a', 'b', '.'), maxLength: 30 })
    const patterns = fc.string({ unit: fc.constantFrom('a', 'b', '.', '*', '?'), maxLength: 12 })
    fc.assert(
      fc.property(letters, patterns, (name, pattern) => {
        const expression = new RegExp(`^${pattern.replace(/[.]/g, '\\.').replace(/\*+/g, '.*').replace(/\?/g, '.')}$`)
        expect(isLike(name, pattern)).toBe(expression.test(name))
      }),
    )
    expect(isLike('a'.repeat(20_000), `${'a*'.repeat(60)}b`)).toBe(false)
  })
})

describe('a step with conditions', () => {
  const square = { ...newStep('crop', 'c', { ratioWidth: 1, ratioHeight: 1 }), when: [{ kind: 'orientation', is: 'portrait' } as const] }
  it('works on the pictures it is for, and lets the others pass', () => {
    const size = (who: Subject) => resolveSteps([square], who.facts.size, { subject: who })[0]
    expect(size(portrait)).toMatchObject({ applies: true, sizeAfter: { width: 1600, height: 1600 } })
    expect(size(subject)).toMatchObject({ applies: false, sizeAfter: { width: 2400, height: 1600 } })
  })
  it('says so in words', () => expect(stepSetting(square)).toBe('1 : 1, centred, only for portraits'))
})

import { describe, expect, it } from 'vitest'
import {
  describeLimits,
  type Limit,
  type LimitKind,
  limitBounds,
  limitJsonSchemas,
  limitKinds,
  limitSchema,
  newLimit,
  readLimits,
} from './limit'

const kinds = Object.keys(limitKinds) as LimitKind[]
const valid = (value: unknown): boolean => limitSchema.isValidSync(value, { strict: true })
const stroke = { sizePercent: 4, softnessPercent: 50, erases: false, points: [[10, 20] as const] }

describe('limits in a macro', () => {
  it.each(kinds)('%s: its start is valid, survives JSON, and reads in words', (kind) => {
    const limit = newLimit(kind)
    expect(valid(limit)).toBe(true)
    expect(JSON.parse(JSON.stringify(limit))).toEqual(limit)
    expect(describeLimits([limit])).not.toMatch(/undefined|NaN|^$/)
  })
  it.each(kinds)('%s: every setting is held to its range and none may be missing or unknown', (kind) => {
    const limit = newLimit(kind)
    for (const [key, setting] of Object.entries(limitKinds[kind].settings)) {
      for (const value of [setting.min - 1, setting.max + 1, Number.NaN, '1', null])
        expect(valid({ ...limit, settings: { ...limit.settings, [key]: value } })).toBe(false)
      const { [key]: _gone, ...missing } = limit.settings
      expect(valid({ ...limit, settings: missing })).toBe(false)
    }
    expect(valid({ ...limit, settings: { ...limit.settings, unheardOf: 1 } })).toBe(false)
  })
  it.each([
    ['an unknown kind', { kind: 'moon' }],
    ['an unknown way of joining', { join: 'xor' }],
    ['a word for inverted', { inverted: 'yes' }],
    ['strokes on a gradient', { strokes: [stroke] }],
    ['something unknown', { extra: 1 }],
  ])('refuses %s', (_, part) => {
    expect(valid({ ...newLimit('linear'), ...part })).toBe(false)
  })
  it.each([
    ['no points', { points: [] }],
    ['a point of three', { points: [[1, 2, 3]] }],
    ['a point far outside', { points: [[1, 900]] }],
    ['no size', { sizePercent: 0 }],
    ['too many points', { points: Array.from({ length: limitBounds.points + 1 }, () => [1, 1]) }],
  ])('refuses a stroke with %s', (_, part) => {
    const brush = newLimit('brush')
    expect(valid({ ...brush, strokes: [stroke] })).toBe(true)
    expect(valid({ ...brush, strokes: [{ ...stroke, ...part }] })).toBe(false)
  })
  it('reads several as one phrase', () => {
    const limits: Limit[] = [
      newLimit('tone'),
      { ...newLimit('edges'), join: 'without' },
      { ...newLimit('radial'), join: 'or', inverted: true },
    ]
    expect(describeLimits(limits)).toBe('tones 0–40 % but not edges and also everything but an ellipse')
  })
  it('has a JSON Schema for every kind, with the same ranges', () => {
    expect(limitJsonSchemas.length).toBe(kinds.length)
    const tone = limitJsonSchemas[0]?.properties as { settings: { properties: Record<string, { minimum: number; maximum: number }> } }
    expect(tone.settings.properties.toPercent).toMatchObject({ minimum: 0, maximum: 100 })
  })
})

describe('a limit as text', () => {
  it('comes back as it was, and nothing else comes in', () => {
    const limits = [newLimit('tone'), { ...newLimit('brush'), join: 'without' as const }]
    expect(readLimits(JSON.stringify(limits))).toEqual(limits)
    for (const text of ['', '[]', '{}', 'null', JSON.stringify([{ kind: 'tone' }]), JSON.stringify(newLimit('tone'))])
      expect(readLimits(text)).toBeUndefined()
  })
})

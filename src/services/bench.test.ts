import { describe, expect, it } from 'vitest'
import { AppError } from '@/base/errors'
import { type Change, replay } from '@/macros/history'
import { newStep } from '@/macros/step'
import { testApplication } from '../../tests/application'
import { extendBench, readBench } from './bench'

describe('a change of the bench', () => {
  const step = { ...newStep('exposure', 'a', { exposureEv: 1 }), kept: true }
  const edit = (change: unknown) => ({ from: 0, expectedCursor: 0, added: [change as never], cursor: 1 })
  it.each<[string, unknown]>([
    ['of no kind', { type: 'dance' }],
    ['that is text', 'insert'],
    ['without its step', { type: 'insert', index: 0 }],
    ['without its settings', { type: 'insert', index: 0, step: { ...step, settings: null } }],
    ['at no place', { type: 'insert', index: -1, step }],
    ['at half a place', { type: 'move', from: 0.5, to: 1 }],
    ['with a setting beyond its limits', { type: 'insert', index: 0, step: { ...step, settings: { exposureEv: 900 } } }],
    ['with something unknown in its step', { type: 'insert', index: 0, step: { ...step, extra: 1 } }],
    [
      'that holds others without end',
      [1, 2, 3, 4, 5, 6].reduce<unknown>((inner) => ({ type: 'all', changes: [inner] }), { type: 'move', from: 0, to: 1 }),
    ],
    ['with a name as long as a book', { type: 'recording', before: null, after: 'x'.repeat(5000) }],
  ])('%s is refused, not stored', (_, change) => {
    const { context } = testApplication()
    expect(() => extendBench(context, edit(change))).toThrow(AppError)
    expect(readBench(context).changes).toEqual([])
  })
  it('of a step that is older than some of its settings is stored', () => {
    const { context } = testApplication()
    const { exposureEv, ...older } = step.settings
    expect(exposureEv).toBe(1)
    extendBench(context, edit({ type: 'replace', index: 0, before: { ...step, settings: older }, after: step }))
    expect(readBench(context).changes).toHaveLength(1)
  })
  it('that is one is stored, and old ones are folded together without a change to what lies there', () => {
    const { context } = testApplication()
    let cursor = 0
    const add = (changes: readonly Change[]): void => {
      extendBench(context, { from: cursor, expectedCursor: cursor, added: changes, cursor: cursor + changes.length })
      cursor += changes.length
    }
    add([{ type: 'insert', index: 0, step }])
    for (let i = 0; i < 3; i++)
      add(
        Array.from({ length: 1000 }, (_, j): Change => {
          const [before, after] = [j, j + 1].map((n) => ({ ...step, note: `${(i * 1000 + n) % 7}` })) as [typeof step, typeof step]
          return { type: 'replace', index: 0, before, after }
        }),
      )
    const { base, folded, changes } = readBench(context)
    expect(folded).toBeGreaterThan(0)
    expect(replay(changes, cursor - folded, base ?? undefined, folded).document.steps).toMatchObject([{ id: 'a', note: `${3000 % 7}` }])
  })
})

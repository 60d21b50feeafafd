import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { compareSteps, isSameSteps } from './compare'
import { newStep, type Step } from './step'

const exposure = (exposureEv: number, id = 'e') => newStep('exposure', id, { exposureEv })
const crop = newStep('crop', 'c')
const resize = newStep('resize', 'r')
const kinds = (before: readonly Step[], after: readonly Step[]) => compareSteps(before, after).map(({ kind, name }) => `${kind} ${name}`)

describe('two revisions step by step', () => {
  it('tells what stayed, whatever ids the steps have', () => {
    expect(kinds([exposure(1), crop], [exposure(1, 'other'), { ...crop, id: 'x' }])).toEqual(['same Exposure', 'same Crop'])
  })
  it('tells what changed, from what to what', () => {
    const [line] = compareSteps([exposure(0.35)], [exposure(0.5)])
    expect(line).toMatchObject({ kind: 'changed', was: '+0.35 EV', setting: '+0.50 EV' })
  })
  it('tells what was added and removed, in its place', () => {
    expect(kinds([exposure(1), resize], [exposure(1), crop, resize])).toEqual(['same Exposure', 'added Crop', 'same Resize'])
    expect(kinds([exposure(1), crop, resize], [resize])).toEqual(['removed Exposure', 'removed Crop', 'same Resize'])
  })
  it('takes a switched-off step for a change', () => {
    expect(compareSteps([crop], [{ ...crop, enabled: false }])[0]).toMatchObject({
      kind: 'changed',
      setting: expect.stringContaining('off'),
    })
  })
  it('prefers the unchanged of two like steps', () => {
    expect(kinds([exposure(1)], [exposure(2), exposure(1, 'b')])).toEqual(['added Exposure', 'same Exposure'])
  })
  it('accounts for every step of both, always', () => {
    const step = fc.constantFrom(exposure(0), exposure(1), crop, resize, newStep('levels', 'l'))
    fc.assert(
      fc.property(fc.array(step, { maxLength: 8 }), fc.array(step, { maxLength: 8 }), (before, after) => {
        const lines = compareSteps(before, after)
        const count = (...wanted: string[]) => lines.filter(({ kind }) => wanted.includes(kind)).length
        expect(count('same', 'changed', 'removed')).toBe(before.length)
        expect(count('same', 'changed', 'added')).toBe(after.length)
      }),
    )
  })
})

describe('steps that do the same', () => {
  const steps = [newStep('exposure', 'a', { exposureEv: 1 }), newStep('crop', 'b')]
  it('may have other ids, as a macro’s have once it was laid on the bench', () => {
    expect(
      isSameSteps(
        steps,
        steps.map((step) => ({ ...step, id: `${step.id}-laid` })),
      ),
    ).toBe(true)
  })
  it.each([
    ['one more', [...steps, newStep('turn-mirror', 'c')]],
    ['one fewer', steps.slice(1)],
    ['another order', steps.toReversed()],
    ['another setting', [newStep('exposure', 'a', { exposureEv: 2 }), newStep('crop', 'b')]],
    ['one switched off', steps.map((step) => ({ ...step, enabled: false }))],
  ])('not with %s', (_, others) => expect(isSameSteps(steps, others)).toBe(false))
})

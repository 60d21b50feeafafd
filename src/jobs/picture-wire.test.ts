import { describe, expect, it } from 'vitest'
import { newStep, type Step } from '@/macros/step'
import { isOfPictureOnly, macrosOfWire, touchUpOfWire, wireOfPicture } from './picture-wire'
import { type TouchUp, touchedSteps, untouched } from './touch-up'

/* Two macros whose steps have the same ids, as copies of one do. */
const macros = [
  { macroId: 'a', name: 'A', revision: 1, steps: [newStep('exposure', 'light', { exposureEv: 0.2 }), newStep('crop', 'frame')] },
  { macroId: 'b', name: 'B', revision: 4, steps: [newStep('saturation', 'light'), newStep('resize', 'frame')] },
]
const own: TouchUp = {
  ...untouched,
  settings: [{ macroId: 'a', stepId: 'frame', settings: { positionYPercent: 20 } }],
  before: [newStep('straighten', 'own-level', { by: 'angle', angleDegrees: 1 })],
  after: [newStep('exposure', 'own-light', { exposureEv: -0.3 })],
  without: [{ macroId: 'b', stepId: 'light' }],
  lookedAt: true,
}
const laid = { macros, touchUp: own }
const wire = wireOfPicture(laid)
const edited = (id: string, settings: Step['settings']): Step[] =>
  wire.map((step) => (step.id === id ? { ...step, settings: { ...step.settings, ...settings } } : step))

describe('a picture’s wire', () => {
  it('holds the steps that it is put through, each by an id of its own', () => {
    const plain = ({ id: _, ...step }: Step) => step
    expect(wire.map(plain)).toEqual(touchedSteps(macros, own).map(plain))
    expect(wire.map(({ id }) => id)).toEqual(['own-level', 'm0-light', 'm0-frame', 'm1-frame', 'own-light'])
  })
  it('tells which beads are this picture’s only', () => {
    expect(wire.filter((step) => isOfPictureOnly(laid, step)).map(({ id }) => id)).toEqual(['own-level', 'm0-frame', 'own-light'])
  })
  it('as it was laid is the touch-up it was laid from, and changes no macro', () => {
    expect(touchUpOfWire(laid, wire)).toEqual({ touchUp: own })
    expect(macrosOfWire(laid, wire)).toEqual({ macros: [], touchUp: own })
  })
})

describe('what is kept for one picture', () => {
  it('is other settings, steps left out and steps of its own', () => {
    const steps = [...edited('m0-light', { exposureEv: 0.5 }), newStep('vibrance', 'new')].filter(({ id }) => id !== 'm1-frame')
    expect(touchUpOfWire(laid, steps)).toEqual({
      touchUp: {
        ...own,
        settings: [{ macroId: 'a', stepId: 'light', settings: { exposureEv: 0.5 } }, ...own.settings],
        without: [...own.without, { macroId: 'b', stepId: 'frame' }],
        after: [...own.after, newStep('vibrance', 'new')],
      },
    })
  })
  it('is a step left out where it was switched off', () => {
    const steps = wire.map((step) => (step.id === 'm0-light' ? { ...step, enabled: false } : step))
    expect(touchUpOfWire(laid, steps)).toMatchObject({ touchUp: { without: [{ macroId: 'a', stepId: 'light' }, ...own.without] } })
  })
  it.each<[string, Step[], RegExp]>([
    ['another order', [wire[0], wire[2], wire[1], wire[3], wire[4]] as Step[], /another order/],
    ['a step between the loop’s', wire.toSpliced(2, 0, newStep('vibrance', 'new')), /before or behind/],
    ['another strength', wire.map((step) => (step.id === 'm0-light' ? { ...step, strengthPercent: 50 } : step)), /Strength/],
  ])('is refused for %s, and said why', (_, steps, why) => {
    expect(touchUpOfWire(laid, steps)).toMatchObject({ problem: expect.stringMatching(why) })
  })
})

describe('what is kept for all', () => {
  it('is what was changed at the bench, in the macro it belongs to; the picture keeps its own', () => {
    const { macros: revised, touchUp } = macrosOfWire(laid, edited('m0-light', { exposureEv: 0.5 }))
    expect(revised).toEqual([{ macroId: 'a', steps: [newStep('exposure', 'light', { exposureEv: 0.5 }), newStep('crop', 'frame')] }])
    expect(touchUp).toEqual(own)
  })
  it('takes the place of what the picture had otherwise', () => {
    const { macros: revised, touchUp } = macrosOfWire(laid, edited('m0-frame', { positionYPercent: 35 }))
    expect(revised[0]?.steps[1]?.settings).toMatchObject({ positionYPercent: 35 })
    expect(touchUp.settings).toEqual([])
  })
  it('puts new steps where they were laid, takes out what was removed, and leaves in what only this picture goes without', () => {
    const steps = wire.toSpliced(2, 0, newStep('vibrance', 'new')).filter(({ id }) => id !== 'm1-frame')
    const { macros: revised } = macrosOfWire(laid, steps)
    expect(revised.map(({ macroId, steps: next }) => [macroId, next.map(({ id }) => id)])).toEqual([
      ['a', ['light', 'new', 'frame']],
      ['b', ['light']],
    ])
  })
})

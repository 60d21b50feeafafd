import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { changesNothing, checkTouchUp, touchedSteps, untouched } from '@/jobs/touch-up'
import { newStep } from '@/macros/step'
import {
  framedStep,
  frameSizeOf,
  lightNudgeEv,
  lightOf,
  lookedAt,
  setAside,
  warmthNudgeMired,
  warmthOf,
  withFrame,
  withFrameSize,
  withLight,
  withWarmth,
} from './nudges'

const macros = [{ macroId: 'm', steps: [newStep('exposure', 'e'), newStep('crop', 'c', { position: 'subject' })] }]

describe('nudges of light', () => {
  it('add up in one step behind the macros’, and go when they come back to nothing', () => {
    const brighter = withLight(withLight(untouched, lightNudgeEv), lightNudgeEv)
    expect(lightOf(brighter)).toBeCloseTo(1 / 3, 3)
    expect(touchedSteps(macros, brighter).map(({ operation }) => operation)).toEqual(['exposure', 'crop', 'exposure'])
    expect(changesNothing(withLight(withLight(brighter, -lightNudgeEv), -lightNudgeEv))).toBe(true)
  })
  it('stay within what can be asked for', () => {
    let touchUp = untouched
    for (let i = 0; i < 100; i++) touchUp = withLight(touchUp, 1)
    expect(lightOf(touchUp)).toBe(4)
  })
})

describe('nudges of colour', () => {
  it('add up in mired beside the light, and go when they come back to nothing', () => {
    let touchUp = withLight(untouched, lightNudgeEv)
    for (let i = 0; i < 6; i++) touchUp = withWarmth(touchUp, warmthNudgeMired)
    expect(warmthOf(touchUp)).toBeCloseTo(30, 1)
    // 10⁶ ÷ (10⁶ ÷ 6500 − 30) = 8075 K: the light was bluer than it was taken for, so the picture gets warmer.
    expect(touchUp.after.find(({ operation }) => operation === 'white-balance')?.settings).toMatchObject({ temperatureK: 8075 })
    for (let i = 0; i < 6; i++) touchUp = withWarmth(touchUp, -warmthNudgeMired)
    expect(touchUp).toEqual(withLight(untouched, lightNudgeEv))
  })
  it('stay within what the step can do', () => {
    for (const by of [1e4, -1e4]) expect(() => checkTouchUp(withWarmth(untouched, by), macros)).not.toThrow()
  })
})

describe('nudges of the frame', () => {
  it('make it smaller and larger, and leave its place alone', () => {
    const smaller = withFrameSize(withFrameSize(untouched, macros, -2), macros, -2)
    expect(smaller.settings).toEqual([{ macroId: 'm', stepId: 'c', settings: { sizePercent: 96 } }])
    expect(frameSizeOf(withFrameSize(smaller, macros, 50), macros)).toBe(100)
    expect(frameSizeOf(withFrameSize(smaller, macros, -500), macros)).toBe(5)
  })
  it('leave nothing behind when they come back to where the macro has it', () => {
    const placed = [{ macroId: 'm', steps: [newStep('crop', 'c')] }]
    const there = withFrameSize(withFrame(untouched, placed, [4, -2]), placed, -6)
    expect(withFrameSize(withFrame(there, placed, [-4, 2]), placed, 6)).toEqual(untouched)
  })
  it('move margins on both sides', () => {
    const margins = [
      { macroId: 'm', steps: [newStep('crop', 'c', { shape: 'margins', leftPercent: 10, rightPercent: 10, topPercent: 5 })] },
    ]
    expect(withFrame(untouched, margins, [2, 0]).settings[0]?.settings).toEqual({ leftPercent: 12, rightPercent: 8 })
    expect(frameSizeOf(untouched, margins)).toBeUndefined()
  })
  it('keep the size of a frame of so many pixels', () => {
    const exact = [{ macroId: 'm', steps: [newStep('crop', 'c', { shape: 'pixels' })] }]
    expect(withFrameSize(untouched, exact, -2)).toEqual(untouched)
    expect(frameSizeOf(untouched, exact)).toBeUndefined()
  })
  it('place the first frame there is, and keep it where it is put', () => {
    expect(framedStep(macros)?.step.id).toBe('c')
    const higher = withFrame(untouched, macros, [0, -4])
    expect(higher.settings).toEqual([{ macroId: 'm', stepId: 'c', settings: { position: 'place', positionYPercent: 46 } }])
    const back = withFrame(higher, macros, [-200, 500])
    expect(back.settings[0]?.settings).toMatchObject({ positionXPercent: 0, positionYPercent: 100 })
  })
  it('do nothing where there is no frame', () => {
    const without = [{ macroId: 'm', steps: [newStep('exposure', 'e')] }]
    expect(withFrame(untouched, without, [3, 3])).toBe(untouched)
  })
})

it('any nudges in any order make a touch-up that is taken', () => {
  const nudge = fc.constantFrom(
    (t: typeof untouched) => withLight(t, lightNudgeEv),
    (t: typeof untouched) => withLight(t, -lightNudgeEv),
    (t: typeof untouched) => withWarmth(t, warmthNudgeMired),
    (t: typeof untouched) => withFrameSize(t, macros, -2),
    (t: typeof untouched) => withFrame(t, macros, [2, -2]),
    setAside,
    lookedAt,
  )
  fc.assert(
    fc.property(fc.array(nudge, { maxLength: 40 }), (nudges) => {
      const touchUp = nudges.reduce((before, work) => work(before), untouched)
      expect(checkTouchUp(JSON.parse(JSON.stringify(touchUp)), macros)).toEqual(touchUp)
    }),
  )
})

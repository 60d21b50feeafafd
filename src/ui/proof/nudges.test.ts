import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { changesNothing, checkTouchUp, describeTouchUp, touchedSteps, untouched } from '@/jobs/touch-up'
import { newStep } from '@/macros/step'
import {
  framedStep,
  frameSizeOf,
  levelOf,
  lightNudgeEv,
  lightOf,
  lookedAt,
  setAside,
  stampBox,
  warmthNudgeMired,
  warmthOf,
  withFrame,
  withFrameSize,
  withLevel,
  withLevelAt,
  withLight,
  withoutRelit,
  withPartOf,
  withRelit,
  withStampOn,
  withStampPulled,
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

describe('a frame that follows its subject', () => {
  it('begins where it was found, not in the middle', () => {
    // A square of 400 in a picture of 1000 × 400, found 300 from the left: half of the 600 that are free.
    const standing = [{ stepId: 'c', constants: { x: 300, y: 0, width: 400, height: 400 }, sizeBefore: { width: 1000, height: 400 } }]
    const moved = withFrame(untouched, macros, [10, 0], standing)
    expect(moved.settings[0]?.settings).toMatchObject({ position: 'place', positionXPercent: 60 })
  })
})

describe('nudges of the level', () => {
  const lines = [{ macroId: 'm', steps: [newStep('straighten', 's', { by: 'lines' })] }]
  const standing = [{ stepId: 's', constants: { degrees: 2.1 }, sizeBefore: { width: 9, height: 9 } }]
  it('are a step of its own before the macro’s, which goes when it comes back to nothing', () => {
    const turned = withLevel(withLevel(untouched, macros, 0.1), macros, 0.1)
    expect(touchedSteps(macros, turned)[0]).toMatchObject({ operation: 'straighten', settings: { by: 'angle', angleDegrees: 0.2 } })
    expect(withLevel(turned, macros, -0.2)).toEqual(untouched)
  })
  it('begin at the angle that the macro’s own step found', () => {
    expect(levelOf(untouched, lines, standing)).toBe(2.1)
    const turned = withLevel(untouched, lines, 0.1, standing)
    expect(turned.settings).toEqual([{ macroId: 'm', stepId: 's', settings: { by: 'angle', angleDegrees: 2.2 } }])
    expect(levelOf(turned, lines, standing)).toBe(2.2)
  })
})

describe('what brings a picture among its neighbours', () => {
  it('stands before all, and takes the place of what was found before', () => {
    const first = withRelit(withLight(untouched, 1), { ev: -0.7, red: 0, blue: 0 })
    const again = withRelit(first, { ev: -0.5, red: 0.2, blue: -0.2 })
    expect(touchedSteps(macros, again).map(({ operation }) => operation)).toEqual([
      'exposure',
      'white-balance',
      'exposure',
      'crop',
      'exposure',
    ])
    expect(checkTouchUp(JSON.parse(JSON.stringify(again)), macros)).toEqual(again)
    expect(withoutRelit(again)).toEqual(withLight(untouched, 1))
    expect(withRelit(again, { ev: 0, red: 0, blue: 0 })).toEqual(withLight(untouched, 1))
  })
})

describe('parts given to other pictures', () => {
  const from = withLevel(withFrame(withRelit(withLight(untouched, 1), { ev: 0.4, red: 0, blue: 0 }), macros, [0, -4]), macros, 0.3)
  const own = lookedAt(withWarmth(withFrame(untouched, macros, [6, 0]), 5))
  it('are all of it, but for who has looked', () => expect(withPartOf(own, from, 'all', macros)).toEqual({ ...from, lookedAt: true }))
  it('are light and colour, and the frame stays', () => {
    const given = withPartOf(own, from, 'light', macros)
    expect([lightOf(given), warmthOf(given), given.settings]).toEqual([1, 0, own.settings])
    expect(given.before.map(({ operation }) => operation)).toEqual(['exposure'])
  })
  it('are frame and level, and light stays', () => {
    const given = withPartOf(own, from, 'frame', macros)
    expect([given.settings, levelOf(given, macros), warmthOf(given), lightOf(given)]).toEqual([from.settings, 0.3, 5, 0])
  })
})

it('any nudges in any order make a touch-up that is taken', () => {
  const nudge = fc.constantFrom(
    (t: typeof untouched) => withLight(t, lightNudgeEv),
    (t: typeof untouched) => withLight(t, -lightNudgeEv),
    (t: typeof untouched) => withWarmth(t, warmthNudgeMired),
    (t: typeof untouched) => withFrameSize(t, macros, -2),
    (t: typeof untouched) => withFrame(t, macros, [2, -2]),
    (t: typeof untouched) => withLevel(t, macros, 0.1),
    (t: typeof untouched) => withRelit(t, { ev: 0.3, red: -0.1, blue: 0.1 }),
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

describe('the stamp', () => {
  const stamped = [
    { macroId: 'm', steps: [newStep('stamp-text', 'all', { repeats: true }), newStep('stamp-text', 's', { text: 'x', marginPercent: 0 })] },
  ]
  const standing = [{ stepId: 's', constants: { place: [300, 260, 100, 40] }, sizeBefore: { width: 400, height: 300 } }]
  it('goes from corner to corner, clockwise, and leaves nothing behind where the macro has it', () => {
    const corners: unknown[] = []
    let touchUp = untouched
    for (let press = 0; press < 4; press++) {
      touchUp = withStampOn(touchUp, stamped)
      corners.push(touchUp.settings[0]?.settings)
    }
    expect(corners).toEqual([{ positionXPercent: 0 }, { positionXPercent: 0, positionYPercent: 0 }, { positionYPercent: 0 }, undefined])
    expect(touchUp).toEqual(untouched)
    expect(describeTouchUp(withStampOn(untouched, stamped), stamped)).toEqual(['stamp bottom left'])
  })
  it('is pulled by pixels of the picture, as a share of the room it has', () => {
    // 300 × 260 pixels of room: 30 to the left and 130 up are a tenth and a half of it.
    const pulled = withStampPulled(untouched, stamped, { dx: -30, dy: -130 }, standing)
    expect(pulled.settings).toEqual([{ macroId: 'm', stepId: 's', settings: { positionXPercent: 90, positionYPercent: 50 } }])
    expect(stampBox(stamped, standing)).toEqual({ box: [300, 260, 100, 40], picture: { width: 400, height: 300 } })
  })
  it('that repeats, or that is not there, is left alone', () => {
    const repeats = [{ macroId: 'm', steps: [newStep('stamp-text', 'all', { repeats: true })] }]
    for (const macrosOf of [repeats, macros]) {
      expect(withStampOn(untouched, macrosOf)).toEqual(untouched)
      expect(withStampPulled(untouched, macrosOf, { dx: 9, dy: 9 }, standing)).toEqual(untouched)
      expect(stampBox(macrosOf, standing)).toBeUndefined()
    }
  })
})

it('a frame as wide as the picture keeps its place across: it has nowhere to go', () => {
  const square = [{ macroId: 'm', steps: [newStep('crop', 'c', { ratioWidth: 1, ratioHeight: 1 })] }]
  const upright = [{ stepId: 'c', constants: { x: 0, y: 100, width: 400, height: 400 }, sizeBefore: { width: 400, height: 600 } }]
  expect(withFrame(untouched, square, [8, 0], upright)).toEqual(untouched)
  expect(withFrame(untouched, square, [8, -10], upright).settings[0]?.settings).toEqual({ positionYPercent: 40 })
})

it('a picture is turned to an angle within what can be asked for, in tenths', () => {
  expect(levelOf(withLevelAt(untouched, macros, 3.16), macros)).toBe(3.2)
  expect(levelOf(withLevelAt(untouched, macros, -300), macros)).toBe(-45)
  expect(withLevelAt(withLevelAt(untouched, macros, 5), macros, 0)).toEqual(untouched)
})

import fc from 'fast-check'
import { beforeEach, describe, expect, it } from 'vitest'
import type { Vector3 } from '@/colour/matrix'
import { newLimit } from '@/macros/limit'
import { newStep, type Step } from '@/macros/step'
import { findOperation, number, type Settings, type ToolKind } from '@/operations'
import { copiedText, duplicatePicked, nestPicked, pasteText, removePicked } from './bead-actions'
import { dragCorner } from './handles/corner-layer'
import { dragLinear, dragRadial } from './handles/gradient-handles'
import { mappingOf } from './handles/mapping'
import { angleToLevel, patchAt } from './handles/pick-layer'
import { nameOfSteps } from './name-of-steps'
import { stageScope } from './scope'
import { useBench } from './store'
import { stripValues } from './strip-values'

const looking = { selectedId: 'b', upToHere: false, view: { kind: 'fit' }, tool: null, showsLimit: false } as const
const wire = (second: Step, third: Step = newStep('saturation', 'c')): Step[] => [newStep('exposure', 'a'), second, third]
const gradient = { ...newStep('exposure', 'b'), limit: [newLimit('linear')] }

describe('what the stage shows', () => {
  it.each([
    ['all steps, as a rule', wire(newStep('levels', 'b')), {}, { end: 3, focus: 1, cropping: false, handles: false }],
    ['the picture before a crop, with its frame', wire(newStep('crop', 'b')), {}, { end: 1, cropping: true }],
    [
      'a crop’s result at 100 %',
      wire(newStep('crop', 'b')),
      { view: { kind: 'full', zoom: 1, centreX: 0.5, centreY: 0.5 } },
      { end: 3, cropping: false },
    ],
    ['up to here', wire(newStep('levels', 'b')), { upToHere: true }, { end: 2 }],
    [
      'the picture before, while a grey is picked',
      wire(newStep('white-balance', 'b')),
      { tool: { kind: 'grey' } },
      { end: 1, handles: true },
    ],
    ['the end, with a gradient’s handles', wire(gradient), {}, { end: 3, handles: true }],
    ['no step that moves pixels after a gradient in hand', wire(gradient, newStep('crop', 'c')), {}, { end: 2, handles: true }],
    ['… unless it is off', wire(gradient, { ...newStep('crop', 'c'), enabled: false }), {}, { end: 3 }],
    ['the step itself, while its limit is tinted', wire(gradient), { showsLimit: true }, { end: 2 }],
  ] as const)('%s', (_, steps, part, expected) => expect(stageScope(steps, { ...looking, ...part })).toMatchObject(expected))
  it('is everything where nothing is selected', () => {
    expect(stageScope(wire(newStep('crop', 'b')), { ...looking, selectedId: null })).toMatchObject({ end: 3, focus: 0 })
  })
})

describe('handles on the picture', () => {
  const view = { rect: { x: 200, y: 100, width: 400, height: 300 }, fullSize: { width: 1000, height: 800 } }
  const mapping = mappingOf(view, { width: 800, height: 600 })
  const at = (xPercent: number, yPercent: number) => ({ xPercent, yPercent })
  it('lie where the part that is shown says', () => {
    expect(mapping.toPage(at(20, 12.5))).toEqual({ x: 0, y: 0 })
    expect(mapping.toPage(at(60, 50))).toEqual({ x: 800, y: 600 })
    fc.assert(
      fc.property(fc.double({ min: -50, max: 150, noNaN: true }), fc.double({ min: -50, max: 150, noNaN: true }), (x, y) => {
        const page = mapping.toPage(at(x, y))
        expect(mapping.toPlace(page.x, page.y).xPercent).toBeCloseTo(x, 8)
        expect(mapping.toPlace(page.x, page.y).yPercent).toBeCloseTo(y, 8)
      }),
    )
  })
  it('of a linear gradient move an end, or both, and stay in their range', () => {
    const held = newLimit('linear')
    expect(dragLinear({ grip: 'end', held, from: at(50, 60), to: at(60, 70) }).settings).toMatchObject({
      startYPercent: 20,
      endXPercent: 60,
      endYPercent: 70,
    })
    expect(dragLinear({ grip: 'both', held, from: at(0, 0), to: at(-10, 5) }).settings).toMatchObject({
      startXPercent: 40,
      startYPercent: 25,
      endXPercent: 40,
      endYPercent: 65,
    })
    expect(dragLinear({ grip: 'start', held, from: at(0, 0), to: at(0, -900) }).settings.startYPercent).toBe(-50)
  })
  it('of a radial gradient move or size it', () => {
    const held = newLimit('radial')
    expect(dragRadial({ grip: 'centre', held, from: at(0, 0), to: at(5, -5) }).settings).toMatchObject({
      centreXPercent: 55,
      centreYPercent: 45,
    })
    expect(dragRadial({ grip: 'across', held, from: at(0, 0), to: at(20, 0) }).settings).toMatchObject({
      radiusXPercent: 30,
      radiusYPercent: 35,
    })
    expect(dragRadial({ grip: 'down', held, from: at(0, 0), to: at(0, 50.1) }).settings.radiusYPercent).toBe(1)
  })
  it('of a perspective pull a corner within its range', () => {
    const { settings } = newStep('perspective', 'p')
    expect(dragCorner({ grip: 'topLeft', held: settings, from: at(0, 0), to: at(6, 3.04) })).toMatchObject({
      topLeftXPercent: 6,
      topLeftYPercent: 3,
      topRightXPercent: 0,
    })
    expect(dragCorner({ grip: 'bottomRight', held: settings, from: at(100, 100), to: at(20, 99) })).toMatchObject({
      bottomRightXPercent: -25,
      bottomRightYPercent: -1,
    })
  })
  it.each([
    [100, 5, -2.9],
    [100, -5, 2.9],
    [-100, 5, 2.9],
    [3, 100, 1.7],
    [100, 0, 0],
    [0, -50, 0],
  ])('a line of %f, %f is levelled by %f°', (dx, dy, degrees) => expect(angleToLevel(dx, dy)).toBe(degrees))
  it('pick the mean of a patch, at the borders too', () => {
    const pixels = new Uint8ClampedArray(20 * 20 * 4).map((_, i) => (i % 4 === 0 ? (Math.floor(i / 4) % 20 < 10 ? 100 : 200) : 50))
    const size = { width: 20, height: 20 }
    expect(patchAt({ pixels, size }, 4, 10)).toEqual([100, 50, 50])
    expect(patchAt({ pixels, size }, 0, 0)).toEqual([100, 50, 50])
    expect(patchAt({ pixels, size }, 19, 19)[0]).toBe(200)
  })
  it('turn picked codes into settings', () => {
    const picked = (kind: ToolKind, { operation, settings }: Step, codes: Vector3): Settings | undefined => {
      const tool = findOperation(operation)?.tools?.find((offered) => offered.tool === kind)
      return tool && 'picked' in tool ? tool.picked(settings, codes) : undefined
    }
    expect(picked('grey', newStep('white-balance', 'w'), [120.4, 0, 90])).toMatchObject({
      by: 'picked',
      pickedRed: 120,
      pickedGreen: 1,
      pickedBlue: 90,
    })
    const levels = newStep('levels', 'l', { allBlack: 10, allWhite: 240 })
    expect(picked('white', levels, [200, 230, 180])).toMatchObject({ allWhite: 230, allBlack: 10 })
    expect(picked('black', levels, [20, 30, 18])).toMatchObject({ allBlack: 18 })
    expect(picked('white', levels, [2, 3, 1])).toMatchObject({ allWhite: 12 })
  })
})

describe('a test strip', () => {
  const setting = number({ label: 'x', unit: '', min: -5, max: 5, step: 0.1, default: 0, help: 'x.' })
  it('has values at even distances around the present one', () => {
    expect(stripValues(setting, 1, 0.1, 5)).toEqual([0, 0.5, 1, 1.5, 2])
  })
  it('moves inwards near an end', () => {
    expect(stripValues(setting, 5, 0.1, 5)).toEqual([3, 3.5, 4, 4.5, 5])
  })
  it('goes by ratios on a logarithmic slider', () => {
    const radius = number({ label: 'x', unit: 'px', min: 1, max: 16, step: 0.01, default: 4, help: 'x.', logarithmic: true })
    expect(stripValues(radius, 4, 0.5, 5)).toEqual([1, 2, 4, 8, 16])
  })
  it('never repeats a value, never leaves the range', () => {
    fc.assert(
      fc.property(fc.double({ min: -5, max: 5, noNaN: true }), fc.double({ min: 0.01, max: 0.6, noNaN: true }), (value, span) => {
        const values = stripValues(setting, value, span, 5)
        expect(new Set(values).size).toBe(values.length)
        for (const each of values) expect(Math.abs(each)).toBeLessThanOrEqual(5)
        expect(values).toEqual(values.toSorted((a, b) => a - b))
      }),
    )
  })
})

describe('beads as text', () => {
  beforeEach(() => {
    useBench.getState().load({ base: null, folded: 0, changes: [], cursor: 0, samplePath: null, samples: [], macroId: null, picture: null })
    const { commit } = useBench.getState()
    for (const [index, id] of ['a', 'b', 'c'].entries())
      commit({ type: 'insert', index, step: { ...newStep('exposure', id, { exposureEv: index }), kept: true } })
    useBench.getState().set({ selectedId: 'a' })
    useBench.getState().set({ picked: new Set(['c']) })
  })
  const values = () => useBench.getState().history.document.steps.map((step) => step.settings.exposureEv)
  it('are copied and pasted as a macro file, behind the selected one', () => {
    const text = copiedText() ?? ''
    expect(JSON.parse(text)).toMatchObject({ format: 'copper-loop/macro', steps: [{ id: 'a' }, { id: 'c' }] })
    expect(pasteText(text)).toBeUndefined()
    expect(values()).toEqual([0, 0, 2, 1, 2])
    useBench.getState().undo()
    expect(values()).toEqual([0, 1, 2])
  })
  it('other text is left alone; a broken macro file says why', () => {
    expect(pasteText('hello')).toBeUndefined()
    expect(pasteText('{"format": 1}')).toMatch(/can't be used/)
    expect(values()).toEqual([0, 1, 2])
  })
  it('go off together, the next one that stays is selected, and one undo brings them back', () => {
    removePicked()
    expect(values()).toEqual([1])
    expect(useBench.getState().selectedId).toBe('b')
    removePicked()
    expect(values()).toEqual([])
    expect(useBench.getState().selectedId).toBeNull()
    useBench.getState().undo()
    useBench.getState().undo()
    expect(values()).toEqual([0, 1, 2])
    useBench.getState().set({ selectedId: 'c', picked: new Set() })
    removePicked()
    expect(useBench.getState().selectedId).toBe('b')
  })
  it('duplicates stand behind the last one', () => {
    duplicatePicked()
    expect(values()).toEqual([0, 1, 2, 0, 2])
  })
  it('several become one step that plays them, and one undo brings them back', () => {
    nestPicked()
    const { steps } = useBench.getState().history.document
    expect(steps.map((step) => step.operation)).toEqual(['play-macro', 'exposure'])
    expect(steps[0]?.settings.macro).toMatchObject({ revision: 1, steps: [{ id: 'a' }, { id: 'c' }] })
    useBench.getState().undo()
    expect(values()).toEqual([0, 1, 2])
    useBench.getState().set({ selectedId: 'b', picked: new Set() })
    expect(nestPicked()).toMatch(/Pick several/)
  })
})

describe('what a job is called', () => {
  const named = (...ids: string[]): string => nameOfSteps(ids.map((id, i) => newStep(id, String(i))))
  it.each([
    ['Resized', named()],
    ['Crop', named('crop')],
    ['Crop and Resize', named('crop', 'resize')],
    ['Crop, Resize and 2 more', named('crop', 'resize', 'curve', 'levels')],
  ])('%s, after its steps', (name, made) => expect(made).toBe(name))
  it('says nothing of steps that are off', () => {
    expect(nameOfSteps([{ ...newStep('crop', 'a'), enabled: false }, newStep('curve', 'b')])).toBe('Curve')
  })
})

import { describe, expect, it } from 'vitest'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { finalSize, keyOf, playedOut, resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { checkMacro, macroLimits, readMacroFile, unknownOperations, writeMacroFile } from '@/macros/codec'
import { keptFilesOf } from '@/macros/kept-files'
import { completeStep, newStep, readSteps, type Step, stepSetting } from '@/macros/step'
import { testFiles } from './assets'
import { testKernels } from './kernels'
import { busyPicture } from './pictures'

const play = (steps: readonly Step[], id = 'play'): Step =>
  newStep('play-macro', id, { macro: { macroId: 'm', name: 'Base', revision: 3, steps: steps.map((step) => ({ ...step })) } })
const macroOf = (steps: readonly Step[]) => ({ name: 'Outer', notes: '', tags: [], steps })
const facts = { size: { width: 96, height: 64 }, format: 'jpeg', bits: 8, space: 'srgb', hasAlpha: false, iso: 3200 }

const base = [
  newStep('full-range', 'a', { boldPercent: 90 }),
  { ...newStep('vibrance', 'b', { vibrancePercent: 40 }), strengthPercent: 60 },
  newStep('crop', 'c', {}),
  newStep('unsharp-mask', 'd', { amountPercent: 120 }),
]
const first = newStep('exposure', 'e', { exposureEv: -0.7 })
const last = newStep('resize', 'r', { lengthPx: 40 })

async function rendered(steps: readonly Step[], iso = 3200) {
  const kernels = await testKernels()
  const source = busyPicture(96, 64)
  const subject = { name: 'x.jpg', facts: { ...facts, iso } }
  const resolved = resolveSteps(steps, source.size, { sampler: createSampler(kernels, source), subject })
  const pixels = renderEncoded(kernels, planRender(source, resolved, 'full'), { space: 'srgb', channels: 3, dither: true })
  return { pixels, size: finalSize(resolved, source.size), resolved }
}

describe('a macro played inside another', () => {
  it('does, to the bit, what its steps do in its place, measured ones too', async () => {
    const inside = await rendered([first, play(base), last])
    const beside = await rendered([first, ...base, last])
    expect(inside.size).toEqual(beside.size)
    expect(inside.pixels).toEqual(beside.pixels)
    expect(keyOf(inside.resolved)).toBe(keyOf(beside.resolved))
    expect(playedOut(inside.resolved).map((step) => step.constants)).toEqual(beside.resolved.map((step) => step.constants))
  })
  it('may play others in turn', async () => {
    expect((await rendered([play([first, play(base)]), last])).pixels).toEqual((await rendered([first, ...base, last])).pixels)
  })
  it('is left out whole when it is off, or its condition leaves the picture out; its own steps keep theirs', async () => {
    const noisy = { kind: 'iso' as const, from: 1600, to: null }
    const plain = await rendered([last])
    expect((await rendered([{ ...play(base), enabled: false }, last])).pixels).toEqual(plain.pixels)
    expect((await rendered([{ ...play(base), when: [noisy] }, last], 200)).pixels).toEqual(plain.pixels)
    const inner = { ...first, when: [noisy] }
    expect((await rendered([play([inner]), last], 200)).pixels).toEqual(plain.pixels)
    expect((await rendered([play([inner]), last])).pixels).toEqual((await rendered([first, last])).pixels)
  })
  it('goes to a file and back, whole', () => {
    const macro = macroOf([first, play([...base, play([last], 'deep')])])
    expect(readMacroFile(writeMacroFile(macro))).toEqual(macro)
  })
  it('has its steps checked like any, and the place of a fault named', () => {
    const broken = { ...first, settings: { ...first.settings, exposureEv: 99 } }
    expect(() => checkMacro(macroOf([play([base[0] as Step, broken])]))).toThrow('steps[0].settings.macro.steps[1].settings.exposureEv')
    expect(() => checkMacro(macroOf([play([first, first])]))).toThrow('steps[0].settings.macro.steps[1].id')
    expect(() => checkMacro(macroOf([play([{ nonsense: true } as unknown as Step])]))).toThrow('steps[0].settings.macro.steps[0]')
  })
  it('nests only so deep', () => {
    const nested = (depth: number): Step => (depth === 0 ? first : play([nested(depth - 1)]))
    expect(() => checkMacro(macroOf([nested(macroLimits.nesting)]))).not.toThrow()
    expect(() => checkMacro(macroOf([nested(macroLimits.nesting + 1)]))).toThrow('deep')
  })
  it('needs a newer version if a step inside does', () => {
    expect(unknownOperations([first, play([newStep('from-the-future', 'f')])])).toEqual([1])
  })
  it('brings the files of its steps', () => {
    const [copy = ''] = Object.keys(testFiles)
    expect(keptFilesOf([play([newStep('look-table', 'l', { file: copy })])])).toEqual([copy])
  })
  it('has settings of an older version completed inside too', () => {
    const { shoulderPercent: _, ...older } = first.settings as Record<string, number>
    const [step] = (completeStep(play([{ ...first, settings: older }])).settings.macro as unknown as { steps: Step[] }).steps
    expect(step?.settings).toEqual(first.settings)
  })
  it('reads as numbered sentences within its own', () => {
    expect(stepSetting(play(base))).toBe('Base r3, 4 steps')
    expect(readSteps([first, play([last])])).toMatch(/^1\. Exposure .*\n2\. Play a macro Base r3, 1 step\n2\.1\. Resize /)
  })
})

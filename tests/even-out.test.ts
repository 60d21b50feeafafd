import { describe, expect, it } from 'vitest'
import { fillSetSteps, withSetValues } from '@/macros/set-steps'
import { innerSteps, newStep } from '@/macros/step'
import { evenOut } from '@/operations/catalogue/even-out'
import { evenedOut, takesApart } from './even-out'
import { testKernels } from './kernels'
import { demoScenes } from './lit-pictures'

/* Takes of one scene in other light and longer or shorter come together; the scenes are the demo's, the lights computed (Bradford, ICC.1:2022). */
describe('even out the set', () => {
  it('brings five takes of a scene within 5 ΔE00 of each other', async () => {
    const kernels = await testKernels()
    const scenes = await demoScenes((name) => /_04(28|40)\./.test(name))
    expect(scenes).toHaveLength(2)
    for (const scene of scenes) {
      expect(takesApart(kernels, scene, [])).toBeGreaterThan(20)
      expect(takesApart(kernels, scene, evenedOut)).toBeLessThan(5)
    }
  })
  it('brings tone or light alone, and goes as far as it is told', async () => {
    const kernels = await testKernels()
    const [scene] = await demoScenes((name) => name.includes('_0440'))
    if (!scene) throw new Error('The demo lacks a picture')
    const longer = [
      { temperatureK: 6500, ev: -0.5 },
      { temperatureK: 6500, ev: 0.5 },
    ]
    const warmer = [
      { temperatureK: 4500, ev: 0 },
      { temperatureK: 6500, ev: 0 },
    ]
    const apart = (settings: Parameters<typeof newStep>[2], takes: typeof longer) =>
      takesApart(kernels, scene, [newStep('even-out', 'e', settings)], takes)
    expect(await apart({ what: 'tone' }, longer)).toBeLessThan(1)
    expect(await apart({ what: 'colour' }, longer)).toBeGreaterThan(5)
    expect(await apart({ what: 'colour' }, warmer)).toBeLessThan(2)
    expect(await apart({ what: 'tone' }, warmer)).toBeGreaterThan(6)
    const half = await apart({ amountPercent: 50 }, longer)
    expect(half).toBeGreaterThan(2)
    expect(half).toBeLessThan(takesApart(kernels, scene, [], longer) * 0.7)
  })
  it('has the same middle whatever the order, and one picture far off does not move it', () => {
    const numbers = (by: number): number[] => Array.from({ length: 17 }, (_, i) => i / 10 + by)
    const together = (...of: number[]) => evenOut.ofSet?.together(of.map(numbers))
    expect(together(0, 1, 2)).toEqual(together(2, 0, 1))
    expect(together(0, 0.1, 0.2, 0.1, 9)).toEqual(together(0.1))
  })
})

describe('steps that look at a set', () => {
  const light = newStep('exposure', 'a', { exposureEv: 0.5 })
  it('wait one after the other, each behind what those before it do', () => {
    const steps = [light, newStep('even-out', 'b'), newStep('even-out', 'c', { what: 'tone' })]
    const first = fillSetSteps([{ steps }], () => undefined)
    expect(first.waiting).toMatchObject({ operation: 'even-out', before: [{ id: 'a' }] })
    const values = [...new Array<number>(17).keys()]
    const second = fillSetSteps([{ steps }], (key) => (key === first.waiting?.key ? values : undefined))
    expect(second.waiting?.before).toHaveLength(2)
    expect(second.macros[0]?.steps[1]?.settings.reference).toEqual(values)
    expect(second.macros[0]?.steps[2]?.settings.reference).toEqual([])
    const all = fillSetSteps([{ steps }], () => values)
    expect(all.waiting).toBeUndefined()
    expect(all.filled).toHaveLength(2)
    expect(withSetValues(steps, all.values)).toEqual(all.macros[0]?.steps)
  })
  it('have the same key however their steps are called, and another where they do something else', () => {
    const key = (...steps: Parameters<typeof fillSetSteps>[0][number]['steps']) => fillSetSteps([{ steps }], () => undefined).waiting?.key
    const even = newStep('even-out', 'b')
    expect(key(light, even)).toBe(key({ ...light, id: 'other', note: 'why' }, even))
    expect(key(light, even)).not.toBe(key(newStep('exposure', 'a', { exposureEv: 0.6 }), even))
  })
  it('wait inside a macro that is played, too, behind what comes before it outside and inside', () => {
    const inner = [newStep('exposure', 'c', { exposureEv: 1 }), newStep('even-out', 'd')]
    const played = newStep('play-macro', 'p', {
      macro: { macroId: 'm', revision: 1, name: 'Inner', steps: inner.map((step) => ({ ...step })) },
    })
    const first = fillSetSteps([{ steps: [light, played, newStep('even-out', 'e')] }], () => undefined)
    expect(first.waiting?.before.map(({ id }) => id)).toEqual(['a', 'c'])
    const values = [...new Array<number>(17).keys()]
    const second = fillSetSteps([{ steps: [light, played, newStep('even-out', 'e')] }], (key) =>
      key === first.waiting?.key ? values : undefined,
    )
    const [, filled] = second.macros[0]?.steps ?? []
    expect(filled && innerSteps(filled)[1]?.settings.reference).toEqual(values)
    expect(second.waiting?.before.map(({ id }) => id)).toEqual(['a', 'p'])
    expect(withSetValues([light, played], second.values)).toEqual([light, filled])
  })
  it('do not wait where they are off, or go by a picked picture', () => {
    for (const step of [{ ...newStep('even-out', 'b'), enabled: false }, newStep('even-out', 'b', { to: 'picked' })])
      expect(fillSetSteps([{ steps: [step] }], () => undefined).waiting).toBeUndefined()
  })
})

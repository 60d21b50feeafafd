import { describe, expect, it } from 'vitest'
import { newStep } from '@/macros/step'
import { macroOfSidecar, sidecarFormat, sidecarVersion } from './sidecar'

const steps = [newStep('exposure', 'a', { exposureEv: 0.5 }), newStep('resize', 'b', { lengthPx: 900 }), newStep('unsharp-mask', 'a')]
const written = {
  format: sidecarFormat,
  version: sidecarVersion,
  source: { name: 'pot.jpg', sha256: 'x' },
  macros: [
    { name: 'Lift', revision: 2 },
    { name: 'Small', revision: 1 },
  ],
  steps,
}

describe('a file beside a picture, read as a macro', () => {
  it('has all steps in their order, each with an id of its own, under the names of its macros', () => {
    const macro = macroOfSidecar(JSON.stringify(written))
    expect(macro).toMatchObject({ name: 'Lift, Small', notes: 'As pot.jpg was made.', tags: [] })
    expect(macro?.steps.map(({ operation }) => operation)).toEqual(['exposure', 'resize', 'unsharp-mask'])
    expect(new Set(macro?.steps.map(({ id }) => id)).size).toBe(3)
    expect(macro?.steps[0]?.settings.exposureEv).toBe(0.5)
  })
  it('is called as its picture where no macro was in it', () => {
    expect(macroOfSidecar(JSON.stringify({ ...written, macros: [] }))?.name).toBe('pot.jpg')
  })
  it.each(['', 'no JSON', '[]', JSON.stringify({ format: 'copper-loop/macro' })])('is nothing of "%s"', (text) => {
    expect(macroOfSidecar(text)).toBeUndefined()
  })
  it('says where its steps are none', () => {
    const wrong = { ...written, steps: [{ ...steps[0], settings: { exposureEv: 'much' } }] }
    expect(() => macroOfSidecar(JSON.stringify(wrong))).toThrow(/exposureEv/)
  })
})

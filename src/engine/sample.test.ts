import { expect, it } from 'vitest'
import { newStep, type Step } from '@/macros/step'
import { testKernels } from '../../tests/kernels'
import { busyPicture } from '../../tests/pictures'
import { Sample } from './sample'

const macro = [
  newStep('exposure', 'e', { exposureEv: 0.3 }),
  newStep('crop', 'c', { ratioWidth: 1, ratioHeight: 1 }),
  newStep('unsharp-mask', 'u'),
]
const nudged = (ev: number): Step[] => [...macro, newStep('exposure', 'n', { exposureEv: ev })]
const moved = (percent: number): Step[] =>
  macro.map((step) => (step.id === 'c' ? newStep('crop', 'c', { ratioWidth: 1, ratioHeight: 1, positionXPercent: percent }) : step))

it('a sample that is put through nearly the same again and again comes out as one that never was before', async () => {
  const kernels = await testKernels()
  const source = busyPicture(600, 400)
  const facts = { size: source.size, format: 'jpeg', bits: 8 } as never
  const fresh = () => new Sample(kernels, source, { facts, name: 'x.jpg' }, new Map(), 300)
  const held = fresh()
  for (const steps of [
    macro,
    nudged(0.1),
    nudged(0.2),
    nudged(0.3),
    macro,
    moved(20),
    moved(30),
    nudged(0.3),
    nudged(0.4),
    macro.slice(0, 1),
    [],
  ]) {
    const [own, other] = [held.render(steps), fresh().render(steps)]
    expect(own.size).toEqual(other.size)
    expect(own.pixels).toEqual(other.pixels)
  }
})

it('in haste it is nearly the same where colours have changed, and nothing is drawn that takes more', async () => {
  const kernels = await testKernels()
  const source = busyPicture(600, 400)
  const facts = { size: source.size, format: 'jpeg', bits: 8 } as never
  const fresh = () => new Sample(kernels, source, { facts, name: 'x.jpg' }, new Map(), 300)
  const held = fresh()
  held.render(macro)
  held.prepare(macro)
  for (const ev of [0.1, -0.4, 0.6]) {
    const [quick, other] = [held.renderQuickly(nudged(ev)), fresh().render(nudged(ev))]
    expect(quick?.size).toEqual(other.size)
    expect(quick?.steps).toEqual(other.steps)
    const away = other.pixels.reduce((sum, value, i) => sum + Math.abs(value - (quick?.pixels[i] ?? 0)), 0) / other.pixels.length
    // A palette's levels lie up to 8 apart, mixed by a pattern.
    expect(away).toBeLessThan(3)
    expect(away).toBeGreaterThan(0)
    expect(held.render(nudged(ev)).pixels).toEqual(other.pixels)
  }
  expect(held.renderQuickly(moved(20))).toBeUndefined()
  expect(held.render(moved(20)).pixels).toEqual(fresh().render(moved(20)).pixels)
})

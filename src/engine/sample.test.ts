import { expect, it } from 'vitest'
import { newStep, type Step } from '@/macros/step'
import { testKernels } from '../../tests/kernels'
import { busyPicture } from '../../tests/pictures'
import { Sample } from './sample'

const macro = [newStep('exposure', 'e', { exposureEv: 0.3 }), newStep('crop', 'c'), newStep('unsharp-mask', 'u')]
const nudged = (ev: number): Step[] => [...macro, newStep('exposure', 'n', { exposureEv: ev })]
const moved = (percent: number): Step[] =>
  macro.map((step) => (step.id === 'c' ? newStep('crop', 'c', { positionYPercent: percent }) : step))

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

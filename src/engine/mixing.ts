import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import { numberAt } from '@/base/numbers'
import { conversion } from '@/operations'
import { readyPasses } from './passes'

import type { Mix } from './plan'

type Channels = readonly [Pointer, Pointer, Pointer]

/** Mixes a result into what was before it; `before` may be used up on the way. */
export type Mixer = (result: Channels, before: Channels, count: number, mask?: Pointer) => void

/**
 * Prepares a mix. Strength mixes values as they are. Lightness or colour alone are taken in OKLab: both go there, what is
 * kept is copied over, the strength is mixed, and the result comes back.
 */
export function mixer(kernels: Kernels, { strength, blend, domain }: Mix): Mixer {
  const { run, heap } = kernels
  const mixAll: Mixer = (result, before, count, mask) => {
    if (mask !== undefined) for (const [i, target] of result.entries()) run.mixMasked(target, numberAt(before, i), mask, count, strength)
    else if (strength < 1) for (const [i, target] of result.entries()) run.mix(target, numberAt(before, i), count, strength)
  }
  if (blend === 'normal') return mixAll
  const enter = readyPasses(kernels, conversion(domain, 'oklab'))
  const leave = readyPasses(kernels, conversion('oklab', domain))
  const kept = blend === 'lightness' ? [1, 2] : [0]
  return (result, before, count, mask) => {
    for (const pass of enter) for (const [r, g, b] of [result, before]) pass.run(r, g, b, count)
    const bytes = new Uint8Array(heap.memory.buffer)
    for (const channel of kept)
      bytes.copyWithin(numberAt(result, channel), numberAt(before, channel), numberAt(before, channel) + count * 4)
    mixAll(result, before, count, mask)
    for (const pass of leave) pass.run(result[0], result[1], result[2], count)
  }
}

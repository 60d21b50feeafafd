import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import type { PointPass } from '@/operations'

/** A pass with its parameters on the heap. */
export interface ReadyPass {
  run(r: Pointer, g: Pointer, b: Pointer, count: number): void
}

export function readyPasses({ heap, run }: Kernels, passes: readonly PointPass[]): ReadyPass[] {
  return passes.map(({ kernel, parameters }) => {
    const at = heap.floats(parameters)
    return { run: (r, g, b, count) => run[kernel](r, g, b, count, at) }
  })
}

import type { KernelExports } from './exports'
import { Heap } from './heap'

export type { KernelExports, PointKernel, PointKernelName } from './exports'

/** The compiled kernels with their memory: one instance a thread. */
export interface Kernels {
  readonly run: KernelExports
  readonly heap: Heap
}

/** 16 MB at the start: a preview's strips fit without growing. */
const initialPages = 256
/** 2 GB, the most that 32-bit addresses kept below the sign bit allow. */
const maximumPages = 32768

/** Instantiates a compiled `kernels.wasm`. Works alike in browsers and Node. */
export async function instantiateKernels(module: WebAssembly.Module): Promise<Kernels> {
  const memory = new WebAssembly.Memory({ initial: initialPages, maximum: maximumPages })
  const instance = await WebAssembly.instantiate(module, { env: { memory, abort: failedAssertion } })
  const run = instance.exports as unknown as KernelExports
  return { run, heap: new Heap(memory, run.freeFrom()) }
}

function failedAssertion(): never {
  throw new Error('A kernel stopped itself')
}

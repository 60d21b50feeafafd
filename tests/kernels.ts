import { readFileSync } from 'node:fs'
import { instantiateKernels, type Kernels } from '@kernels/binding'

let loaded: Promise<Kernels> | undefined

/** The compiled kernels, one instance a test file. */
export const testKernels = (): Promise<Kernels> => {
  loaded ??= WebAssembly.compile(readFileSync('.build/kernels.wasm')).then(instantiateKernels)
  return loaded
}

import { readFile } from 'node:fs/promises'
import { instantiateKernels, type Kernels } from '@kernels/binding'
import { built } from '@/files/built'

let loaded: Promise<Kernels> | undefined
/** This process's own. */
export function kernels(): Promise<Kernels> {
  loaded ??= readFile(built('kernels.wasm'))
    .then((bytes) => WebAssembly.compile(bytes))
    .then(instantiateKernels)
  return loaded
}

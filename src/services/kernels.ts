import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { instantiateKernels, type Kernels } from '@kernels/binding'

/** Something that was built beside the processes. */
export const built = (name: string): string => join(/* turbopackIgnore: true */ process.cwd(), '.build', name)

let loaded: Promise<Kernels> | undefined
/** This process's own. */
export function kernels(): Promise<Kernels> {
  loaded ??= readFile(built('kernels.wasm'))
    .then((bytes) => WebAssembly.compile(bytes))
    .then(instantiateKernels)
  return loaded
}

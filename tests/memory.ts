import { setFlagsFromString } from 'node:v8'
import { runInNewContext } from 'node:vm'

setFlagsFromString('--expose-gc')
const collect = runInNewContext('gc') as () => void

/** Bytes on the heap that something still holds. */
export function heldBytes(): number {
  collect()
  return process.memoryUsage().heapUsed
}

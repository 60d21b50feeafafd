import { createHash } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import sharp from 'sharp'

/** What makes pictures here. Two machines with the same build make the same bytes. */
export interface Build {
  /** The version as people know it. */
  readonly version: string
  /** Version, kernels, the worker's own code, and the library that reads and writes files, as one hash. */
  readonly id: string
}

/** What decides how a picture comes out. */
const parts = ['kernels.wasm', 'worker.mjs', 'raw.mjs', 'libraw.wasm']

/** @param folder where the built files lie */
export function buildIn(folder: string): Build {
  const { version } = JSON.parse(readFileSync(join(folder, '..', 'package.json'), 'utf8')) as { version: string }
  const hash = createHash('sha256').update(version).update(sharp.versions.vips)
  for (const part of parts) hash.update(readFileSync(join(folder, part)))
  return { version, id: hash.digest('hex').slice(0, 16) }
}

import { randomUUID } from 'node:crypto'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'

/** A station's own, the same for as long as its folder is there: one that was started anew is no other. */
export function stationId(folder: string): string {
  const file = join(folder, 'station-id')
  try {
    return readFileSync(file, 'utf8').trim() || newId(file)
  } catch {
    return newId(file)
  }
}

function newId(file: string): string {
  const made = randomUUID()
  writeFileSync(file, made)
  return made
}

import { randomUUID } from 'node:crypto'
import { mkdir, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { cacheFolder } from './cache'

/*
 * Large answers are made by a helper as files and go out from there, read only as fast as they are taken: a page that
 * reads slowly, or not at all, costs no memory.
 */

const sentFolder = (dataFolder: string): string => join(cacheFolder(dataFolder), 'sent')

/** Makes the file of an answer: for helpers. */
export async function keepToSend(dataFolder: string, bytes: Uint8Array): Promise<string> {
  const folder = sentFolder(dataFolder)
  await mkdir(folder, { recursive: true })
  const path = join(folder, randomUUID())
  await writeFile(path, bytes)
  return path
}

/** Removes what an earlier process left. */
export const clearSent = (dataFolder: string): Promise<void> => rm(sentFolder(dataFolder), { recursive: true, force: true })

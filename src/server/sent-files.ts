import { randomUUID } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { mkdir, open, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { AppError } from '@/core/errors'
import { cacheFolder } from './cache'

/*
 * Large answers are made by a helper as files and go out from there, read only as fast as they are taken: a page that
 * reads slowly, or not at all, costs no memory.
 */

const sentFolder = (dataFolder: string): string => join(cacheFolder(dataFolder), 'sent')

/** Answers on their way at the same time; more are refused. */
const maxAnswers = 24
/** A page that takes nothing for so long has gone away. */
const patienceMs = 60_000
let onTheirWay = 0

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

/**
 * Answers with a file that a helper made. It has no name any more from here on, so that nothing is left whatever happens.
 * @param make makes the file and gives its path
 * @throws AppError `tooBusy`
 */
export async function sendMade(make: () => Promise<string>, headers: Readonly<Record<string, string>>): Promise<Response> {
  if (onTheirWay >= maxAnswers) throw new AppError('tooBusy')
  onTheirWay++
  try {
    const path = await make()
    const file = await open(path, 'r')
    await rm(path, { force: true })
    const { size } = await file.stat()
    const stream = createReadStream('', { fd: file, highWaterMark: 1 << 20 })
    const timer = setTimeout(() => stream.destroy(), patienceMs)
    stream.on('data', () => timer.refresh())
    stream.once('close', () => {
      clearTimeout(timer)
      onTheirWay--
    })
    stream.pause()
    return new Response(Readable.toWeb(stream) as ReadableStream, { headers: { ...headers, 'Content-Length': String(size) } })
  } catch (error) {
    onTheirWay--
    throw error
  }
}

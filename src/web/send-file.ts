import { createReadStream } from 'node:fs'
import { open, rm } from 'node:fs/promises'
import { Readable } from 'node:stream'
import { AppError } from '@/base/errors'

/** Answers on their way at the same time; more are refused. */
const maxAnswers = 24
/** After this time without taking anything, a page has gone away. */
const patienceMs = 60_000
let onTheirWay = 0

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

import { randomUUID } from 'node:crypto'
import { open, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { AppError, systemCode } from '@/base/errors'
import { type Context, uploadsFolder } from '@/services/context'

/** The most that may be sent: a file for a macro, and a bundle of them. */
export const maxKeptBytes = 32 << 20
export const maxBundleBytes = 64 << 20

/** What is waited for between two pieces of a body. */
const patienceMs = 60_000

/**
 * Takes in what a request brings, piece by piece, into a file of its own; `work` gets its path, and afterwards it is gone.
 * The limit is measured on what arrives, whatever was announced.
 * @throws AppError `inboxFull` where the disk has no room for it; `badRequest` for a body that is larger than the limit, shorter than announced, empty, or stops arriving
 */
export async function withUpload<T>(
  context: Context,
  request: Request,
  { name, maxBytes }: { readonly name: string; readonly maxBytes: number },
  work: (path: string) => Promise<T>,
): Promise<T> {
  const tooLarge = (): AppError => new AppError('badRequest', { reason: `${name} is larger than ${maxBytes >> 20} MB` })
  const announced = request.headers.get('content-length')
  if (Number(announced ?? 0) > maxBytes) throw tooLarge()
  const path = join(uploadsFolder(context.dataFolder), randomUUID())
  const file = await open(path, 'wx', 0o600)
  try {
    let received = 0
    for await (const piece of piecesOf(request)) {
      received += piece.length
      if (received > maxBytes) throw tooLarge()
      // All of it: a write by itself may stop short where the disk is nearly full.
      await file.appendFile(piece).catch((error: unknown) => {
        throw systemCode(error) === 'ENOSPC' ? new AppError('inboxFull', { wanted: name, free: 'no room' }) : error
      })
    }
    if (received === 0) throw new AppError('badRequest', { reason: `${name} is empty` })
    if (announced !== null && received !== Number(announced))
      throw new AppError('badRequest', { reason: `${name} arrived only in part: ${received} of ${announced} bytes` })
    await file.close()
    return await work(path)
  } finally {
    await file.close().catch(() => undefined)
    await rm(path, { force: true })
  }
}

/** The pieces of a body as they arrive. @throws AppError `badRequest` when it breaks off or stops */
export async function* piecesOf(request: Request): AsyncGenerator<Uint8Array> {
  const reader = request.body?.getReader()
  if (!reader) return
  let timer: NodeJS.Timeout | undefined
  try {
    for (;;) {
      const silent = new Promise<never>((_, reject) => {
        timer = setTimeout(() => reject(new AppError('badRequest', { reason: 'it stopped arriving' })), patienceMs)
      })
      const { done, value } = await Promise.race([reader.read(), silent]).catch((error: unknown) => {
        throw error instanceof AppError ? error : new AppError('badRequest', { reason: 'it broke off' })
      })
      clearTimeout(timer)
      if (done) return
      yield value
    }
  } finally {
    clearTimeout(timer)
    await reader.cancel().catch(() => undefined)
  }
}

import * as yup from 'yup'
import { AppError } from '@/base/errors'
import { windowHeader } from '@/contract/window'
import { piecesOf } from './uploads'

const maxBodyBytes = 2 << 20

/** The body of a request, checked. The limit is measured while it is read. @throws AppError `badRequest` */
export async function readBody<Body>(request: Request, schema: yup.ISchema<Body>): Promise<Body> {
  const pieces: Uint8Array[] = []
  let received = 0
  for await (const piece of piecesOf(request)) {
    received += piece.length
    if (received > maxBodyBytes) throw new AppError('badRequest', { reason: 'it is larger than 2 MB' })
    pieces.push(piece)
  }
  try {
    return await schema.validate(JSON.parse(Buffer.concat(pieces).toString('utf8')), { strict: true })
  } catch (error) {
    throw new AppError('badRequest', { reason: error instanceof yup.ValidationError ? error.message : 'it is not JSON' })
  }
}

/** The window of the browser that a change comes from, if it says so. */
export const windowOf = (request: Request): string | null => request.headers.get(windowHeader)?.slice(0, 64) ?? null

import { addressHeader, gatekeeper, lockOf, sessionCookie, sessionMs } from '@/server/door'
import { answer } from '@/server/http'
import { passphraseSchema, readBody } from '@/server/requests'

const cookie = (value: string, seconds: number): Record<string, string> => ({
  'Set-Cookie': `${sessionCookie}=${value}; Path=/; HttpOnly; SameSite=Strict; Max-Age=${seconds}`,
})

/** Opens a session for the right passphrase. Without a lock the door is open to this machine, and there is nothing to do. */
export const POST = (request: Request): Promise<Response> =>
  answer(async () => {
    const { passphrase } = await readBody<{ passphrase: string }>(request, passphraseSchema)
    const lock = lockOf(process.env)
    if (!lock) return { open: true }
    const token = await gatekeeper().admit(lock, passphrase, request.headers.get(addressHeader) ?? '')
    return Response.json({ open: true }, { headers: cookie(token, sessionMs / 1000) })
  })

/** Ends it. */
export const DELETE = (): Promise<Response> => answer(() => Response.json({ open: false }, { headers: cookie('', 0) }))

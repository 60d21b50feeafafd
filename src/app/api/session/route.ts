import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { serve } from '@/web/http'
import { addressHeader, gatekeeper, lockOf, secureHeader, sessionCookie, sessionMs, signOut } from '@/web/sessions'

function cookie(request: Request, value: string, seconds: number): Record<string, string> {
  const secure = request.headers.get(secureHeader) === '1' ? '; Secure' : ''
  return { 'Set-Cookie': `${sessionCookie}=${value}; Path=/; HttpOnly; SameSite=Strict; Max-Age=${seconds}${secure}` }
}

/** Opens a session for the right passphrase. Where none is asked for, pages are open to this machine, and there is nothing to do. */
export const POST = serve(routes.signIn, async ({ body: { passphrase }, request }) => {
  const lock = lockOf(process.env)
  if (!lock) return { open: true }
  const token = await gatekeeper().admit(lock, passphrase, request.headers.get(addressHeader) ?? '')
  return Response.json({ open: true }, { headers: cookie(request, token, sessionMs / 1000) })
})

/** Ends it: its token opens nothing any more. */
export const DELETE = serve(routes.signOut, ({ request }) => {
  signOut(context(), lockOf(process.env), request.headers.get('cookie') ?? undefined)
  return Response.json({ open: false }, { headers: cookie(request, '', 0) })
})

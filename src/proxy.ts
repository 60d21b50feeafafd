import { type NextRequest, NextResponse } from 'next/server'
import { AppError, type ErrorCode, errorStatus } from '@/core/errors'
import { isSession, lockOf, sessionCookie } from '@/server/door'

const ownNames = new Set(['127.0.0.1', 'localhost', '[::1]'])
const nameOf = (host: string): string => host.replace(/:\d+$/, '')
/** What somebody outside the door must be able to see. */
const beforeTheDoor = /^\/(sign-in|api\/session|_next\/static\/|fonts\/|icon\.svg)/

/**
 * Only this machine, unless asked. The Host header must name this machine (against DNS rebinding), or, where a wider
 * address is listened to, the request must bring a session. Whatever changes something must come from our own pages
 * (against cross-site posts).
 */
export function proxy(request: NextRequest): NextResponse {
  const host = request.headers.get('host') ?? ''
  const origin = request.headers.get('origin')
  const changes = request.method !== 'GET' && request.method !== 'HEAD'
  const foreign = origin !== null && origin !== `http://${host}` && origin !== `https://${host}`
  const crossSite = request.headers.get('sec-fetch-site') === 'cross-site'
  if (changes && (foreign || crossSite)) return refuse('crossSite')
  const lock = lockOf(process.env)
  if (!lock) return ownNames.has(nameOf(host)) ? NextResponse.next() : refuse('crossSite')
  const { pathname } = request.nextUrl
  if (beforeTheDoor.test(pathname) || isSession(lock, request.cookies.get(sessionCookie)?.value)) return NextResponse.next()
  return pathname.startsWith('/api/') ? refuse('signInNeeded') : NextResponse.redirect(new URL('/sign-in', `http://${host}`))
}

function refuse(code: ErrorCode): NextResponse {
  const error = new AppError(code)
  return NextResponse.json({ ...error.report, sentence: error.message }, { status: errorStatus(code) })
}

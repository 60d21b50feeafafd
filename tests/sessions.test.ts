import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { DELETE, POST } from '@/app/api/session/route'
import { context } from '@/services/context'
import { addressHeader, cookieOf, isSignedOut, lockOf, makeLock, secureHeader, sessionOf } from '@/web/sessions'

/* Signing in and out, as the route answers it. */

const passphrase = 'a kiln is a slow camera'
const before = { ...process.env }
beforeAll(() => {
  const data = mkdtempSync(join(tmpdir(), 'copper-loop-session-'))
  Object.assign(process.env, { COPPER_LOOP_DATA: data, COPPER_LOOP_PASSPHRASE: passphrase })
  expect(makeLock(process.env, data)).toBeUndefined()
})
afterAll(() => {
  process.env = before
})

const signIn = (isSecure: boolean): Promise<Response> =>
  POST(
    new Request('http://127.0.0.1/api/session', {
      method: 'POST',
      headers: { [addressHeader]: '192.0.2.1', [secureHeader]: isSecure ? '1' : '0' },
      body: JSON.stringify({ passphrase }),
    }),
    { params: Promise.resolve({}) },
  )
const setCookie = (answer: Response): string => answer.headers.get('set-cookie') ?? ''

describe('a session', () => {
  it('goes only over what is encrypted, where TLS is in front', async () => {
    expect(setCookie(await signIn(true))).toMatch(/HttpOnly; SameSite=Strict; Max-Age=\d+; Secure$/)
    expect(setCookie(await signIn(false))).not.toContain('Secure')
  })
  it('opens nothing any more once it was signed out, though its cookie was kept', async () => {
    const cookie = setCookie(await signIn(false)).split(';')[0] ?? ''
    const lock = lockOf(process.env)
    const session = lock && sessionOf(lock, cookieOf(cookie))
    expect(session && isSignedOut(context(), session.nonce)).toBe(false)
    await DELETE(new Request('http://127.0.0.1/api/session', { method: 'DELETE', headers: { cookie } }), { params: Promise.resolve({}) })
    expect(session && isSignedOut(context(), session.nonce)).toBe(true)
  })
})

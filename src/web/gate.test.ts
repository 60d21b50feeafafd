import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { type Asked, type GateOptions, judge, originOf, policyFor } from './gate'
import { type Lock, newSession, sessionCookie } from './sessions'

const lock: Lock = { key: Buffer.alloc(32, 7), salt: Buffer.alloc(16, 3) }
const isStationsWord = (said: string | undefined): boolean => said === 'Bearer the word'
const open: GateOptions = { lock: undefined, isEnded: () => false, isStationsWord }
const locked: GateOptions = { lock, isEnded: () => false, isStationsWord }
const own = { host: '127.0.0.1:4180' }
const asked = (part: Partial<Asked> & { headers?: Asked['headers'] } = {}): Asked => ({
  method: 'GET',
  url: '/api/loops',
  ...part,
  headers: { ...own, ...part.headers },
})
const verdict = (part: Parameters<typeof asked>[0], options: GateOptions = open): string => {
  const result = judge(asked(part), options)
  return result.pass ? 'in' : 'redirect' in result ? result.redirect : result.report.code
}

describe('the gate', () => {
  it.each<[string, Parameters<typeof asked>[0], string]>([
    ['our own page', { headers: { 'sec-fetch-site': 'same-origin', origin: 'http://127.0.0.1:4180' } }, 'in'],
    ['the address bar, and programs', {}, 'in'],
    ['another site that asks for data', { headers: { 'sec-fetch-site': 'cross-site' } }, 'crossSite'],
    ['another port of this machine that asks for data', { headers: { 'sec-fetch-site': 'same-site' } }, 'crossSite'],
    ['another site that posts', { method: 'POST', headers: { origin: 'http://evil.example' } }, 'crossSite'],
    ['another site’s link to a page', { url: '/bench', headers: { 'sec-fetch-site': 'cross-site' } }, 'in'],
    ['a name that only leads here', { headers: { host: 'evil.example' } }, 'crossSite'],
    ['TRACE', { method: 'TRACE' }, 'methodRefused'],
    ['a broken escape', { url: '/api/folders?path=%E0%A4%A' }, 'badRequest'],
    ['a broken escape in the path', { url: '/runs/%ff' }, 'badRequest'],
    ['another’s whole address', { url: 'http://evil.example/api/loops' }, 'badRequest'],
  ])('answers %s as it should', (_, part, expected) => expect(verdict(part)).toBe(expected))

  it('lets stations fetch kept files with their word, by whatever name they call this machine, and nothing else', () => {
    const url = '/api/stations/kept/00ff'
    const host = 'studio.example:4180'
    for (const options of [open, locked]) {
      const asks = (part: Parameters<typeof asked>[0]): string => verdict({ url, ...part }, options)
      expect(asks({ headers: { host, authorization: 'Bearer the word' } })).toBe('in')
      for (const authorization of [undefined, '', 'the word', 'Bearer the wor', 'Bearer the words'])
        expect(asks({ headers: { host, authorization } })).toBe('signInNeeded')
      expect(asks({ headers: {} })).toBe('signInNeeded')
      expect(asks({ method: 'POST', headers: { host, authorization: 'Bearer the word' } })).toBe('signInNeeded')
      for (const way of ['/../../loops', '/%2e%2e/%2e%2e/loops', '/00ff/../../../loops'])
        expect(asks({ url: `/api/stations/kept${way}`, headers: { host, authorization: 'Bearer the word' } })).toBe('signInNeeded')
      expect(asks({ url: '/api/loops', headers: { host, authorization: 'Bearer the word' } })).not.toBe('in')
    }
  })
  it('lets nobody in without a session, nor through a path that only begins like an open one', () => {
    const cookie = `other=1; ${sessionCookie}=${newSession(lock)}`
    expect(verdict({}, locked)).toBe('signInNeeded')
    expect(verdict({ url: '/bench' }, locked)).toBe('/sign-in')
    expect(verdict({ headers: { cookie } }, locked)).toBe('in')
    for (const url of ['/sign-in', '/api/session', '/_next/static/chunks/a.js', '/icon.svg'])
      expect([url, verdict({ url }, locked)]).toEqual([url, 'in'])
    for (const url of [
      '/sign-in/../bench',
      '/sign-ins',
      '/api/session/../loops',
      '/api/sessions',
      '/_next/static/',
      '/fonts/../api/loops',
      '/_next/image?url=x',
    ])
      expect([url, verdict({ url }, locked)]).not.toEqual([url, 'in'])
  })
  it('lets nobody in with a session that was signed out', () => {
    const cookie = `${sessionCookie}=${newSession(lock)}`
    const ended = new Set<string>()
    const options = { lock, isEnded: (nonce: string) => ended.has(nonce), isStationsWord }
    expect(verdict({ headers: { cookie } }, options)).toBe('in')
    ended.add(cookie.split('.')[1] ?? '')
    expect(verdict({ headers: { cookie } }, options)).toBe('signInNeeded')
  })
  it('answers anything at all', () => {
    fc.assert(
      fc.property(fc.string(), fc.string(), fc.dictionary(fc.string(), fc.string()), (method, url, headers) => {
        expect(typeof judge({ method, url, headers }, locked).pass).toBe('boolean')
      }),
    )
  })
})

describe('where a request came from', () => {
  const headers = { 'x-forwarded-for': '10.0.0.9, 203.0.113.5', 'x-forwarded-proto': 'https' }
  it('is the connection’s own address, whatever it says, unless it is a proxy that a setting names', () => {
    expect(originOf(headers, '::ffff:192.0.2.1', [])).toEqual({ address: '192.0.2.1', isSecure: false })
    expect(originOf(headers, '127.0.0.1', ['127.0.0.1'])).toEqual({ address: '203.0.113.5', isSecure: true })
    expect(originOf({}, '127.0.0.1', ['127.0.0.1'])).toEqual({ address: '127.0.0.1', isSecure: false })
  })
})

describe('what an answer may carry out', () => {
  it('is our own scripts on pages, those of a worker, and nothing of data', () => {
    expect(policyFor('/bench?x=1', 'abc')).toMatch(/script-src 'self' 'nonce-abc' 'wasm-unsafe-eval'/)
    expect(policyFor('/bench', 'abc')).not.toMatch(/script-src[^;]*'unsafe-(inline|eval)'/)
    expect(policyFor('/_next/static/a.js', '')).not.toMatch(/sandbox/)
    for (const url of ['/api/results/1', '/icon.svg', '/kernels.wasm']) expect(policyFor(url, '')).toMatch(/default-src 'none'.*sandbox/)
  })
})

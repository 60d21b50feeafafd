import type { IncomingHttpHeaders } from 'node:http'
import type { ErrorReport } from '@/base/errors'
import { keptFilePath } from '@/base/station-paths'
import { cookieOf, type Lock, sessionOf } from './sessions'

/*
 * Who and what comes in: decided here, before a page or a route sees anything of a request.
 */

export interface Asked {
  readonly method: string
  /** Path and query as they were sent. */
  readonly url: string
  readonly headers: IncomingHttpHeaders
}

export interface GateOptions {
  /** None when only this machine is listened to. */
  readonly lock: Lock | undefined
  /** Whether a session was ended before its time. */
  isEnded(nonce: string): boolean
  /** Whether an Authorization header bears the word that stations have. */
  isStationsWord(authorization: string | undefined): boolean
}

export type Verdict =
  | { readonly pass: true }
  | { readonly pass: false; readonly report: ErrorReport }
  | { readonly pass: false; readonly redirect: string }

const methods: ReadonlySet<string> = new Set(['GET', 'HEAD', 'POST', 'DELETE'])
const ownNames: ReadonlySet<string> = new Set(['127.0.0.1', 'localhost', '[::1]'])
const nameOf = (host: string): string => host.replace(/:\d+$/, '')
/** What somebody outside the door must be able to see. */
const beforeTheDoor = /^(\/sign-in|\/api\/session|\/_next\/static\/.+|\/fonts\/[^/]+|\/icon\.svg)$/
const isApi = (path: string): boolean => path === '/api' || path.startsWith('/api/')

const pass: Verdict = { pass: true }
const refuse = (code: ErrorReport['code'], details: ErrorReport['details'] = {}): Verdict => ({ pass: false, report: { code, details } })

/**
 * Only this machine, unless asked. The Host header must name this machine (against DNS rebinding), or, where a wider
 * address is listened to, the request must bring a session. Whatever changes something, and whatever asks for data, must
 * come from our own pages (against other sites' pages).
 */
export function judge({ method, url, headers }: Asked, { lock, isEnded, isStationsWord }: GateOptions): Verdict {
  if (!methods.has(method)) return refuse('methodRefused', { method: method.slice(0, 20) })
  const path = pathOf(url)
  if (path === undefined) return refuse('badRequest', { reason: 'its address can’t be read' })
  // Stations come over the network, by whatever name this machine has there, with a word instead of a session; for kept files, and nothing else.
  if (path.startsWith(keptFilePath)) {
    const isPlain = /^[0-9a-z]+$/.test(path.slice(keptFilePath.length))
    return method === 'GET' && isPlain && isStationsWord(headers.authorization) ? pass : refuse('signInNeeded')
  }
  const host = headers.host ?? ''
  const isWatched = isApi(path) || (method !== 'GET' && method !== 'HEAD')
  if (isWatched && isForeign(headers, host)) return refuse('crossSite')
  if (!lock) return ownNames.has(nameOf(host)) ? pass : refuse('crossSite')
  if (beforeTheDoor.test(path)) return pass
  const session = sessionOf(lock, cookieOf(headers.cookie))
  if (session && !isEnded(session.nonce)) return pass
  return isApi(path) ? refuse('signInNeeded') : { pass: false, redirect: '/sign-in' }
}

/** The path of an address, if both path and query are well formed. */
function pathOf(url: string): string | undefined {
  if (!url.startsWith('/')) return undefined
  const [path = '', query = ''] = url.split(/\?(.*)/s)
  try {
    decodeURIComponent(query.replaceAll('+', ' '))
    return decodeURIComponent(path)
  } catch {
    return undefined
  }
}

/** Whether a browser says that a page of another origin is behind it. Another port of this machine is another origin too. */
function isForeign(headers: IncomingHttpHeaders, host: string): boolean {
  const { origin } = headers
  const site = headers['sec-fetch-site']
  const isOwn = origin === undefined || origin === `http://${host}` || origin === `https://${host}`
  return !isOwn || (site !== undefined && site !== 'same-origin' && site !== 'none')
}

/** Where a request came from, and whether it came encrypted; a proxy is believed only where a setting names it. */
export function originOf(
  headers: IncomingHttpHeaders,
  remoteAddress: string,
  trustedProxies: readonly string[],
): { readonly address: string; readonly isSecure: boolean } {
  const plain = remoteAddress.replace(/^::ffff:/, '')
  if (!trustedProxies.includes(plain)) return { address: plain, isSecure: false }
  const one = (value: string | string[] | undefined): string => (Array.isArray(value) ? value.join(',') : (value ?? ''))
  const forwarded = one(headers['x-forwarded-for']).split(',').at(-1)?.trim()
  return { address: forwarded || plain, isSecure: one(headers['x-forwarded-proto']).split(',').at(-1)?.trim() === 'https' }
}

/** What a page may load and carry out (W3C Content Security Policy 3): only ours. Styles are made at run time by the component library. */
const pagePolicy = (nonce: string, more: string): string =>
  [
    `default-src 'self'`,
    `script-src 'self' 'nonce-${nonce}' 'wasm-unsafe-eval'${more}`,
    `style-src 'self' 'unsafe-inline'`,
    `img-src 'self' blob: data:`,
    `font-src 'self' data:`,
    `connect-src 'self'`,
    `worker-src 'self' blob:`,
    `object-src 'none'`,
    `base-uri 'none'`,
    `form-action 'self'`,
    `frame-ancestors 'none'`,
  ].join('; ')

/** For scripts: one that runs as a worker goes by the policy that it came with. */
const scriptPolicy = (more: string): string =>
  `default-src 'none'; script-src 'self' 'wasm-unsafe-eval'${more}; connect-src 'self'; worker-src 'self' blob:; frame-ancestors 'none'`

/** For data: it carries nothing out, even if a browser shows it by itself. */
export const dataPolicy = `default-src 'none'; img-src 'self'; style-src 'unsafe-inline'; frame-ancestors 'none'; sandbox`

/** What goes with the answer to an address; `nonce` is the sign that a page's own scripts carry. Hot reload needs more than that. */
export function policyFor(url: string, nonce: string, isDev = false): string {
  const more = isDev ? " 'unsafe-eval'" : ''
  if (url.startsWith('/_next/static/')) return scriptPolicy(more)
  const path = url.split('?')[0] ?? ''
  return isApi(path) || /^\/(_next|fonts)\/|\.(svg|wasm|ico|woff2?)$/.test(path) ? dataPolicy : pagePolicy(nonce, more)
}

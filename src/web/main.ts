import { randomBytes } from 'node:crypto'
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http'
import next from 'next'
import { AppError, errorStatus } from '@/base/errors'
import { log } from '@/processes/log'
import { context, dataFolderOf } from '@/services/context'
import { helpers } from '@/services/helper/pool'
import { clearSent } from '@/services/sent-files'
import { isStationsWord } from '@/services/stations'
import { dataPolicy, judge, originOf, policyFor, type Verdict } from './gate'
import { addressHeader, isSignedOut, lockOf, makeLock, secureHeader } from './sessions'

/*
 * The web's process: serves the pages and routes, on this machine only, or, if an address is named and a passphrase set,
 * there too. Ends with its supervisor.
 */

/** Tells the supervisor that starting again would not help. */
const misconfigured = 78
const hostname = process.env.COPPER_LOOP_HOST || '127.0.0.1'
const port = Number(process.argv[2])
const isOwnMachine = ['127.0.0.1', '::1', 'localhost'].includes(hostname)
const trustedProxies = (process.env.COPPER_LOOP_TRUSTED_PROXY ?? '')
  .split(',')
  .map((address) => address.trim())
  .filter(Boolean)

if (!isOwnMachine) {
  const problem = makeLock(process.env, dataFolderOf(process.env))
  if (problem) {
    console.error(`Copper Loop: listening on ${hostname} lets others in. ${problem}`)
    process.exit(misconfigured)
  }
  console.warn('Copper Loop: what passes over the network is not encrypted here. Put a TLS proxy before it where others can listen.')
}
// Nothing that this process starts or prints needs it.
delete process.env.COPPER_LOOP_PASSPHRASE

/** Connections at a time: well below the file handles that a process usually has. */
const maxConnections = 400
/** How long a request's head may take, and all of it; a body that stops arriving is ended by whoever reads it. */
const [headMs, wholeMs] = [15_000, 1_800_000]

await clearSent(dataFolderOf(process.env))
/** While somebody works on the code: pages reload by themselves, and helpers are replaced when their bundle is built anew. */
const isDev = process.env.COPPER_LOOP_DEV === '1'
const app = next({ dev: isDev, hostname, port })
await app.prepare()
const handle = app.getRequestHandler()
const gate = {
  lock: lockOf(process.env),
  isEnded: (nonce: string) => isSignedOut(context(), nonce),
  isStationsWord: (said: string | undefined) => isStationsWord(context(), said),
}

const server = createServer(
  { headersTimeout: headMs, requestTimeout: wholeMs, connectionsCheckingInterval: 5_000 },
  (request, response) => {
    try {
      const verdict = judge({ method: request.method ?? '', url: request.url ?? '', headers: request.headers }, gate)
      if (verdict.pass) letIn(request, response)
      else turnAway(verdict, response)
    } catch (error) {
      log.error(error, 'a request could not be judged')
      turnAway({ pass: false, report: { code: 'internal', details: { reason: 'the request could not be judged' } } }, response)
    }
  },
)
server.maxConnections = maxConnections
server.on('error', (error) => log.error(error, 'the server'))
let dropped = 0
server.on('drop', () => {
  if (dropped++ % maxConnections === 0) log.warn({ dropped, maxConnections }, 'more connections than are held at a time')
})
server.on('clientError', (_, socket) => socket.destroy())
// Nothing here is upgraded: a socket that asks for it is let go, before anything keeps it. Hot reload is the one exception.
if (!isDev) server.prependListener('upgrade', (_, socket) => socket.destroy())
if (isDev) process.on('SIGUSR2', () => helpers().renew())
server.listen(port, hostname)
// The first page should not wait for them.
void helpers()
  .ask('rootsThere', {})
  .catch((error) => log.error(error, 'the helpers can’t be started'))

function letIn(request: IncomingMessage, response: ServerResponse): void {
  const { address, isSecure } = originOf(request.headers, request.socket.remoteAddress ?? '', trustedProxies)
  request.headers[addressHeader] = address
  request.headers[secureHeader] = isSecure ? '1' : '0'
  const policy = policyFor(request.url ?? '', randomBytes(16).toString('base64'), isDev)
  // The framework takes the nonce for its own scripts from here.
  request.headers['content-security-policy'] = policy
  response.setHeader('Content-Security-Policy', policy)
  void handle(request, response).catch((error: unknown) => {
    log.error(error, 'a request failed')
    response.destroy()
  })
}

function turnAway(verdict: Extract<Verdict, { pass: false }>, response: ServerResponse): void {
  if ('redirect' in verdict) {
    response.writeHead(307, { Location: verdict.redirect }).end()
    return
  }
  const { code, details } = verdict.report
  const body = JSON.stringify({ code, details, sentence: new AppError(code, details).message })
  response
    .writeHead(errorStatus(code), { 'Content-Type': 'application/json', 'Content-Security-Policy': dataPolicy, Connection: 'close' })
    .end(body)
}

function end(): void {
  // Pages that follow runs hold their connection open for ever.
  server.close(() => process.exit(0))
  server.closeAllConnections()
  helpers().close()
}
process.on('SIGTERM', end)
process.on('SIGINT', () => undefined)
process.on('disconnect', end)

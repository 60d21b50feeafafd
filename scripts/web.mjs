// Serves the built pages: on this machine only, or, if an address is named and a passphrase set, there too.
// Ends with its supervisor.
import { randomBytes, scryptSync } from 'node:crypto'
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:http'
import { join, resolve } from 'node:path'
import next from 'next'

const hostname = process.env.COPPER_LOOP_HOST || '127.0.0.1'
const port = Number(process.argv[2])
const isOwn = ['127.0.0.1', '::1', 'localhost'].includes(hostname)
const leastPassphrase = 12

if (!isOwn) lockDoor()
// Nothing that this process starts or prints needs it.
delete process.env.COPPER_LOOP_PASSPHRASE

const app = next({ dev: false, hostname, port })
await app.prepare()
const handle = app.getRequestHandler()
const server = createServer((request, response) => {
  request.headers['x-copper-loop-address'] = request.socket.remoteAddress ?? ''
  return handle(request, response)
})
server.listen(port, hostname)

/** The same stretching as src/server/door.ts. The salt stays, so that sessions outlive a start. */
function lockDoor() {
  const passphrase = process.env.COPPER_LOOP_PASSPHRASE ?? ''
  if (passphrase.length < leastPassphrase) {
    console.error(
      `Copper Loop: listening on ${hostname} lets others in. Set COPPER_LOOP_PASSPHRASE to at least ${leastPassphrase} characters, or leave COPPER_LOOP_HOST out.`,
    )
    process.exit(1)
  }
  const salt = doorSalt()
  process.env.COPPER_LOOP_DOOR_KEY = scryptSync(passphrase, salt, 32, { N: 2 ** 15, r: 8, p: 1, maxmem: 64 << 20 }).toString('hex')
  process.env.COPPER_LOOP_DOOR_SALT = salt.toString('hex')
  console.warn('Copper Loop: what passes over the network is not encrypted here. Put a TLS proxy before it where others can listen.')
}

function doorSalt() {
  const folder = resolve(process.env.COPPER_LOOP_DATA ?? 'data')
  const path = join(folder, 'door-salt')
  try {
    return readFileSync(path)
  } catch {
    mkdirSync(folder, { recursive: true })
    writeFileSync(path, randomBytes(16), { mode: 0o600 })
    return readFileSync(path)
  }
}

function end() {
  // Pages that follow runs hold their connection open for ever.
  server.close(() => process.exit(0))
  server.closeAllConnections()
}
process.on('SIGTERM', end)
process.on('SIGINT', () => undefined)
process.on('disconnect', end)

// Serves the built pages on this machine only. Ends with its supervisor.
import { createServer } from 'node:http'
import next from 'next'

const hostname = '127.0.0.1'
const port = Number(process.argv[2])
const app = next({ dev: false, hostname, port })
await app.prepare()
const handle = app.getRequestHandler()
const server = createServer((request, response) => handle(request, response))
server.listen(port, hostname)

function end() {
  // Pages that follow runs hold their connection open for ever.
  server.close(() => process.exit(0))
  server.closeAllConnections()
}
process.on('SIGTERM', end)
process.on('SIGINT', () => undefined)
process.on('disconnect', end)

// Starts web and runner, keeps both alive, stops them cleanly. They meet only in the database.
import { spawn, spawnSync } from 'node:child_process'
import { existsSync } from 'node:fs'
import { createServer } from 'node:net'
import { join, resolve } from 'node:path'

const port = Number(process.argv[2])
const hostname = process.env.COPPER_LOOP_HOST || '127.0.0.1'
// Listening on all addresses is asked through this machine's own.
const address = `http://${['0.0.0.0', '::'].includes(hostname) ? '127.0.0.1' : hostname}:${port}`
const dataFolder = resolve(process.env.COPPER_LOOP_DATA ?? 'data')
const layDemo = process.argv.includes('--lay-demo') || !existsSync(join(dataFolder, 'copper-loop.sqlite'))

/** A process that ended is started again after this long, doubled each time up to the most, and from the start once it has lasted. */
const firstPauseMs = 500
const maxPauseMs = 15_000
const lastedMs = 60_000
/** The web's exit code for a setup that it can't run with. */
const misconfigured = 78
/** What a worker has in hand is finished when stopping; longer than this it is not waited for. */
const stopPatienceMs = 20_000

let stopping = false
/** @type {Map<string, import('node:child_process').ChildProcess>} */
const children = new Map()

/** @type {() => Promise<boolean>} */
const portIsFree = () =>
  new Promise((resolve) => {
    const probe = createServer()
    probe.once('error', () => resolve(false))
    probe.listen(port, hostname, () => probe.close(() => resolve(true)))
  })

/**
 * @param {string} name
 * @param {string[]} args
 * @param {(code: number | null, signal: NodeJS.Signals | null) => void} onExit
 */
function start(name, args, onExit) {
  // The channel tells a child when this process is gone, however it ended.
  const child = spawn(process.execPath, args, {
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    // More threads for files than the usual four: a disk that does not answer keeps some of them.
    env: { UV_THREADPOOL_SIZE: '16', ...process.env, COPPER_LOOP_PORT: String(port), NODE_ENV: process.env.NODE_ENV ?? 'production' },
  })
  children.set(name, child)
  child.on('exit', (code, signal) => {
    children.delete(name)
    if (!stopping) onExit(code, signal)
  })
}

/**
 * Keeps a process alive.
 * @param {string} name
 * @param {string[]} args
 * @param {string} told what it is called to whoever reads the terminal
 */
function keep(name, args, told, pauseMs = firstPauseMs) {
  const began = Date.now()
  start(name, args, (code, signal) => {
    // It said that it can't run as things are set up.
    if (code === misconfigured) return void stop(1)
    const next = Date.now() - began > lastedMs ? firstPauseMs : Math.min(pauseMs * 2, maxPauseMs)
    console.error(`${told} ended (${signal ?? code}); it is started again in ${next / 1000} s. Nothing is lost.`)
    setTimeout(() => !stopping && keep(name, args, told, next), next)
  })
}

/** @param {number} code */
async function stop(code) {
  if (stopping) return
  stopping = true
  for (const child of children.values()) child.kill('SIGTERM')
  const patience = setTimeout(() => {
    for (const child of children.values()) child.kill('SIGKILL')
  }, stopPatienceMs)
  await Promise.all([...children.values()].map((child) => new Promise((ended) => child.once('exit', ended))))
  clearTimeout(patience)
  process.exit(code)
}

async function announce() {
  for (let tries = 0; tries < 300 && !stopping; tries++) {
    const answer = await fetch(`${address}/api/status`).catch(() => undefined)
    // With a passphrase set the answer is that one is needed.
    if (answer?.ok || answer?.status === 401) return console.log(`Copper Loop is ready: ${address}\nPress Ctrl-C to stop.`)
    await new Promise((done) => setTimeout(done, 100))
  }
}

if (!(await portIsFree())) {
  console.error(`Copper Loop: port ${port} is in use. Is it running already? Otherwise choose another: COPPER_LOOP_PORT=4181 ./loop start`)
  process.exit(1)
}
if (layDemo) {
  const laid = spawnSync(process.execPath, ['.build/lay-demo.mjs'], { stdio: 'inherit' })
  if (laid.status !== 0) process.exit(laid.status ?? 1)
}
process.on('SIGINT', () => stop(0))
process.on('SIGTERM', () => stop(0))
keep('web', ['--enable-source-maps', '.build/web.mjs', String(port)], 'The web server')
keep('runner', ['--enable-source-maps', '.build/runner.mjs'], 'The runner')
await announce()

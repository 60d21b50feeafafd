// For working here: pages with hot reload; kernels and bundles built anew as files change, and the processes that run them
// replaced. The demo's data, in a folder of its own.
import { spawn, spawnSync } from 'node:child_process'
import { watch } from 'node:fs'
import { homedir } from 'node:os'
import { join } from 'node:path'
import { context } from 'esbuild'
import { bundleOptions } from './bundles.mjs'

const port = process.argv[2] ?? '4180'
/** Not in the project: a database that changes there makes the pages be compiled for ever. */
const dataFolder = join(process.env.XDG_CACHE_HOME ?? join(homedir(), '.cache'), 'copper-loop-dev')
/** @type {NodeJS.ProcessEnv} */
const environment = {
  ...process.env,
  NODE_ENV: 'development',
  COPPER_LOOP_DEV: '1',
  COPPER_LOOP_DATA: process.env.COPPER_LOOP_DATA ?? dataFolder,
}
/** @type {Map<string, import('node:child_process').ChildProcess>} */
const children = new Map()
let stopping = false

/**
 * Starts a process, and again when it ends by itself.
 * @param {string} name
 * @param {string[]} args
 */
function keep(name, args) {
  const child = spawn(process.execPath, ['--enable-source-maps', ...args], {
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    env: environment,
  })
  children.set(name, child)
  child.once('exit', () => {
    if (!stopping && children.get(name) === child) setTimeout(() => keep(name, args), 300)
  })
}

/** What runs the old bundles is replaced: the runner whole, of the web only its helpers, so that pages keep their state. */
function replaceOld() {
  children.get('runner')?.kill('SIGTERM')
  children.get('web')?.kill('SIGUSR2')
}

function stop() {
  stopping = true
  for (const child of children.values()) child.kill('SIGTERM')
  setTimeout(() => process.exit(0), 1500)
}
process.on('SIGINT', stop)
process.on('SIGTERM', stop)

const laid = spawnSync(process.execPath, ['.build/lay-demo.mjs'], { stdio: 'inherit', env: environment })
if (laid.status !== 0) process.exit(laid.status ?? 1)

let isFirst = true
/** @type {import('esbuild').Plugin} */
const replacing = {
  name: 'replace-old',
  setup: (build) =>
    build.onEnd(({ errors }) => {
      if (!isFirst && errors.length === 0) {
        console.log('Bundles are built anew; runner and helpers are replaced.')
        replaceOld()
      }
      isFirst = false
    }),
}
await (await context({ ...bundleOptions(), logLevel: 'warning', plugins: [replacing] })).watch()

/** @type {NodeJS.Timeout | undefined} */
let timer
watch('kernels/assembly', () => {
  clearTimeout(timer)
  timer = setTimeout(() => {
    console.log('Building the kernels anew …')
    const built = spawnSync(process.execPath, ['scripts/build-kernels.mjs'], { stdio: 'inherit' })
    if (built.status === 0) replaceOld()
  }, 200)
})

keep('web', ['.build/web.mjs', port])
keep('runner', ['.build/runner.mjs'])
console.log(`Copper Loop for working on it: http://127.0.0.1:${port} (the first page takes a moment)\nPress Ctrl-C to stop.`)

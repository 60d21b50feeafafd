import { randomUUID } from 'node:crypto'
import { availableParallelism } from 'node:os'
import { dirname, join, resolve } from 'node:path'
import { fileURLToPath } from 'node:url'
import pino from 'pino'
import { openDatabase } from '@/db/database'
import { EmbeddedQueue } from './embedded-queue'
import { WorkerPool } from './pool'
import { Runner } from './runner'

/** Ten minutes: a hundred megapixels through a long macro take seconds. */
const defaultPatienceMs = 600_000

const build = dirname(fileURLToPath(import.meta.url))
const environment = process.env
const dataFolder = resolve(environment.COPPER_LOOP_DATA ?? 'data')
const log = pino({ name: 'runner', level: environment.COPPER_LOOP_LOG ?? 'warn' })

const db = openDatabase(dataFolder, join(build, 'migrations'))
const queue = new EmbeddedQueue(db, randomUUID())
const pool = new WorkerPool(
  {
    workerPath: join(build, 'worker.mjs'),
    kernelsPath: join(build, 'kernels.wasm'),
    folders: { files: join(dataFolder, 'files'), fonts: join(build, 'fonts') },
    size: Number(environment.COPPER_LOOP_WORKERS) || availableParallelism(),
    patienceMs: Number(environment.COPPER_LOOP_PATIENCE_MS) || defaultPatienceMs,
  },
  () => runner.fill(),
)
const runner = new Runner(queue, pool, log)
runner.start()
log.info({ dataFolder }, 'runner ready')

let ending = false
async function end(): Promise<void> {
  if (ending) return
  ending = true
  await runner.stop()
  await pool.close()
  db.$client.close()
  process.exit(0)
}
process.on('SIGTERM', end)
process.on('SIGINT', end)
// The supervisor holds the other end: when it is gone, so is the reason to run.
process.on('disconnect', end)

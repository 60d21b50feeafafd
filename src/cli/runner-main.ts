import { randomUUID } from 'node:crypto'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import pino from 'pino'
import { EmbeddedQueue } from '@/runner/embedded-queue'
import { WorkerPool } from '@/runner/pool'
import { Runner } from '@/runner/runner'
import { openContext, reopenRoots } from '@/server/context'
import { writeReports } from '@/server/report-files'
import { workersOf } from '@/server/settings'
import { StandingStarts } from '@/server/standing-starts'

/*
 * The runner's process: the pool of workers on the queue, and the loops that start by themselves. Called with
 * `--only-queue` it starts no loop: that is left to the runner that stays.
 */

/** Ten minutes: a hundred megapixels through a long macro take seconds. */
const defaultPatienceMs = 600_000

const build = dirname(fileURLToPath(import.meta.url))
const environment = process.env
const log = pino({ name: 'runner', level: environment.COPPER_LOOP_LOG ?? 'warn' })

const context = openContext(environment, join(build, 'migrations'))
const { db, dataFolder } = context
const queue = new EmbeddedQueue(db, randomUUID(), {
  beforeEnd: (run) =>
    writeReports(context, run)?.catch((error) => log.error({ run: run.number, reason: String(error) }, 'the report was not written')),
})
const pool = new WorkerPool(
  {
    workerPath: join(build, 'worker.mjs'),
    kernelsPath: join(build, 'kernels.wasm'),
    folders: { files: join(dataFolder, 'files'), fonts: join(build, 'fonts') },
    size: workersOf(context),
    patienceMs: Number(environment.COPPER_LOOP_PATIENCE_MS) || defaultPatienceMs,
  },
  () => runner.fill(),
)
const runner = new Runner(queue, pool, log)
runner.start()
log.info({ dataFolder }, 'runner ready')

/** How often the clock and the intakes are looked at, and Settings. */
const lookMs = 2_000
const standing = new StandingStarts()
let looking = false
const looks = setInterval(async () => {
  if (looking) return
  looking = true
  try {
    pool.resize(workersOf(context))
    if (!process.argv.includes('--only-queue')) await standing.look(reopenRoots(context))
  } catch (error) {
    log.error(error, 'standing starts')
  } finally {
    looking = false
  }
}, lookMs)

let ending = false
async function end(): Promise<void> {
  if (ending) return
  ending = true
  clearInterval(looks)
  await runner.stop()
  await pool.close()
  db.$client.close()
  process.exit(0)
}
process.on('SIGTERM', end)
process.on('SIGINT', end)
// The supervisor holds the other end: when it is gone, so is the reason to run.
process.on('disconnect', end)

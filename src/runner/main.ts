import { randomUUID } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { log } from '@/processes/log'
import { openContext, reopenRoots } from '@/services/context'
import { HelperPool } from '@/services/helper/pool'
import { clearOldInbox } from '@/services/inbox'
import { workersOf } from '@/services/settings'
import { StandingStarts } from '@/services/starts'
import type { StoredRun } from '@/store/runs'
import type { DatabaseClaimsOptions } from './database-claims'
import { EmbeddedQueue } from './embedded-queue'
import { WorkerPool } from './pool'
import { Runner } from './runner'
import { startDispatching } from './stations/dispatching'
import { redisSettings } from './stations/redis'

/*
 * The runner's process: the pool of workers on the queue, and the loops that start by themselves. Called with
 * `--only-queue` it starts no loop, and leaves once no run is open: that is the command line's. What touches a person's
 * folders is done by its children, never here.
 */

/** Ten minutes: a hundred megapixels through a long macro take seconds. */
const defaultPatienceMs = 600_000

const build = dirname(fileURLToPath(import.meta.url))
const environment = process.env
const onlyQueue = process.argv.includes('--only-queue')

const context = openContext(environment, join(build, 'migrations'))
const { db, dataFolder } = context
const helpers = new HelperPool({
  modulePath: join(build, 'helper.mjs'),
  patienceMs: Number(environment.COPPER_LOOP_HELPER_PATIENCE_MS) || undefined,
})

/** Reports, and nothing unfinished left behind. The pictures are delivered, so a run ends without them too. */
const endRun = (run: StoredRun): Promise<void> =>
  helpers
    .ask('endRun', { runId: run.id })
    .catch((error) => log.error({ run: run.number, reason: String(error) }, 'the run was not tidied up after'))

const claims: DatabaseClaimsOptions = {
  now: testClock(),
  clearUnfinished: ({ runId, id }) =>
    void helpers.ask('clearItem', { runId, itemId: id }).catch((error) => log.warn({ item: id, reason: String(error) }, 'not cleared')),
  onProblem: (problem) => log.error(problem, 'an answer is kept until the database takes it'),
}
// First of all: what stations have in hand should not be taken for lost.
const settings = onlyQueue ? undefined : redisSettings(environment)
const dispatching =
  settings && startDispatching(context, { settings, buildFolder: build, environment, claims, onAnswers: () => void runner.tend() })
// Where stations do all the work, what they have no folder for is done here: nothing waits for ever.
const onlyUnshared = dispatching && workersOf(context) === 0
const queue = new EmbeddedQueue(db, randomUUID(), {
  ...claims,
  beforeEnd: endRun,
  suits: onlyUnshared ? (run) => !dispatching.shares(run) : undefined,
})
const ownWorkers = (): number => Math.max(1, workersOf(context))
const pool = new WorkerPool(
  {
    modulePath: join(build, 'worker.mjs'),
    // What reads strangers' files has no business with Redis.
    environment: { ...environment, COPPER_LOOP_REDIS: '', COPPER_LOOP_KEPT_FILES: join(dataFolder, 'files') },
    maxHeapMb: 512,
    size: ownWorkers(),
    patienceMs: Number(environment.COPPER_LOOP_PATIENCE_MS) || defaultPatienceMs,
  },
  {
    onFree: () => runner?.fill(),
    onFailedStart: (failures, nextTryMs) => log.error({ failures, nextTryMs }, 'a worker could not be started'),
  },
)
const runner = new Runner(queue, pool, { log, roots: () => reopenRoots(context).roots.all })
runner.start()
log.info({ dataFolder }, 'runner ready')
// The first run's end should not wait for a helper to start; the workers come first.
setTimeout(
  () => void helpers.ask('rootsThere', {}).catch((error) => log.error({ reason: String(error) }, 'no helper could be started')),
  1500,
).unref()

/** How often the clock and the intakes are looked at, and Settings. */
const checkMs = 2_000
/** A runner that was started for the queue alone leaves after this many checks in a row with nothing to do. */
const looksBeforeLeaving = 2
let idleLooks = 0
const standing = new StandingStarts()
const standingFolders = {
  stamp: ({ id }: { id: string }) => helpers.ask('intakeStamp', { loopId: id }),
  start: ({ id }: { id: string }) => helpers.ask('startOverNew', { loopId: id }),
}
const checks = setInterval(() => {
  try {
    pool.resize(ownWorkers())
    if (!onlyQueue) void standing.check(context, Date.now(), standingFolders).catch((error) => log.error(error, 'standing starts'))
    idleLooks = queue.hasWork() ? 0 : idleLooks + 1
    if (onlyQueue && idleLooks >= looksBeforeLeaving) void end()
  } catch (error) {
    log.error(error, 'the database did not answer')
  }
}, checkMs)

/** How often it is looked whether something has lain in the inboxes for long. */
const inboxCheckMs = 3_600_000
const inboxChecks = setInterval(() => {
  void clearOldInbox(context).catch((error) => log.error({ reason: String(error) }, 'the inboxes were not looked at'))
}, inboxCheckMs).unref()

let ending = false
async function end(): Promise<void> {
  if (ending) return
  ending = true
  clearInterval(checks)
  clearInterval(inboxChecks)
  await Promise.all([runner.stop(), dispatching?.stop()])
  pool.close()
  helpers.close()
  db.$client.close()
  process.exit(0)
}
process.on('SIGTERM', end)
// The supervisor holds the other end: when it is gone, so is the reason to run. A runner of the command line's stays while any run is open.
process.on('SIGINT', () => {
  if (!onlyQueue) void end()
})
process.on('disconnect', () => {
  if (!onlyQueue) void end()
})

/** For the tests of promises: a clock that is set back and forth, by as many milliseconds as a file says. Off unless the environment says so. */
function testClock(): (() => number) | undefined {
  const file = environment.COPPER_LOOP_TROUBLE === 'allowed' ? environment.COPPER_LOOP_TROUBLE_CLOCK : undefined
  if (!file) return undefined
  return () => {
    try {
      return Date.now() + Number(readFileSync(file, 'utf8'))
    } catch {
      return Date.now()
    }
  }
}

import { createHash } from 'node:crypto'
import { errorSentence, reportOf } from '@/base/errors'
import { scanIntake } from '@/files/scan'
import { foldersOf as intakeFolders, type Loop } from '@/jobs/loop'
import { lastDue } from '@/jobs/schedule'
import type { Database } from '@/store/database'
import * as loopStore from '@/store/loops'
import { hasOpenRun } from '@/store/runs'
import * as store from '@/store/standing-starts'
import type { Context } from './context'
import { startOverNew } from './runs/start'

/** An intake counts as quiet when nothing has changed in it between two looks; looks are at least this far apart. */
const minCheckMs = 4_000
/** Looking at intakes may take this share of the time, however many files they hold. */
const checkShare = 0.05

/** A loop that could not start is tried again after this long. */
const restAfterProblemMs = 60_000

/** What lies in an intake, and how long it took to look. */
export interface IntakeStamp {
  readonly value: string
  readonly tookMs: number
}

/** What a look at standing loops needs of their folders. */
export interface LoopFolders {
  /** What lies in a loop's intake, as one value that changes with it. */
  stamp(loop: Loop): Promise<IntakeStamp>
  /** Starts a loop over what it has not delivered yet. Nothing new is no problem. */
  start(loop: Loop): Promise<unknown>
}

/** When something is looked at, and by whom. */
interface Moment {
  readonly db: Database
  readonly now: number
  readonly folders: LoopFolders
}

/**
 * Starts loops that start by themselves: at their times, and once new pictures lie in their intake. A loop whose last
 * run is not over is left until it is. What can't start is noted in words and stops nothing else; and a loop whose
 * folder gives no answer keeps no other waiting.
 */
export class StandingStarts {
  private readonly intakes = new Map<string, string>()
  private readonly restUntil = new Map<string, number>()
  private readonly looking = new Set<string>()

  /** Looks at all loops; ready once it has looked at those that nobody is still looking at. */
  async check(context: Context, now: number = Date.now(), folders: LoopFolders = foldersOf(context)): Promise<void> {
    const due = loopStore
      .listLoops(context.db)
      .filter((loop) => loop.start.when !== 'byHand' && !this.looking.has(loop.id) && !hasOpenRun(context.db, loop.id))
    await Promise.all(due.map((loop) => this.checkLoop(context, loop, now, folders)))
  }

  private async checkLoop({ db }: Context, loop: Loop, now: number, folders: LoopFolders): Promise<void> {
    this.looking.add(loop.id)
    try {
      if (loop.start.when === 'atTimes') await this.checkClock(loop, loop.start, { db, now, folders })
      else await this.checkIntake(loop, { db, now, folders })
    } catch (error) {
      this.restUntil.set(loop.id, now + minCheckMs)
      const before = store.findStart(db, loop.id) ?? { loopId: loop.id, dueAt: now, intakeSeen: null, problem: null }
      const problem = errorSentence(reportOf(error))
      if (problem !== before.problem) store.noteStart(db, { ...before, problem })
    } finally {
      this.looking.delete(loop.id)
    }
  }

  private async checkClock(loop: Loop, start: Extract<Loop['start'], { when: 'atTimes' }>, { db, now, folders }: Moment): Promise<void> {
    const known = store.findStart(db, loop.id)
    const due = lastDue(start, now)
    // From when it is switched on: a time that has passed by then is not made up for.
    if (!known) return store.noteStart(db, { loopId: loop.id, dueAt: now, intakeSeen: null, problem: null })
    if (due === undefined || due <= known.dueAt) return
    store.noteStart(db, { ...known, dueAt: due, problem: await problemOfStarting(loop, folders) })
  }

  private async checkIntake(loop: Loop, { db, now, folders }: Moment): Promise<void> {
    if (now < (this.restUntil.get(loop.id) ?? 0)) return
    const { value: seen, tookMs } = await folders.stamp(loop)
    this.restUntil.set(loop.id, now + Math.max(minCheckMs, tookMs / checkShare))
    const isQuiet = this.intakes.get(loop.id) === seen
    this.intakes.set(loop.id, seen)
    const known = store.findStart(db, loop.id)
    if (!isQuiet || known?.intakeSeen === seen) return
    const problem = await problemOfStarting(loop, folders)
    if (problem) this.restUntil.set(loop.id, now + restAfterProblemMs)
    store.noteStart(db, { loopId: loop.id, dueAt: now, intakeSeen: problem ? null : seen, problem })
  }
}

/** The folders as this process itself sees them. */
const foldersOf = (context: Context): LoopFolders => ({
  stamp: (loop) => intakeStamp(context, loop),
  start: (loop) => startOverNew(context, loop),
})

/** Starts a loop; says why where it can't. */
async function problemOfStarting(loop: Loop, folders: LoopFolders): Promise<string | null> {
  try {
    await folders.start(loop)
    return null
  } catch (error) {
    return errorSentence(reportOf(error))
  }
}

/** Another content of the intake, or another loop, is another stamp. */
export async function intakeStamp(context: Context, loop: Loop, onProgress?: () => void): Promise<IntakeStamp> {
  const began = performance.now()
  const hash = createHash('sha1').update(JSON.stringify([loop.intake, loop.macros, loop.deliveries]))
  for (const folder of intakeFolders(loop.intake)) {
    const { found } = await scanIntake({ ...loop.intake, folder: context.roots.check(folder) }, onProgress)
    for (const { path, sizeBytes, modifiedMs } of found) hash.update(`${path}\0${sizeBytes}\0${modifiedMs}\n`)
  }
  return { value: hash.digest('hex'), tookMs: performance.now() - began }
}

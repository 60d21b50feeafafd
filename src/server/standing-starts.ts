import { createHash } from 'node:crypto'
import { errorSentence, reportOf } from '@/core/errors'
import { foldersOf, type Loop } from '@/core/loop'
import { lastDue } from '@/core/schedule'
import * as loopStore from '@/db/loops'
import { hasOpenRun } from '@/db/runs'
import * as store from '@/db/standing-starts'
import { scanIntake } from '@/pictures/scan'
import type { Context } from './context'
import { startOverNew } from './runs'

/** An intake counts as quiet when nothing has changed in it between two looks; looks are at least this far apart. */
const leastLookMs = 4_000
/** Looking at intakes may take this share of the time, however many files they hold. */
const lookShare = 0.05

/** A loop that could not start is tried again after this long. */
const restAfterProblemMs = 60_000

/**
 * Starts loops that start by themselves: at their times, and once new pictures lie in their intake. A loop whose last
 * run is not over is left until it is. What can't start is noted in words and stops nothing else.
 */
export class StandingStarts {
  private readonly intakes = new Map<string, string>()
  private readonly restUntil = new Map<string, number>()

  async look(context: Context, now: number = Date.now()): Promise<void> {
    for (const loop of loopStore.listLoops(context.db)) {
      if (loop.start.when === 'byHand' || hasOpenRun(context.db, loop.id)) continue
      try {
        if (loop.start.when === 'atTimes') await this.lookAtClock(context, loop, loop.start, now)
        else await this.lookAtIntake(context, loop, now)
      } catch (error) {
        this.restUntil.set(loop.id, now + leastLookMs)
        const before = store.findStart(context.db, loop.id) ?? { loopId: loop.id, dueAt: now, intakeSeen: null, problem: null }
        const problem = errorSentence(reportOf(error))
        if (problem !== before.problem) store.noteStart(context.db, { ...before, problem })
      }
    }
  }

  private async lookAtClock(context: Context, loop: Loop, start: Extract<Loop['start'], { when: 'atTimes' }>, now: number): Promise<void> {
    const known = store.findStart(context.db, loop.id)
    const due = lastDue(start, now)
    // From when it is switched on: a time that has passed by then is not made up for.
    if (!known) return store.noteStart(context.db, { loopId: loop.id, dueAt: now, intakeSeen: null, problem: null })
    if (due === undefined || due <= known.dueAt) return
    store.noteStart(context.db, { ...known, dueAt: due, problem: await problemOfStarting(context, loop) })
  }

  private async lookAtIntake(context: Context, loop: Loop, now: number): Promise<void> {
    if (now < (this.restUntil.get(loop.id) ?? 0)) return
    const began = performance.now()
    const seen = await intakeStamp(context, loop)
    const tookMs = performance.now() - began
    this.restUntil.set(loop.id, now + Math.max(leastLookMs, tookMs / lookShare))
    const isQuiet = this.intakes.get(loop.id) === seen
    this.intakes.set(loop.id, seen)
    const known = store.findStart(context.db, loop.id)
    if (!isQuiet || known?.intakeSeen === seen) return
    const problem = await problemOfStarting(context, loop)
    if (problem) this.restUntil.set(loop.id, now + restAfterProblemMs)
    store.noteStart(context.db, { loopId: loop.id, dueAt: now, intakeSeen: problem ? null : seen, problem })
  }
}

/** Starts a loop over what it has not delivered yet; says why where it can't. Nothing new is no problem. */
async function problemOfStarting(context: Context, loop: Loop): Promise<string | null> {
  try {
    await startOverNew(context, loop)
    return null
  } catch (error) {
    return errorSentence(reportOf(error))
  }
}

/** Another content of the intake, or another loop, is another stamp. */
async function intakeStamp(context: Context, loop: Loop): Promise<string> {
  const hash = createHash('sha1').update(JSON.stringify([loop.intake, loop.macros, loop.deliveries]))
  for (const folder of foldersOf(loop.intake))
    for (const { path, sizeBytes, modifiedMs } of await scanIntake({ ...loop.intake, folder: context.roots.check(folder) }))
      hash.update(`${path}\0${sizeBytes}\0${modifiedMs}\n`)
  return hash.digest('hex')
}

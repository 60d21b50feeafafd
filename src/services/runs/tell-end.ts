import { spawn } from 'node:child_process'
import { mkdir, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { log } from '@/processes/log'
import type { StoredRun } from '@/store/runs'
import type { Context } from '../context'
import { runReport } from './report'

/** The program that is started when a run is over: named where Copper Loop is started, and nowhere else. No page can set it. */
export const programAtEnd = (environment: NodeJS.ProcessEnv = process.env): string | null => environment.COPPER_LOOP_AT_END?.trim() || null

/**
 * Starts the program that was named for the end of runs, with the path of the run's report (JSON, under the data folder) as its only argument.
 * It is not waited for; where it can't be started, that is logged. Tries are not told.
 */
export async function tellEnd(context: Context, run: StoredRun, program = programAtEnd()): Promise<void> {
  if (!program || run.isTry) return
  const folder = join(context.dataFolder, 'reports')
  await mkdir(folder, { recursive: true })
  const path = join(folder, `run-${run.number}.json`)
  await writeFile(path, `${JSON.stringify({ ...runReport(context, run.id), state: 'done' }, null, 2)}\n`)
  const child = spawn(program, [path], { stdio: 'ignore', detached: true })
  child.on('error', (error) =>
    log.error({ run: run.number, program, reason: error.message }, 'the program for the end of runs could not be started'),
  )
  child.unref()
}

import { AppError } from '@/base/errors'
import { scanIntake } from '@/files/scan'
import type { Answers } from '@/macros/open'
import type { Context } from '../context'
import { dropFolder } from '../drops'
import { loopById } from '../loops'
import type { Watcher } from '../preflight/intake'
import { startRun } from './start'
import type { RunSummary } from './summary'

/** Runs a loop over what has arrived with a drop. @throws AppError as `startRun` */
export async function runDrop(
  context: Context,
  { loopId, drop, answers }: { loopId: string; drop: string; answers?: Answers },
  watcher: Watcher = {},
): Promise<RunSummary> {
  const { found } = await scanIntake({ folder: dropFolder(context, loopId, drop), subfolders: true })
  if (found.length === 0)
    throw new AppError('loopNotReady', { loop: loopById(context, loopId).name, problem: 'none of what was dropped is a picture.' })
  return startRun(context, loopById(context, loopId), { files: found.map(({ path }) => path), answers }, watcher)
}

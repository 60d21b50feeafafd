import { randomUUID } from 'node:crypto'
import { readdir, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { AppError } from '@/base/errors'
import { present } from '@/base/present'
import { answerFolders, withFoldersAsTheyAre } from '@/jobs/folder-questions'
import type { Loop } from '@/jobs/loop'
import type { Answers } from '@/macros/open'
import { type Context, triesFolder } from '../context'
import type { Watcher } from '../preflight/intake'
import { preflight } from '../preflight/preflight'
import { startRun } from './start'
import type { RunSummary } from './summary'

/** How many pictures are tried: the first that can be read, the last, and the one between. */
const tried = 3
/** Results of older tries are removed. */
const keptTries = 5

/**
 * Runs a loop over three of its pictures into a folder of the application's own: real files, by the real way, and the loop's
 * deliveries stay untouched.
 * @throws AppError `loopNotReady`
 */
export async function tryLoop(context: Context, asked: Loop, answers: Answers = {}, watcher: Watcher = {}): Promise<RunSummary> {
  const loop = withFoldersAsTheyAre(answerFolders(asked, answers))
  const check = await preflight(context, loop, { answers }, watcher)
  const readable = check.pictures.filter(({ error }) => error === null).map(({ sourcePath }) => sourcePath)
  if (readable.length === 0) throw new AppError('loopNotReady', { loop: loop.name, problem: 'none of its pictures can be read.' })
  const indices = Array.from({ length: tried }, (_, i) => Math.round((i * (readable.length - 1)) / (tried - 1)))
  const files = [...new Set(indices)].map((area) => present(readable[area]))
  await clearOld(context)
  const folder = join(triesFolder(context.dataFolder), randomUUID())
  const deliveries = loop.deliveries.map((delivery, i) => ({ ...delivery, folder: join(folder, String(i + 1)) }))
  return startRun(
    context,
    { ...loop, name: `Try of ${loop.name}`.slice(0, 120), deliveries },
    { answers, files, isFirst: true, isTry: true },
    watcher,
  )
}

async function clearOld({ dataFolder }: Context): Promise<void> {
  const root = triesFolder(dataFolder)
  const known = await Promise.all(
    (await readdir(root)).map(async (name) => ({ path: join(root, name), time: (await stat(join(root, name))).mtimeMs })),
  )
  for (const { path } of known.toSorted((a, b) => b.time - a.time).slice(keptTries - 1)) await rm(path, { recursive: true, force: true })
}

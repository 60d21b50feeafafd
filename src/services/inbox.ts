import { randomUUID } from 'node:crypto'
import { link, mkdir, readdir, rm, stat, statfs } from 'node:fs/promises'
import { extname, join } from 'node:path'
import { AppError, systemCode } from '@/base/errors'
import { formatBytes } from '@/base/format'
import { readFacts } from '@/files/facts'
import { fitName, safeSegment } from '@/files/safe-names'
import { scanIntake } from '@/files/scan'
import { isPictureName } from '@/jobs/picture-names'
import { isOver } from '@/jobs/run'
import { listItemsBriefly, queuedRuns } from '@/store/runs'
import { readSetting, writeSetting } from '@/store/settings'
import { type Context, inboxFolder } from './context'
import { dropFolder, dropOf } from './drops'
import { loopById } from './loops'

/*
 * Pictures that were dropped onto a loop lie in its inbox, each drop in a folder of its own: inbox/LOOP/DROP/…. They are the application's own
 * copies; nobody's folder is touched. Only whole files come there: each arrives among the uploads, is looked at, and is linked to its place.
 */

export const maxInboxBytes = 2 ** 31 - 1
/** Folders within each other that a drop may have. */
const deepest = 20
/** Room that has to stay on the disk. */
const sparedBytes = 500e6

/** A drop that is about to arrive. @throws AppError `notFound`, `inboxFull` where the disk has too little room */
export async function openDrop(context: Context, loopId: string, bytes: number): Promise<{ readonly drop: string }> {
  loopById(context, loopId)
  const { bavail, bsize } = await statfs(context.dataFolder)
  const free = bavail * bsize
  if (bytes + sparedBytes > free) throw new AppError('inboxFull', { wanted: formatBytes(bytes), free: formatBytes(free) })
  const drop = randomUUID()
  await mkdir(dropFolder(context, loopId, drop), { recursive: true })
  return { drop }
}

/** A file of a drop, arrived whole. */
export interface Arrived {
  readonly loopId: string
  readonly drop: string
  /** Its path within the drop, with `/`. */
  readonly name: string
  /** Where it lies until it counts. */
  readonly upload: string
}

/**
 * Takes an arrived file into the inbox if it is a picture, under a name that every system takes; beside one of the same name it is numbered.
 * @throws AppError `notAPicture` and what else keeps one from being read; `badRequest`
 */
export async function takeIntoInbox(context: Context, { loopId, drop, name, upload }: Arrived): Promise<{ readonly path: string }> {
  if (!isPictureName(name)) throw new AppError('notAPicture', { path: name })
  await readFacts(upload, name)
  const folder = dropFolder(context, loopId, drop)
  if (!(await stat(folder).catch(() => undefined))) throw new AppError('notFound', { what: 'The drop' })
  const segments = name.split('/').filter(Boolean).slice(-deepest).map(safeSegment)
  const file = segments.pop() ?? '_'
  const within = join(folder, ...segments.map((segment) => fitName(segment, '')))
  await mkdir(within, { recursive: true })
  const suffix = extname(file)
  for (let number = 1; ; number++) {
    const path = join(within, fitName(file.slice(0, file.length - suffix.length), `${number > 1 ? `-${number}` : ''}${suffix}`))
    try {
      await link(upload, path)
      return { path }
    } catch (error) {
      if (systemCode(error) !== 'EEXIST') throw error
    }
  }
}

/** Takes away a drop that is not wanted after all. */
export const forgetDrop = (context: Context, loopId: string, drop: string): Promise<void> =>
  rm(dropFolder(context, loopId, drop), { recursive: true, force: true })

/** What lies in all inboxes. */
export interface InboxState {
  readonly pictures: number
  readonly bytes: number
  /** Drops older than so many days go by themselves; null: none does. */
  readonly keptDays: number | null
}

export async function inboxState({ db, dataFolder }: Pick<Context, 'db' | 'dataFolder'>): Promise<InboxState> {
  const { found } = await scanIntake({ folder: inboxFolder(dataFolder), subfolders: true })
  return { pictures: found.length, bytes: found.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0), keptDays: keptDaysOf(db) }
}

const keptDaysOf = (db: Context['db']): number | null => readSetting<number | null>(db, 'inboxDays') ?? null
export const keepInboxFor = ({ db }: Pick<Context, 'db'>, days: number | null): void => writeSetting(db, 'inboxDays', days)

/** Removes drops, all or those older than some days; those that a run has still to work on stay. */
export async function clearInbox(context: Pick<Context, 'db' | 'dataFolder'>, olderThanDays = 0): Promise<void> {
  const root = inboxFolder(context.dataFolder)
  const inUse = new Set(
    queuedRuns(context.db)
      .filter(({ state }) => !isOver(state))
      .flatMap(({ id }) => listItemsBriefly(context.db, id).flatMap(({ sourcePath }) => dropOf(context, sourcePath) ?? [])),
  )
  for (const loop of await readdir(root))
    for (const drop of await readdir(join(root, loop)).catch(() => [])) {
      const folder = join(root, loop, drop)
      const known = await stat(folder).catch(() => undefined)
      const isOld = known !== undefined && Date.now() - known.mtimeMs >= olderThanDays * 24 * 3600 * 1000
      if (isOld && !inUse.has(folder)) await rm(folder, { recursive: true, force: true })
    }
}

/** Does as Settings say with what has lain in the inboxes for long; nothing unless they say so. */
export async function clearOldInbox(context: Pick<Context, 'db' | 'dataFolder'>): Promise<void> {
  const days = keptDaysOf(context.db)
  if (days !== null) await clearInbox(context, days)
}

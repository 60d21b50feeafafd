import { mkdir, readdir, stat } from 'node:fs/promises'
import { join } from 'node:path'
import dayjs from 'dayjs'
import { AppError, reasonOf } from '@/base/errors'
import { copyDatabase, problemOfCopy, takeOver } from '@/store/backups'
import type { Context } from './context'

/** A copy of the database. */
export interface Backup {
  readonly name: string
  readonly bytes: number
  /** ms since 1970. */
  readonly madeAt: number
}

const backupFolder = (dataFolder: string): string => join(dataFolder, 'backups')

/** Newest first. */
export async function listBackups({ dataFolder }: Pick<Context, 'dataFolder'>): Promise<Backup[]> {
  const folder = backupFolder(dataFolder)
  const names = (await readdir(folder).catch(() => [])).filter((name) => name.endsWith('.sqlite'))
  const known = names.map(async (name) => {
    const { size, mtimeMs } = await stat(join(folder, name))
    return { name, bytes: size, madeAt: Math.floor(mtimeMs) }
  })
  return (await Promise.all(known)).toSorted((a, b) => b.madeAt - a.madeAt || (a.name < b.name ? 1 : -1))
}

/** Makes a copy of the database beside it, while everything goes on. */
export async function makeBackup({ db, dataFolder }: Context, why = ''): Promise<void> {
  const folder = backupFolder(dataFolder)
  await mkdir(folder, { recursive: true })
  await copyDatabase(db, join(folder, `copper-loop-${dayjs().format('YYYY-MM-DD-HHmmss-SSS')}${why}.sqlite`))
}

/**
 * Puts a copy in the place of all that is in the database now, of which a copy is made first. Runner and pages go on.
 * What pictures of a run that goes on have delivered since is found there and kept.
 * @throws AppError `notFound`, `backupDamaged`
 */
export async function restoreBackup(context: Context, name: string, migrationsFolder?: string): Promise<void> {
  const known = (await listBackups(context)).find((backup) => backup.name === name)
  if (!known) throw new AppError('notFound', { what: 'The copy' })
  const path = join(backupFolder(context.dataFolder), name)
  const reason = whyNot(context, path)
  if (reason) throw new AppError('backupDamaged', { path, reason })
  await makeBackup(context, '-before-going-back')
  await takeOver(context.dataFolder, path, migrationsFolder)
}

function whyNot({ db }: Context, path: string): string | undefined {
  try {
    return problemOfCopy(db, path)
  } catch (error) {
    return reasonOf(error)
  }
}

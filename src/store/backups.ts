import { copyFileSync, mkdirSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import BetterSqlite from 'better-sqlite3'
import { type Database, databaseFile, openDatabase } from './database'
import { releaseItems } from './queue'

/** A consistent copy, by SQLite's own backup, while everything goes on. */
export const copyDatabase = (db: Database, path: string): Promise<unknown> => db.$client.backup(path)

/** Why a file can't take the place of this database; undefined when it can. */
export function problemOfCopy(db: Database, path: string): string | undefined {
  const copy = new BetterSqlite(path, { readonly: true })
  try {
    const whole = copy.pragma('integrity_check', { simple: true })
    if (whole !== 'ok') return String(whole)
    const migrations = 'select count(*) from __drizzle_migrations'
    const [theirs, ours] = [copy, db.$client].map((each) => Number(each.prepare(migrations).pluck().get()))
    return (theirs ?? 0) > (ours ?? 0) ? 'it was made by a newer Copper Loop' : undefined
  } finally {
    copy.close()
  }
}

/**
 * Takes a copy over into the live database of a data folder. It is brought to the newest schema beside it, and pictures
 * that were in work go back in line; then SQLite writes all of it in one transaction, whoever else has it open.
 */
export async function takeOver(dataFolder: string, path: string, migrationsFolder?: string): Promise<void> {
  const beside = join(dataFolder, 'restoring')
  try {
    mkdirSync(beside, { recursive: true })
    copyFileSync(path, databaseFile(beside))
    const copy = openDatabase(beside, migrationsFolder)
    try {
      releaseItems(copy)
      await copy.$client.backup(databaseFile(dataFolder))
    } finally {
      copy.$client.close()
    }
  } finally {
    rmSync(beside, { recursive: true, force: true })
  }
}

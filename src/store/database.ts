import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import BetterSqlite from 'better-sqlite3'
import { type BetterSQLite3Database, drizzle } from 'drizzle-orm/better-sqlite3'
import { migrate } from 'drizzle-orm/better-sqlite3/migrator'
import * as schema from './schema'

export type Database = BetterSQLite3Database<typeof schema> & { readonly $client: BetterSqlite.Database }

/** How long a statement waits for another process's write before it fails. */
const busyTimeoutMs = 10_000
/** A process that only starts waits longer: others may be migrating, or writing a log back to a slow disk. */
const openingTimeoutMs = 60_000

export const databaseFile = (dataFolder: string): string => join(dataFolder, 'copper-loop.sqlite')

/** Opens (and, if needed, creates and migrates) the database in a data folder. Web and runner share it in WAL mode. */
export function openDatabase(dataFolder: string, migrationsFolder = join(process.cwd(), 'src/store/migrations')): Database {
  mkdirSync(dataFolder, { recursive: true })
  const client = new BetterSqlite(databaseFile(dataFolder))
  client.pragma(`busy_timeout = ${openingTimeoutMs}`)
  client.pragma('journal_mode = WAL')
  client.pragma('synchronous = NORMAL')
  client.pragma('foreign_keys = ON')
  const database = drizzle(client, { schema }) as Database
  client.transaction(() => undefined).immediate()
  migrate(database, { migrationsFolder })
  client.pragma(`busy_timeout = ${busyTimeoutMs}`)
  return database
}

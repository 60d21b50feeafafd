import { eq } from 'drizzle-orm'
import type { Database } from './database'
import { settings } from './schema'

export function readSetting<T>(db: Database, key: string): T | undefined {
  return db.select().from(settings).where(eq(settings.key, key)).get()?.value as T | undefined
}

export function writeSetting(db: Database, key: string, value: unknown): void {
  db.insert(settings).values({ key, value }).onConflictDoUpdate({ target: settings.key, set: { value } }).run()
}

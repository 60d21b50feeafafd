import { and, eq } from 'drizzle-orm'
import type { Database } from './database'
import { pictureNumbers } from './schema'

export type PictureNumber = typeof pictureNumbers.$inferSelect

/** All numbers that a loop's pictures have in one of its sets. */
export const numbersOf = (db: Database, loopId: string, numberSet: number): PictureNumber[] =>
  db
    .select()
    .from(pictureNumbers)
    .where(and(eq(pictureNumbers.loopId, loopId), eq(pictureNumbers.numberSet, numberSet)))
    .all()

/** Keeps numbers that were given for the first time; one that a picture has already stays. */
export function keepNumbers(db: Pick<Database, 'insert'>, numbers: readonly PictureNumber[]): void {
  for (const number of numbers) db.insert(pictureNumbers).values(number).onConflictDoNothing().run()
}

import { notInArray } from 'drizzle-orm'
import type { StationState } from '@/jobs/station'
import type { Database } from './database'
import { stations } from './schema'

/** In whose name pictures are claimed that go to stations: a row among the runners. */
export const stationsName = 'stations'

export type StoredStation = typeof stations.$inferSelect

/** Notes who is at work; stations that are not named any more are forgotten. */
export function noteStations(db: Database, known: readonly (StationState & { readonly id: string; readonly heardAt: number })[]): void {
  db.transaction(
    (tx) => {
      for (const { id, heardAt, ...sign } of known)
        tx.insert(stations).values({ id, sign, heardAt }).onConflictDoUpdate({ target: stations.id, set: { sign, heardAt } }).run()
      tx.delete(stations)
        .where(
          notInArray(
            stations.id,
            known.map(({ id }) => id),
          ),
        )
        .run()
    },
    { behavior: 'immediate' },
  )
}

export const listStations = (db: Database): StoredStation[] => db.select().from(stations).all()

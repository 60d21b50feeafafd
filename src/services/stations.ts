import { randomBytes, randomUUID, timingSafeEqual } from 'node:crypto'
import type { StationState } from '@/jobs/station'
import { listRunners } from '@/store/queue'
import { readSetting, writeSetting } from '@/store/settings'
import { listStations, stationsName } from '@/store/stations'
import type { Context } from './context'

/** A station that was not heard for so long is away. */
const awayMs = 10_000

export interface StationView extends StationState {
  readonly id: string
  readonly heardAt: number
  readonly isAway: boolean
}

export interface StationsView {
  readonly stations: readonly StationView[]
  /** Why stations can't be given pictures now, in words. */
  readonly trouble: string | null
}

/** Other machines that work on this one's pictures: those at work first, by name. */
export function stationsView({ db }: Pick<Context, 'db'>, now = Date.now()): StationsView {
  const stations = listStations(db)
    .map(({ id, sign, heardAt }) => ({ ...sign, id, heardAt, isAway: now - heardAt > awayMs }))
    .toSorted((a, b) => Number(a.isAway) - Number(b.isAway) || a.name.localeCompare(b.name) || a.id.localeCompare(b.id))
  return { stations, trouble: listRunners(db).find(({ id }) => id === stationsName)?.trouble ?? null }
}

interface StationSetting {
  /** By which stations know this application again. */
  readonly application: string
  /** Opens the files kept with macros to stations. */
  readonly secret: string
}

const settingKey = 'stations'

/** Made once, when stations are asked for the first time. */
export function stationSetting({ db }: Pick<Context, 'db'>): StationSetting {
  const known = readSetting<StationSetting>(db, settingKey)
  if (known) return known
  const made = { application: randomUUID().slice(0, 8), secret: randomBytes(32).toString('base64url') }
  writeSetting(db, settingKey, made)
  return made
}

/** Whether a request's word opens the files kept with macros. Nothing does where stations were never asked for. */
export function isStationsWord({ db }: Pick<Context, 'db'>, authorization: string | undefined): boolean {
  const known = readSetting<StationSetting>(db, settingKey)
  if (!known || !authorization) return false
  const [said, wanted] = [Buffer.from(authorization), Buffer.from(`Bearer ${known.secret}`)]
  return said.length === wanted.length && timingSafeEqual(said, wanted)
}

import type { Redis } from 'ioredis'
import type { Build } from './build'
import { type MainSign, readMainSign, readStationSign, type StationSign } from './messages'
import { mainKey, stationsKey, timeOf, within } from './redis'

/** A main machine that is silent for longer is away, and another may take its place. */
const mainAwayMs = 15_000
/** A station that is silent for longer gets no more pictures. */
export const stationAwayMs = 10_000
/** One that is silent for longer is forgotten. */
const forgetStationMs = 3_600_000
const patienceMs = 5_000
const secondMain =
  'Another Copper Loop uses the same Redis for its stations. Give each its own database there: the number at the end of its address.'

export interface SignBoardOptions {
  readonly redis: Redis
  /** Which application this is. */
  readonly application: string
  readonly build: Build
  /** What stations should know of this machine. */
  readonly sign: () => Pick<MainSign, 'roots' | 'addresses' | 'secret'>
  /** What stations say of themselves; each time that it was asked for. */
  readonly onStations?: (stations: readonly StationSign[]) => void
}

/** Where the main machine says that it is here, and hears which stations are. */
export class SignBoard {
  private stations: readonly StationSign[] = []

  constructor(private readonly options: SignBoardOptions) {}

  /** Pictures that the stations can work on at a time. */
  get workers(): number {
    return this.stations.reduce((sum, { workers, trouble }) => sum + (trouble === null ? workers : 0), 0)
  }

  /** @returns why this machine must keep still, in words: of two on one Redis the second one does */
  async give(): Promise<string | null> {
    const { redis, application, build, sign } = this.options
    const there = await this.mainThere()
    if (there !== undefined && there.application !== application) return secondMain
    const said: MainSign = { application, build: build.id, version: build.version, ...sign(), at: Date.now() }
    await within(patienceMs, redis.set(mainKey, JSON.stringify(said), 'PX', mainAwayMs))
    await this.hear()
    return null
  }

  /** This machine leaves: another may take its place. */
  async takeDown(): Promise<void> {
    const there = await this.mainThere()
    if (there?.application === this.options.application) await within(patienceMs, this.options.redis.del(mainKey))
  }

  private async hear(): Promise<void> {
    const { redis, onStations } = this.options
    const now = await within(patienceMs, timeOf(redis))
    const all = Object.values(await within(patienceMs, redis.hgetall(stationsKey))).flatMap((text) => readStationSign(text) ?? [])
    const silentFor = ({ at }: StationSign): number => now - at
    const forgotten = all.filter((station) => silentFor(station) >= forgetStationMs).map(({ id }) => id)
    if (forgotten.length > 0) await within(patienceMs, redis.hdel(stationsKey, ...forgotten))
    this.stations = all.filter((station) => silentFor(station) < stationAwayMs)
    const known = all.filter((station) => silentFor(station) < forgetStationMs)
    // By this machine's own clock, which pages go by.
    onStations?.(known.map((station) => ({ ...station, at: Date.now() - silentFor(station) })))
  }

  private async mainThere(): Promise<MainSign | undefined> {
    return readMainSign(await within(patienceMs, this.options.redis.get(mainKey)))
  }
}

import { join } from 'node:path'
import sharp from 'sharp'
import type { TestApplication } from '../application'
import { RedisServer } from '../redis-server'
import { childrenOf, type RunningApplication, startApplication } from '../web-process'
import type { Host } from './network'
import { Station, type StationOptions } from './station-process'

const leaseMs = '5000'
const password = 'for-tests-only'

/** So many pictures that all differ, large enough to take a moment each. */
export async function fillDiffering(app: TestApplication, count: number): Promise<void> {
  const from = await sharp('demo/pictures/vessels/TLK27_0418.jpg').resize(1300).toBuffer()
  for (let i = 0; i < count; i++)
    await sharp(from)
      .extract({ left: i, top: i, width: 900, height: 560 })
      .jpeg({ quality: 90 })
      .toFile(join(app.intake, `picture-${i + 1}.jpg`))
}

const startMain = (app: TestApplication, server: RedisServer): Promise<RunningApplication> =>
  startApplication({
    ...app.environment,
    COPPER_LOOP_REDIS: server.url,
    COPPER_LOOP_LEASE_MS: leaseMs,
    COPPER_LOOP_WORKERS: '0',
    COPPER_LOOP_HOST: '0.0.0.0',
    COPPER_LOOP_PASSPHRASE: 'twelve letters and more',
  })

/** A main machine that works on no picture itself, its Redis, and its stations. */
export class Studio {
  readonly stations: Station[] = []

  private constructor(
    readonly app: TestApplication,
    readonly server: RedisServer,
    public application: RunningApplication,
  ) {}

  static async open(app: TestApplication): Promise<Studio> {
    const server = await RedisServer.start({ bind: '0.0.0.0', password, keeps: true })
    const application = await startMain(app, server)
    return new Studio(app, server, application)
  }

  /** Pulls the main machine's plug: everything of it at once; and starts it anew. */
  async restartMain(): Promise<void> {
    const { supervisor } = this.application
    const pids = [supervisor.pid ?? 0, ...childrenOf(supervisor.pid ?? 0).map(({ pid }) => pid)]
    for (const pid of pids) process.kill(pid, 'SIGKILL')
    this.application = await startMain(this.app, this.server)
  }

  /** Starts a station, on a host of its own if one is given. */
  station({ host, ...options }: Partial<StationOptions> & { readonly host?: Host } = {}): Station {
    const redis = `redis://:${password}@${host?.mainAddress ?? '127.0.0.1'}:${this.server.port}`
    const station = new Station({ redis, roots: [this.app.root], host, environment: { COPPER_LOOP_LEASE_MS: leaseMs }, ...options })
    station.start()
    this.stations.push(station)
    return station
  }

  async close(): Promise<void> {
    await Promise.all(this.stations.map((station) => station.kill()))
    await this.application.stop()
    await this.server.close()
  }
}

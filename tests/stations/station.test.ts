import { execFileSync } from 'node:child_process'
import { cpSync, mkdirSync, mkdtempSync, readdirSync, rmSync, symlinkSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Redis } from 'ioredis'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { intakeOf } from '@/jobs/loop'
import { buildIn } from '@/runner/stations/build'
import type { MainSign } from '@/runner/stations/messages'
import { connect, mainKey } from '@/runner/stations/redis'
import { signOf } from '@/runner/stations/root-signs'
import { droppedFolder } from '@/services/context'
import { goOnWithRun, pauseRun, stopRun } from '@/services/runs/control'
import { startRun } from '@/services/runs/start'
import { stationsView } from '@/services/stations'
import { listItems } from '@/store/runs'
import { quickSteps, type TestApplication, testApplication, testLoop } from '../application'
import { RedisServer } from '../redis-server'
import { isDone, pause, runUntil } from '../runner-process'
import { soak } from '../soak'
import { Host } from './network'
import { Station } from './station-process'
import { fillDiffering, Studio } from './studio'

const closing: (() => unknown)[] = []
afterEach(async () => {
  for (const close of closing.splice(0).reverse()) await close()
})

const emptyFolder = (): string => mkdtempSync(join(tmpdir(), 'copper-loop-folder-'))

describe('a station refuses in a sentence', () => {
  let server: RedisServer
  let redis: Redis
  const shared = emptyFolder()
  beforeAll(async () => {
    server = await RedisServer.start({ password: 'right' })
    redis = new Redis(server.url)
  })
  afterAll(async () => {
    redis.disconnect()
    await server.close()
  })
  /** A main machine that says of itself what it should not. */
  const mainSays = async (part: Partial<MainSign> = {}): Promise<void> => {
    const { id, version } = buildIn('.build')
    const roots = [{ path: '/srv/pictures', real: '/data/pictures', sign: await signOf(shared) }]
    const addresses = ['http://127.0.0.1:9']
    const sign: MainSign = { application: 'a', build: id, version, roots, addresses, secret: 's', at: Date.now(), ...part }
    await redis.set(mainKey, JSON.stringify(sign))
  }
  const refusal = async (roots: readonly string[], url = server.url): Promise<{ code: number | null; said: string }> => {
    const station = new Station({ redis: url, roots })
    closing.push(() => station.kill())
    station.start()
    return { code: await station.ended(), said: station.said }
  }

  it('a main machine of another version, or of another build', async () => {
    await mainSays({ version: '0.0.1', build: 'x' })
    expect(await refusal([`${shared}=/srv/pictures`])).toMatchObject({
      code: 78,
      said: expect.stringMatching(/main machine has Copper Loop 0\.0\.1, this station .*Bring both to the same version/),
    })
    await mainSays({ build: 'x' })
    expect((await refusal([`${shared}=/srv/pictures`])).said).toMatch(/was built from other code than this one \(x, here [0-9a-f]+\)/)
  })
  it('a folder that has no place here, that is another one, or whose sides are exchanged', async () => {
    await mainSays()
    expect((await refusal([emptyFolder()])).said).toMatch(/folder \/srv\/pictures has no place here\. Say where it is: --root/)
    const other = emptyFolder()
    expect((await refusal([`${other}=/srv/pictures`])).said).toMatch(
      new RegExp(`${other} is not the folder that the main machine calls /srv/pictures`),
    )
    expect((await refusal([`/srv/pictures=${shared}`])).said).toMatch(/has no place here/)
  })
  it('a clock that is far off', async () => {
    await mainSays({ at: Date.now() - 3 * 60_000 })
    expect((await refusal([`${shared}=/srv/pictures`])).said).toMatch(/clocks .* are 1[78]\d s apart/)
  })
  it('a main machine that gives no kept files', async () => {
    await mainSays()
    expect((await refusal([`${shared}=/srv/pictures`])).said).toMatch(/does not give its files kept with macros .*COPPER_LOOP_HOST/)
  })
  it('a password that Redis does not take, and never shows one', async () => {
    const { code, said } = await refusal([shared], server.url.replace('right', 'wrong'))
    expect(code).toBe(78)
    expect(said).toMatch(/lets nobody in with that name and password/)
    expect(said).not.toMatch(/wrong/)
  })
  it('words that it does not know', async () => {
    expect(await refusal(['pictures'])).toMatchObject({ code: 64, said: expect.stringMatching(/--root pictures is not \/HERE=\/THERE/) })
    expect((await refusal([shared], 'http://redis')).said).toMatch(/must look like redis:\/\//)
  })
})

describe('an encrypted connection', () => {
  it('is made to a server whose certificate is known, and to no other', async () => {
    const folder = emptyFolder()
    const [key, certificate, other] = ['key.pem', 'own.pem', 'other.pem'].map((name) => join(folder, name)) as [string, string, string]
    for (const file of [other, certificate])
      execFileSync(
        'openssl',
        [
          'req',
          '-x509',
          '-newkey',
          'rsa:2048',
          '-nodes',
          '-days',
          '2',
          '-subj',
          '/CN=localhost',
          '-addext',
          'subjectAltName=IP:127.0.0.1',
          '-keyout',
          key,
          '-out',
          file,
        ],
        { stdio: 'ignore' },
      )
    const server = await RedisServer.start({ password: 'right', tls: { key, certificate } })
    closing.push(() => server.close())
    expect(server.url).toMatch(/^rediss:/)
    const answerWith = async (certificates: string | undefined): Promise<string> => {
      let problem = ''
      const redis = connect({ url: server.url, certificates }, (reason) => (problem = reason))
      try {
        return await Promise.race([redis.ping(), pause(1_500).then(() => problem)])
      } finally {
        redis.disconnect()
      }
    }
    expect(await answerWith(certificate)).toBe('PONG')
    for (const strange of [undefined, other]) expect(await answerWith(strange)).toMatch(/certificate|signature/i)
  })
})

const delivered = (app: TestApplication): string[] => readdirSync(app.delivery).sort()
const namesOf = (count: number): string[] => Array.from({ length: count }, (_, i) => `picture-${i + 1}.jpg`).sort()

describe('a station among others', () => {
  const pictureCount = 30
  /** An application of so many pictures with its stations, each of which calls the shared folder by a name of its own. */
  async function studioOf(stations: number): Promise<{ app: TestApplication; studio: Studio; links: string[] }> {
    const app = testApplication(quickSteps)
    await fillDiffering(app, pictureCount)
    const studio = await Studio.open(app)
    closing.push(() => studio.close())
    const links = Array.from({ length: stations }, () => join(emptyFolder(), 'pictures'))
    for (const [i, link] of links.entries()) {
      symlinkSync(app.root, link)
      studio.station({ name: `station ${i + 1}`, roots: [`${link}=${app.root}`] })
    }
    for (const station of studio.stations) await station.says(/is at work/)
    return { app, studio, links }
  }
  const begin = async (app: TestApplication) => startRun(app.context, testLoop(app))

  it('delivers to the main machine’s folder under another name, and is told of', async () => {
    const { app } = await studioOf(1)
    const run = await begin(app)
    await runUntil(app, run.id, isDone)
    expect(delivered(app)).toEqual(namesOf(pictureCount))
    const items = listItems(app.context.db, run.id)
    expect(items.every(({ state, results }) => state === 'done' && results[0]?.targetPath.startsWith(app.delivery))).toBe(true)
    const told = () => stationsView(app.context).stations
    for (const end = Date.now() + 15_000; told()[0]?.done !== pictureCount && Date.now() < end; ) await pause(100)
    expect(told()).toMatchObject([{ name: 'station 1', workers: 1, trouble: null, isAway: false, done: pictureCount }])
  })

  it('finds a folder that the main machine knows by a link, and leaves to it what lies in its own', async () => {
    const plain = testApplication(quickSteps)
    const named = join(emptyFolder(), 'pictures')
    symlinkSync(plain.root, named)
    const app = { ...plain, environment: { ...plain.environment, COPPER_LOOP_ROOTS: named } }
    await fillDiffering(app, 4)
    const studio = await Studio.open(app)
    closing.push(() => studio.close())
    const here = join(emptyFolder(), 'pictures')
    symlinkSync(app.root, here)
    const station = studio.station({ roots: [`${here}=${named}`] })
    await station.says(/is at work/)
    const run = await begin(app)
    await runUntil(app, run.id, isDone)
    expect(delivered(app)).toEqual(namesOf(4))
    // Pictures that were dropped lie in the application's own folder: it works on them, though it leaves all others to stations.
    const dropped = droppedFolder(app.context.dataFolder)
    cpSync(app.intake, dropped, { recursive: true })
    const own = testLoop(app, { intake: intakeOf(dropped) }, { folder: join(app.root, 'dropped') })
    await runUntil(app, (await startRun(app.context, own)).id, isDone)
    expect(readdirSync(join(app.root, 'dropped')).sort()).toEqual(namesOf(4))
    for (const end = Date.now() + 15_000; stationsView(app.context).stations[0]?.done !== 4 && Date.now() < end; ) await pause(100)
    expect(stationsView(app.context).stations[0]?.done).toBe(4)
  })

  it('that loses the shared folder takes nothing, writes nothing elsewhere, and works again once it is back', soak, async () => {
    const { app, links } = await studioOf(2)
    const run = await begin(app)
    await runUntil(app, run.id, ({ totals }) => totals.done >= 3)
    const [link = ''] = links
    const elsewhere = emptyFolder()
    mkdirSync(join(elsewhere, 'delivered'))
    rmSync(link)
    symlinkSync(elsewhere, link)
    const done = await runUntil(app, run.id, isDone)
    expect(done.totals).toMatchObject({ done: pictureCount, failed: 0 })
    expect(delivered(app)).toEqual(namesOf(pictureCount))
    expect(readdirSync(join(elsewhere, 'delivered'))).toEqual([])
    await pause(4_000)
    expect(stationsView(app.context).stations.map(({ trouble }) => trouble)).toEqual([
      expect.stringMatching(/shared folder is not there/),
      null,
    ])
    rmSync(link)
    symlinkSync(app.root, link)
    await pause(6_000)
    expect(stationsView(app.context).stations.map(({ trouble }) => trouble)).toEqual([null, null])
  })

  it('that freezes loses its picture to another, and changes nothing when it wakes up', soak, async () => {
    const { app, studio } = await studioOf(2)
    const run = await begin(app)
    await runUntil(app, run.id, ({ totals }) => totals.done >= 3)
    const [frozen] = studio.stations
    frozen?.signal('SIGSTOP')
    const done = await runUntil(app, run.id, isDone)
    frozen?.signal('SIGCONT')
    expect(done.totals).toMatchObject({ done: pictureCount, failed: 0 })
    const before = listItems(app.context.db, run.id)
    await pause(3_000)
    expect(listItems(app.context.db, run.id)).toEqual(before)
    expect(delivered(app)).toEqual(namesOf(pictureCount))
  })

  it('that is told to end finishes what it has in hand, and nothing counts against a picture', async () => {
    const { app, studio } = await studioOf(2)
    const run = await begin(app)
    await runUntil(app, run.id, ({ totals }) => totals.done >= 3)
    const [ending] = studio.stations
    process.kill(ending?.pids[0] ?? 0, 'SIGTERM')
    expect(await ending?.ended()).toBe(0)
    await runUntil(app, run.id, isDone)
    const items = listItems(app.context.db, run.id)
    expect(items.every(({ crashes, interruptions, state }) => state === 'done' && crashes === 0 && interruptions === 0)).toBe(true)
    expect(stationsView(app.context).stations.map(({ name }) => name)).toEqual(['station 2'])
  })

  it('begins nothing of a run that is paused, and goes on with it; nothing of one that is stopped', async () => {
    const { app } = await studioOf(1)
    const run = await begin(app)
    await runUntil(app, run.id, ({ totals }) => totals.done >= 2)
    pauseRun(app.context, run.id)
    const paused = await runUntil(app, run.id, ({ totals }) => totals.working === 0)
    await pause(1_000)
    expect(paused.totals.done).toBeLessThan(10)
    expect((await runUntil(app, run.id, () => true)).totals).toEqual(paused.totals)
    goOnWithRun(app.context, run.id)
    await runUntil(app, run.id, ({ totals }) => totals.done >= paused.totals.done + 2)
    stopRun(app.context, run.id)
    const stopped = await runUntil(app, run.id, ({ state, totals }) => state === 'stopped' && totals.working === 0)
    expect(stopped.totals.done + stopped.totals.skipped).toBe(pictureCount)
    expect(delivered(app)).toHaveLength(stopped.totals.done)
  })

  it('whose cable is pulled loses its picture to another, and joins again', soak, async () => {
    const host = Host.make(9)
    if (!host) return
    closing.push(() => host.remove())
    const { app, studio } = await studioOf(1)
    const far = studio.station({ name: 'far', host, roots: [app.root] })
    await far.says(/is at work/)
    const run = await begin(app)
    await runUntil(app, run.id, ({ totals }) => totals.done >= 4)
    host.setCable(false)
    const done = await runUntil(app, run.id, isDone)
    expect(done.totals).toMatchObject({ done: pictureCount, failed: 0 })
    expect(delivered(app)).toEqual(namesOf(pictureCount))
    await pause(10_000)
    expect(stationsView(app.context).stations.map(({ name, isAway }) => [name, isAway])).toEqual([
      ['station 1', false],
      ['far', true],
    ])
    host.setCable(true)
    const end = Date.now() + 60_000
    while (stationsView(app.context).stations.some(({ isAway }) => isAway) && Date.now() < end) await pause(200)
    expect(stationsView(app.context).stations.every(({ isAway }) => !isAway)).toBe(true)
  })
})

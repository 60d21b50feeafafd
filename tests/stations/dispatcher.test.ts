import { setTimeout as pause } from 'node:timers/promises'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import type { Claim } from '@/runner/queue'
import { keyPrefix, mainKey, queueName } from '@/runner/stations/redis'
import type { RedisQueue } from '@/runner/stations/redis-queue'
import { moveRunUp, pauseRun } from '@/services/runs/control'
import { stationsView } from '@/services/stations'
import { listItems } from '@/store/runs'
import { RedisServer } from '../redis-server'
import { build, Dispatched } from './dispatched'

/* What the main machine gives to stations and takes from them, whatever they say. */

let server: RedisServer
beforeAll(async () => {
  server = await RedisServer.start()
})
afterAll(() => server.close())
let opened: Dispatched[] = []
afterEach(async () => {
  for (const each of opened) await each.close()
  opened = []
})
const open = async (
  ...options: Parameters<typeof Dispatched.open> extends [unknown, ...infer Rest] ? Rest : never
): Promise<Dispatched> => {
  const dispatched = await Dispatched.open(server, ...options)
  opened.push(dispatched)
  return dispatched
}

const waitingIn = (dispatched: Dispatched): Promise<number> => dispatched.redis.llen(`${keyPrefix}:${queueName}:wait`)
const statesOf = (dispatched: Dispatched, runId: string) => listItems(dispatched.app.context.db, runId).map(({ state }) => state)
const taken = async (queue: RedisQueue): Promise<Claim> => {
  const claim = await queue.claim()
  if (!claim) throw new Error('Nothing was to be had')
  return claim
}

describe('the dispatcher', () => {
  it('keeps a few pictures ahead of the stations in Redis, however many there are, and takes them back when nobody is there', async () => {
    const dispatched = await open({ workers: 4 })
    const run = await dispatched.addRun(60)
    await dispatched.settle()
    // Four in work and two more for each.
    expect(await waitingIn(dispatched)).toBe(12)
    const queue = dispatched.station()
    const claim = await taken(queue)
    await queue.finish(claim, { state: 'done', milliseconds: 1, delivered: [] })
    await dispatched.settle()
    expect(await waitingIn(dispatched)).toBe(12)
    await dispatched.stationSays({ trouble: 'its folder is gone' })
    await pause(2_200)
    await dispatched.settle()
    expect(await waitingIn(dispatched)).toBe(0)
    expect(statesOf(dispatched, run).filter((state) => state === 'waiting')).toHaveLength(59)
  })

  it('takes back what was given out of a run that is paused, or that three others were moved before', async () => {
    const dispatched = await open()
    const runs: string[] = []
    for (let i = 0; i < 3; i++) runs.push(await dispatched.addRun(20))
    const last = await dispatched.addRun(20)
    await dispatched.settle()
    const { context } = dispatched.app
    const inWork = (id: string): number => statesOf(dispatched, id).filter((state) => state === 'working').length
    const queue = dispatched.station()
    /** Places that have become free go to whoever has the fewest. */
    const go = async (): Promise<void> => {
      for (let i = 0; i < 6; i++) {
        await queue.finish(await taken(queue), { state: 'done', milliseconds: 1, delivered: [] })
        await dispatched.settle()
      }
    }
    await go()
    const third = runs[2] ?? ''
    expect([inWork(third) > 0, inWork(last)]).toEqual([true, 0])
    moveRunUp(context, last)
    await dispatched.settle()
    expect(inWork(third)).toBe(0)
    await go()
    expect(inWork(last)).toBeGreaterThan(0)
    pauseRun(context, last)
    await dispatched.settle()
    expect(inWork(last)).toBe(0)
    await go()
    expect(inWork(third)).toBeGreaterThan(0)
  })

  it('gives out nothing of runs that stations can’t work on, and lets others not wait behind them', async () => {
    const unshared = new Set<string>()
    const dispatched = await open({ claims: { suits: ({ id }) => !unshared.has(id) } })
    // Nothing is given out while the runs are laid.
    await dispatched.stationSays({ workers: 0 })
    await pause(2_200)
    for (let i = 0; i < 3; i++) unshared.add(await dispatched.addRun(2))
    const shared = await dispatched.addRun(2)
    await dispatched.stationSays()
    await pause(2_200)
    for (let i = 0; i < 3; i++) {
      await dispatched.settle()
      expect(statesOf(dispatched, shared)).toEqual(['working', 'working'])
    }
    for (const id of unshared) expect(statesOf(dispatched, id)).toEqual(['waiting', 'waiting'])
    // Claimed once, and not over and over.
    expect(listItems(dispatched.app.context.db, shared).map(({ token }) => token)).toEqual([1, 1])
  })

  it('writes only what a station says of the very picture it was given', async () => {
    const dispatched = await open()
    const run = await dispatched.addRun(2)
    await dispatched.settle()
    const queue = dispatched.station()
    const [first, second] = [await taken(queue), await taken(queue)]
    const result = { sizeBytes: 7, hash: 'a'.repeat(64), width: 1, height: 1, constants: [], traits: {} as never }
    const [own, other] = [first.task.targets[0], second.task.targets[0]]
    const delivered = [
      { ...result, resultId: own?.resultId ?? 0, targetPath: '/etc/passwd' },
      { ...result, resultId: other?.resultId ?? 0, targetPath: '/etc/shadow' },
    ]
    await queue.finish(first, { state: 'done', milliseconds: 1, delivered })
    await dispatched.settle()
    const [done, untouched] = listItems(dispatched.app.context.db, run)
    expect(done).toMatchObject({ state: 'done', results: [{ targetPath: own?.path, sizeBytes: 7 }] })
    expect(untouched).toMatchObject({ state: 'working', results: [{ targetPath: other?.path, sizeBytes: null }] })
  })

  it('gives a picture to another when what a station says of it can’t be read', async () => {
    const dispatched = await open({ options: { leaseMs: 100 } })
    const run = await dispatched.addRun(1)
    await dispatched.settle()
    // Past the time in which nothing is counted against a picture.
    await pause(300)
    const queue = dispatched.station()
    await queue.finish(await taken(queue), { state: 'sold', milliseconds: -1 } as never)
    await dispatched.settle()
    expect(listItems(dispatched.app.context.db, run)).toMatchObject([{ state: 'working', interruptions: 1, token: 2 }])
  })

  it('leaves work for another build alone: the station puts it back, uncounted', async () => {
    const dispatched = await open()
    const run = await dispatched.addRun(1)
    await dispatched.settle()
    expect(await dispatched.station({ build: 'older' }).claim()).toBeUndefined()
    await dispatched.settle()
    expect(listItems(dispatched.app.context.db, run)).toMatchObject([{ interruptions: 0, crashes: 0, token: 2 }])
    expect((await taken(dispatched.station())).task.token).toBe(2)
  })

  it('keeps still where another Copper Loop has this Redis, and says so', async () => {
    const first = await open()
    const second = new Dispatched(server)
    opened.push(second)
    second.dispatcher.start()
    const run = await second.addRun(1)
    await second.settle()
    expect(statesOf(second, run)).toEqual(['waiting'])
    expect(stationsView(second.app.context).trouble).toMatch(/Another Copper Loop uses the same Redis/)
    expect(JSON.parse((await first.redis.get(mainKey)) ?? '{}')).toMatchObject({ application: first.application, build: build.id })
    await first.dispatcher.stop()
    await pause(2_200)
    await second.settle()
    expect(statesOf(second, run)).toEqual(['working'])
    expect(stationsView(second.app.context).trouble).toBeNull()
  })

  it('takes up what it had given out when it begins anew, answers that came meanwhile among it', async () => {
    const dispatched = await open()
    const run = await dispatched.addRun(3)
    await dispatched.settle()
    const queue = dispatched.station()
    const claims = [await taken(queue), await taken(queue)]
    // As if its process had ended: it says nothing, and takes nothing back.
    await dispatched.vanish()
    for (const claim of claims) await queue.finish(claim, { state: 'done', milliseconds: 1, delivered: [] })
    const next = dispatched.again()
    await next.tick()
    expect(listItems(dispatched.app.context.db, run).map(({ state, token }) => [state, token])).toEqual([
      ['done', 1],
      ['done', 1],
      ['working', 1],
    ])
  })
})

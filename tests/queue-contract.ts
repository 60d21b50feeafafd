import { describe, expect, it } from 'vitest'
import type { Claim, WorkQueue } from '@/runner/queue'
import type { ItemOutcome } from '@/store/queue'

/** A queue with a clock that stands still until it is moved on. */
export interface QueueUnderTest {
  /** Another runner's end of the same queue. */
  open(): WorkQueue
  /** Lays a run of so many pictures. @returns its id */
  addRun(pictures: number): Promise<string>
  /** What has become of a run's pictures, in their order: each one's state, how often its worker died, and how long its work took. */
  items(runId: string): Promise<readonly { readonly state: string; readonly crashes: number; readonly milliseconds: number | null }[]>
  stateOf(runId: string): Promise<string>
  moveOn(milliseconds: number): Promise<void>
  /** Pictures that may be given out before anybody asks for them. */
  readonly ahead?: number
}

const done = (milliseconds = 1): ItemOutcome => ({ state: 'done', milliseconds, delivered: [] })
/** Longer than any lease. */
const longMs = 90_000

/** What every queue of pictures keeps to. */
export function describeQueue(name: string, make: () => QueueUnderTest | Promise<QueueUnderTest>): void {
  const claimed = async (queue: WorkQueue): Promise<Claim> => {
    const claim = await queue.claim()
    if (!claim) throw new Error('Nothing was to be had')
    return claim
  }
  const statesOf = async (queue: QueueUnderTest, runId: string): Promise<string[]> => (await queue.items(runId)).map(({ state }) => state)

  describe(name, () => {
    it('gives every picture to one runner, in order', async () => {
      const under = await make()
      const ends = [under.open(), under.open()]
      await under.addRun(7)
      const given: number[] = []
      for (let i = 0; i < 9; i++) {
        const claim = await (ends[i % 2] as WorkQueue).claim()
        if (claim) given.push(claim.task.itemId)
      }
      expect(given).toHaveLength(7)
      expect(new Set(given).size).toBe(7)
      expect(given).toEqual(given.toSorted((a, b) => a - b))
    })
    it('takes an answer once', async () => {
      const under = await make()
      const queue = under.open()
      const run = await under.addRun(1)
      const claim = await claimed(queue)
      await queue.finish(claim, done(5))
      await queue.finish(claim, done(9))
      expect(await under.items(run)).toMatchObject([{ state: 'done', milliseconds: 5 }])
    })
    it('a runner that falls silent loses its picture, and what it says afterwards changes nothing', async () => {
      const under = await make()
      const [silent, other] = [under.open(), under.open()]
      const run = await under.addRun(1)
      const late = await claimed(silent)
      await other.tend(null)
      expect(await other.claim()).toBeUndefined()
      await under.moveOn(longMs)
      await other.tend(null)
      const again = await claimed(other)
      expect(again.task.itemId).toBe(late.task.itemId)
      expect(again.task.token).toBeGreaterThan(late.task.token)
      expect(await other.holds(again)).toBe(true)
      expect(await silent.holds(late)).toBe(false)
      await silent.finish(late, done(3))
      expect(await statesOf(under, run)).toEqual(['working'])
      await silent.giveBack(late)
      expect(await under.items(run)).toMatchObject([{ state: 'working', crashes: 0 }])
      await other.finish(again, done(4))
      expect(await under.items(run)).toMatchObject([{ state: 'done', milliseconds: 4 }])
    })
    it('a runner that gives signs of life keeps its picture, however long it takes', async () => {
      const under = await make()
      const [slow, other] = [under.open(), under.open()]
      await under.addRun(1)
      const claim = await claimed(slow)
      for (let i = 0; i < 5; i++) {
        await slow.tend(null)
        await other.tend(null)
        await under.moveOn(longMs / 3)
      }
      expect(await other.claim()).toBeUndefined()
      await slow.finish(claim, done())
    })
    it('a picture whose worker died is given again, and that is counted', async () => {
      const under = await make()
      const queue = under.open()
      const run = await under.addRun(1)
      await queue.giveBack(await claimed(queue))
      expect(await under.items(run)).toMatchObject([{ crashes: 1 }])
      const again = await claimed(queue)
      expect(again.crashes).toBe(1)
    })
    it('a picture that was put back is as if it had never been taken', async () => {
      const under = await make()
      const queue = under.open()
      const run = await under.addRun(1)
      const first = await claimed(queue)
      await queue.putBack(first)
      expect(await under.items(run)).toMatchObject([{ crashes: 0, milliseconds: null }])
      expect(await queue.holds(first)).toBe(false)
      const again = await claimed(queue)
      expect(again).toMatchObject({ crashes: 0, task: { itemId: first.task.itemId } })
      await queue.finish(first, done(3))
      await queue.finish(again, done(4))
      expect(await under.items(run)).toMatchObject([{ state: 'done', milliseconds: 4 }])
    })
    it('a run that is held up by a fault waits, and goes on by itself', async () => {
      const under = await make()
      const queue = under.open()
      const run = await under.addRun(2)
      await queue.holdUp(await claimed(queue), { code: 'diskFull', details: { path: '/somewhere' } })
      expect(await under.stateOf(run)).toBe('paused')
      expect(await under.items(run)).toMatchObject([{ state: 'waiting', crashes: 0 }, { state: 'waiting' }])
      expect(await queue.claim()).toBeUndefined()
      await queue.tend(null)
      await under.moveOn(longMs)
      await queue.tend(null)
      expect(await queue.claim()).toBeDefined()
    })
    it('runs share the workers turn by turn', async () => {
      const under = await make()
      const queue = under.open()
      // What was given out before the second run came is one run's alone.
      const most = (under.ahead ?? 0) + 1
      const runs = [await under.addRun(most + 2), await under.addRun(most + 2)]
      const given = new Map(runs.map((id) => [id, 0]))
      for (let i = 0; i < 2 * (most + 2); i++) {
        const claim = await claimed(queue)
        given.set(claim.task.runId, (given.get(claim.task.runId) ?? 0) + 1)
        const [first = 0, second = 0] = runs.map((id) => given.get(id))
        expect(Math.abs(first - second)).toBeLessThanOrEqual(most)
        await queue.finish(claim, done())
      }
      expect([...given.values()]).toEqual([most + 2, most + 2])
    })
    it('closes a run of which nothing is left', async () => {
      const under = await make()
      const queue = under.open()
      const run = await under.addRun(1)
      const claim = await claimed(queue)
      await queue.finish(claim, done())
      await queue.tend(null)
      expect(await under.stateOf(run)).toBe('done')
      await queue.leave()
    })
  })
}

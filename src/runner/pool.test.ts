import { resolve } from 'node:path'
import { afterEach, describe, expect, it } from 'vitest'
import { pictureTask } from '../../tests/picture-task'
import { pause } from '../../tests/runner-process'
import type { PictureJob } from './messages'
import { WorkerLostError, WorkerPool } from './pool'

let pool: WorkerPool
afterEach(() => pool.close())

async function ready(size: number, patienceMs = 180_000): Promise<void> {
  pool = new WorkerPool(
    { modulePath: resolve('tests/fixtures/odd-worker.mjs'), maxHeapMb: 64, size, patienceMs },
    { onFree: () => undefined },
  )
  await free(size)
}
/** Waits until this many workers are free. */
async function free(count: number): Promise<void> {
  for (let tries = 0; pool.freeCount < count; tries++) {
    if (tries > 200) throw new Error(`Only ${pool.freeCount} workers became free`)
    await pause(25)
  }
}
const job = (sourcePath: string, itemId = 1): PictureJob => ({ ...pictureTask({ sourcePath, itemId }), roots: [] })

describe('the pool', () => {
  it('works on as many pictures at once as it has workers', async () => {
    await ready(2)
    const both = [pool.run(job('a', 1)), pool.run(job('b', 2))]
    expect(pool.freeCount).toBe(0)
    expect(() => pool.run(job('c', 3))).toThrow(/No worker is free/)
    expect((await Promise.all(both)).map((outcome) => outcome.state)).toEqual(['done', 'done'])
    expect(pool.freeCount).toBe(2)
  })
  it.each([
    ['die', /ended with code 7/],
    ['throw', /ended with code/],
    ['exhaust', /memory limit/],
  ])('replaces a worker that does %s, and only its picture is lost', async (path, reason) => {
    await ready(2)
    const [lost, kept] = await Promise.allSettled([pool.run(job(path, 1)), pool.run(job('fine', 2))])
    expect(kept.status).toBe('fulfilled')
    expect(lost.status === 'rejected' && lost.reason).toBeInstanceOf(WorkerLostError)
    expect(lost.status === 'rejected' && lost.reason.message).toMatch(reason)
    await free(2)
    await expect(pool.run(job('next', 3))).resolves.toMatchObject({ state: 'done' })
  })
  it('keeps more workers or fewer from one moment to the next, and spoils no picture in work', async () => {
    await ready(1)
    pool.resize(3)
    await free(3)
    const working = pool.run(job('slow', 1))
    pool.resize(1)
    expect(pool.freeCount).toBe(0)
    await expect(working).resolves.toMatchObject({ state: 'done' })
    await free(1)
    await pause(50)
    expect(pool.freeCount).toBe(1)
    await expect(pool.run(job('next', 2))).resolves.toMatchObject({ state: 'done' })
  })
  it('replaces a worker that hangs longer than the patience allows', async () => {
    await ready(1, 300)
    await expect(pool.run(job('hang'))).rejects.toThrow(/no answer within/)
    await free(1)
    await expect(pool.run(job('next', 2))).resolves.toMatchObject({ state: 'done' })
  })
})

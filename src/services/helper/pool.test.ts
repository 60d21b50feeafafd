import { resolve } from 'node:path'
import { afterEach, describe, expect, it } from 'vitest'
import { pause } from '../../../tests/runner-process'
import { HelperPool } from './pool'

/* The fixture answers with its own process id; `hang` in an argument holds it up for ever, `die` ends it. */

let pool: HelperPool
const helpers = (patienceMs = 400): HelperPool => {
  pool = new HelperPool({ modulePath: resolve('tests/fixtures/odd-helper.mjs'), patienceMs })
  return pool
}
afterEach(() => pool.close())
const thumbnail = (path: string): Promise<string> => pool.ask('thumbnail', { path, edge: 160 })
const folder = (path: string): Promise<unknown> => pool.ask('listFolder', { path })
const code = (work: Promise<unknown>): Promise<unknown> =>
  work.then(
    () => 'answered',
    (error) => error.code,
  )

describe('helpers', () => {
  it('answer, each one call at a time, and serve again', async () => {
    helpers()
    const [first, again] = [await folder('a'), await folder('b')]
    expect(again).toBe(first)
    const together = await Promise.all(Array.from({ length: 4 }, () => folder('slow')))
    expect(together).toEqual(Array.from({ length: 4 }, () => expect.any(Number)))
  })
  it('end a call that hangs, and only that; a picture that hung is not tried again for a while', async () => {
    helpers()
    // Expected from the start: on a busy machine it may be refused before the other has been answered.
    const hanging = expect(thumbnail('/in/hang.jpg')).rejects.toMatchObject({ code: 'noAnswer', details: { what: '/in/hang.jpg' } })
    expect(await folder('b')).toEqual(expect.any(Number))
    await hanging
    const began = performance.now()
    await expect(thumbnail('/in/hang.jpg')).rejects.toMatchObject({ code: 'noAnswer' })
    expect(performance.now() - began).toBeLessThan(100)
    expect(await thumbnail('/in/other.jpg')).toEqual(expect.any(Number))
  })
  it('that die give an error to their call, and others take their place', async () => {
    helpers()
    expect(await code(folder('die'))).toBe('noAnswer')
    expect(await code(folder('a'))).toBe('answered')
  })
  it('decode no more at a time than the machine should bear, and start no more than that takes', async () => {
    helpers(5000)
    const ids = await Promise.all(Array.from({ length: 10 }, (_, i) => thumbnail(`/in/slow-${i}.jpg`)))
    expect(new Set(ids).size).toBeLessThanOrEqual(2)
  })
  it('make one small picture beside whole ones that take their time', async () => {
    helpers(5000)
    const ended: string[] = []
    const told = (what: string, work: Promise<unknown>): Promise<unknown> => work.then(() => ended.push(what))
    const whole = [0, 1, 2, 3].map((i) => told('whole', pool.ask('pixels', { path: `/in/slow-${i}.jpg` })))
    await Promise.all([...whole, told('small', thumbnail('/in/slow.jpg'))])
    expect(ended.indexOf('small')).toBeLessThan(3)
  })
  it('that can’t be started say so', async () => {
    pool = new HelperPool({ modulePath: resolve('tests/fixtures/no-such-helper.mjs') })
    await expect(folder('a')).rejects.toMatchObject({ code: 'internal' })
  })
  it('stop waiting for whoever has gone away', async () => {
    helpers()
    await expect(pool.ask('listFolder', { path: 'a' }, { signal: AbortSignal.abort() })).rejects.toThrow(/abort/i)
    await pause(10)
    expect(await code(folder('a'))).toBe('answered')
  })
})

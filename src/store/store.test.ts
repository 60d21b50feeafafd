import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { beforeEach, describe, expect, it } from 'vitest'
import { intakeOf, newLoop } from '@/jobs/loop'
import { itemStates } from '@/jobs/run'
import { type BenchDocument, type Change, emptyBench } from '@/macros/history'
import { newStep } from '@/macros/step'
import { extendBench, layOnBench, readBench, undoable } from './bench'
import { type Database, openDatabase } from './database'
import { addEvent, eventsAfter, lastEventId } from './events'
import { binLoop, findLoop, listLoops, saveLoop } from './loops'
import { addRevision, binMacro, findMacro, insertMacro, listMacros } from './macros'
import { openPixels, recentlyFinished } from './pace'
import {
  beat,
  claimedBy,
  claimItem,
  claimItems,
  exhaustedRuns,
  finishItem,
  hasSourcesOutside,
  isHeld,
  itemsInWork,
  leave,
  listRunners,
  notServed,
  renewLeases,
  returnItem,
} from './queue'
import { advanceRun, type FrozenItem, findRun, insertRun, listItems, moveUp, queuedRuns, startRunAt } from './runs'
import { readSetting, writeSetting } from './settings'

let db: Database
let folder: string
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'copper-loop-db-'))
  db = openDatabase(folder)
})

const item = (n: number, outcome?: FrozenItem['outcome']): FrozenItem => ({
  sourcePath: `/in/${n}.jpg`,
  relativePath: `${n}.jpg`,
  sizeBytes: n,
  modifiedMs: n,
  targets: [{ deliveryId: 'web', path: `/out/${n}.jpg` }],
  outcome,
})
const newRun = (id: string, items: readonly FrozenItem[], now = 1): boolean =>
  insertRun(db, { id, loopId: 'loop', loopName: 'Loop', macros: [], deliveries: [] }, items, now)
const done = { state: 'done', milliseconds: 5, delivered: [] } as const

describe('opening', () => {
  it('again finds what was written', () => {
    writeSetting(db, 'roots', ['/a'])
    writeSetting(db, 'roots', ['/b'])
    db.$client.close()
    expect(readSetting(openDatabase(folder), 'roots')).toEqual(['/b'])
  })
})

describe('macros', () => {
  const [first, second] = [newStep('exposure', 'first'), newStep('contrast', 'second')]
  it('gain revisions that never change', () => {
    insertMacro(db, { id: 'm', name: 'One', notes: '', tags: ['x'], steps: [first] }, 1)
    expect(addRevision(db, 'm', [second], 2)).toBe(2)
    expect(findMacro(db, 'm')).toMatchObject({ revision: 2, steps: [second], updatedAt: 2 })
    expect(findMacro(db, 'm', 1)).toMatchObject({ revision: 1, steps: [first] })
    expect(findMacro(db, 'm', 3)).toBeUndefined()
    expect(listMacros(db).map((macro) => [macro.name, macro.revision])).toEqual([['One', 2]])
  })
  it('in the bin are not found, and come back', () => {
    insertMacro(db, { id: 'm', name: 'One', notes: '', tags: [], steps: [] }, 1)
    binMacro(db, 'm', 5)
    expect(findMacro(db, 'm')).toBeUndefined()
    expect(listMacros(db)).toEqual([])
    binMacro(db, 'm', null)
    expect(findMacro(db, 'm')?.name).toBe('One')
  })
})

describe('loops', () => {
  it('are stored whole, changed, and binned', () => {
    const loop = newLoop('l', { name: 'A', intake: intakeOf('/in'), macros: [{ macroId: 'm', revision: null }] })
    expect(saveLoop(db, loop, 1)).toBe(true)
    expect(findLoop(db, 'l')).toEqual({ ...loop, version: 1 })
    expect(saveLoop(db, { ...loop, name: 'B', version: 1 }, 2)).toBe(true)
    expect(listLoops(db).map((each) => each.name)).toEqual(['B'])
    binLoop(db, 'l', 3)
    expect(findLoop(db, 'l')).toBeUndefined()
  })
})

describe('a loop in two windows', () => {
  it('takes a change only of the version it has, unless the same window made all changes since', () => {
    const loop = newLoop('l', { name: 'A' })
    saveLoop(db, loop, 1, 'one')
    expect(saveLoop(db, { ...loop, name: 'B', version: 1 }, 2, 'one')).toBe(true)
    // A change that was sent while the one before it was still on its way.
    expect(saveLoop(db, { ...loop, name: 'C', version: 1 }, 3, 'one')).toBe(true)
    expect(saveLoop(db, { ...loop, name: 'D', version: 2 }, 4, 'two')).toBe(false)
    expect(saveLoop(db, { ...loop, name: 'D', version: 3 }, 5, 'two')).toBe(true)
    expect(saveLoop(db, { ...loop, name: 'E', version: 3 }, 6, 'one')).toBe(false)
    expect(findLoop(db, 'l')).toMatchObject({ name: 'D', version: 4 })
  })
})

describe('the bench', () => {
  /** A change that is told from others by the name it gives. */
  const named = (after: string): Change => ({ type: 'recording', before: null, after })
  /** Names one after the other, so that it shows what was folded. */
  const fold = (base: BenchDocument | null, changes: readonly Change[]): BenchDocument => ({
    ...emptyBench,
    recording: [base?.recording ?? '', ...changes.map((change) => (change.type === 'recording' ? change.after : ''))].join(''),
  })
  it('keeps every change, and the undone ones until something new is made', () => {
    expect(extendBench(db, { from: 0, expectedCursor: 0, added: [named('a'), named('b'), named('c')], cursor: 3 }, fold)).toBe(true)
    expect(extendBench(db, { from: 3, expectedCursor: 3, added: [], cursor: 1 }, fold)).toBe(true)
    expect(readBench(db)).toMatchObject({ changes: [named('a'), named('b'), named('c')], cursor: 1 })
    expect(extendBench(db, { from: 1, expectedCursor: 1, added: [named('d')], cursor: 2 }, fold)).toBe(true)
    expect(readBench(db)).toMatchObject({ changes: [named('a'), named('d')], cursor: 2 })
  })
  it('refuses a window that does not know the latest', () => {
    extendBench(db, { from: 0, expectedCursor: 0, added: [named('a')], cursor: 1 }, fold)
    expect(extendBench(db, { from: 0, expectedCursor: 0, added: [named('b')], cursor: 1 }, fold)).toBe(false)
    expect(readBench(db).changes).toEqual([named('a')])
  })
  it('folds the oldest changes together once there are more than can be undone, and numbers go on', () => {
    let cursor = 0
    const add = (count: number): boolean => {
      const edit = { from: cursor, expectedCursor: cursor, added: Array.from({ length: count }, () => named('x')), cursor: cursor + count }
      cursor += count
      return extendBench(db, edit, fold)
    }
    for (let i = 0; i < 6; i++) expect(add(500)).toBe(true)
    const { base, folded, changes } = readBench(db)
    expect(changes.length).toBeLessThanOrEqual(undoable * 1.25)
    expect(folded + changes.length).toBe(3000)
    expect(base?.recording).toHaveLength(folded)
    expect(extendBench(db, { from: folded - 1, expectedCursor: 3000, added: [named('y')], cursor: folded }, fold)).toBe(false)
    expect(extendBench(db, { from: 3000, expectedCursor: 3000, added: [], cursor: folded }, fold)).toBe(true)
  })
  it('refuses changes that leave a gap, and more in force than there are', () => {
    expect(extendBench(db, { from: 1, expectedCursor: 0, added: [named('a')], cursor: 1 }, fold)).toBe(false)
    expect(extendBench(db, { from: 0, expectedCursor: 0, added: [named('a')], cursor: 2 }, fold)).toBe(false)
  })
  it('remembers what lies on it', () => {
    layOnBench(db, { samplePath: '/a.jpg' })
    layOnBench(db, { macroId: 'm' })
    expect(readBench(db)).toMatchObject({ samplePath: '/a.jpg', macroId: 'm', cursor: 0 })
  })
})

describe('claiming', () => {
  it('goes through runs and pictures in order, each once', () => {
    newRun('r1', [item(1), item(2, { state: 'skipped' })])
    newRun('r2', [item(3)])
    const order = [claimItem(db, 'me', 10, 100), claimItem(db, 'you', 10, 100), claimItem(db, 'me', 10, 100)]
    expect(order.map((claim) => claim?.item.sourcePath)).toEqual(['/in/1.jpg', '/in/3.jpg', undefined])
    expect(order[0]?.results.map((result) => result.targetPath)).toEqual(['/out/1.jpg'])
    expect(findRun(db, 'r1')).toMatchObject({ state: 'running', startedAt: 10 })
  })
  it('passes over runs that are paused or stopped', () => {
    newRun('r1', [item(1)])
    newRun('r2', [item(2)])
    advanceRun(db, 'r1', 'faulted', 2, { code: 'diskFull', details: { path: '/out' } })
    expect(claimItem(db, 'me', 3, 100)?.item.runId).toBe('r2')
    expect(advanceRun(db, 'r1', 'goOn', 4)).toBe('waiting')
    expect(findRun(db, 'r1')?.reason).toBeNull()
  })
  it('shares the workers among the first three runs that are due, each in turn', () => {
    for (const run of ['a', 'b', 'c', 'd']) newRun(run, [item(1), item(2), item(3)])
    startRunAt(db, 'b', 1000, 1)
    const served: string[] = []
    const held = new Map<string, NonNullable<ReturnType<typeof claimItem>>>()
    const serve = (): void => {
      const claim = claimItem(db, 'me', 10, 100)
      if (!claim) return
      served.push(claim.run.id)
      held.set(claim.run.id, claim)
    }
    const end = (run: string): void => {
      const claim = held.get(run)
      if (claim) finishItem(db, claim.item, done, 20)
    }
    serve()
    serve()
    for (const run of ['a', 'c', 'd', 'a', 'c', 'd', 'a', 'c', 'd']) {
      end(run)
      serve()
    }
    expect(served).toEqual(['a', 'c', 'd', 'a', 'c', 'd', 'a', 'c', 'd'])
    expect(claimItem(db, 'me', 999, 100)).toBeUndefined()
    expect(claimItem(db, 'me', 1000, 100)?.run.id).toBe('b')
  })
  it('leaves a fourth run waiting until it is moved up', () => {
    for (const run of ['a', 'b', 'c', 'd']) newRun(run, [item(1), item(2)])
    const next = (): string | undefined => claimItem(db, 'me', 10, 100)?.run.id
    expect([next(), next(), next()]).toEqual(['a', 'b', 'c'])
    moveUp(db, 'd', 5)
    expect(queuedRuns(db).map(({ id }) => id)).toEqual(['a', 'b', 'd', 'c'])
    expect(next()).toBe('d')
    moveUp(db, 'a', 6)
    expect(queuedRuns(db).map(({ id }) => id)).toEqual(['a', 'b', 'd', 'c'])
    insertRun(db, { id: 'try', loopId: 'l', loopName: 'Try', macros: [], deliveries: [], isFirst: true }, [item(1)], 7)
    expect(queuedRuns(db)[0]?.id).toBe('try')
    expect(next()).toBe('try')
  })
  it('takes several at once in the order in which they would be taken one by one', () => {
    const lay = (): void => {
      for (const [run, count] of [
        ['a', 5],
        ['b', 2],
        ['c', 1],
        ['d', 4],
      ] as const)
        newRun(
          run,
          Array.from({ length: count }, (_, i) => item(i)),
        )
    }
    lay()
    const told = (claim: NonNullable<ReturnType<typeof claimItem>>): string => `${claim.run.id}${claim.item.ordinal} ${claim.item.token}`
    const oneByOne = Array.from({ length: 12 }, () => claimItem(db, 'me', 10, 100)).flatMap((claim) => (claim ? told(claim) : []))
    db = openDatabase(mkdtempSync(join(tmpdir(), 'copper-loop-db-')))
    lay()
    const some = [...claimItems(db, 'me', 10, 100, 4), ...claimItems(db, 'me', 10, 100, 5), ...claimItems(db, 'me', 10, 100, 9)]
    expect(some.map(told)).toEqual(oneByOne)
    expect(oneByOne).toHaveLength(12)
    expect(some.every(({ results }) => results.length === 1)).toBe(true)
    expect(['a', 'b', 'c', 'd'].map((run) => findRun(db, run)?.working)).toEqual([5, 2, 1, 4])
  })
  it('leaves out runs that somebody can’t work for, and finds again what an owner had in hand', () => {
    newRun('a', [item(1), item(2)])
    newRun('b', [item(3)])
    const claims = claimItems(db, 'me', 10, 100, 3, ({ id }) => id !== 'a')
    expect(claims.map(({ run }) => run.id)).toEqual(['b'])
    expect(claimedBy(db, 'me')).toMatchObject([{ run: { id: 'b' }, item: { token: 1 }, results: [{ targetPath: '/out/3.jpg' }] }])
    expect(claimedBy(db, 'you')).toEqual([])
    expect(claims.map(({ item: { id, token } }) => isHeld(db, { itemId: id, token }))).toEqual([true])
    expect(claims.map(({ item: { id, token } }) => isHeld(db, { itemId: id, token: token + 1 }))).toEqual([false])
  })
  it('tells whether pictures of a run lie elsewhere than in some folders', () => {
    newRun('a', [item(1), item(2)])
    newRun('b', [item(1), { ...item(2), sourcePath: '/inner/2.jpg' }])
    expect(['a', 'b'].map((run) => hasSourcesOutside(db, run, ['/in']))).toEqual([false, true])
    expect(['a', 'b'].map((run) => hasSourcesOutside(db, run, ['/in', '/inner']))).toEqual([false, false])
    expect(hasSourcesOutside(db, 'a', [])).toBe(true)
  })
  it('tells which runs nothing should be begun of: paused, stopped, and those that three others stand before', () => {
    for (const run of ['a', 'b', 'c', 'd']) newRun(run, [item(1), item(2)])
    expect(notServed(db, ['a', 'c'], 10)).toEqual(new Set())
    expect(notServed(db, ['a', 'd', 'gone'], 10)).toEqual(new Set(['d', 'gone']))
    moveUp(db, 'd', 5)
    expect(notServed(db, ['a', 'b', 'c', 'd'], 10)).toEqual(new Set(['c']))
    advanceRun(db, 'a', 'pause', 6)
    expect(notServed(db, ['a', 'b', 'c', 'd'], 10)).toEqual(new Set(['a']))
    // Whoever can't work for b and c does not wait behind them.
    expect(notServed(db, ['a', 'd'], 10, ({ id }) => id !== 'b' && id !== 'c')).toEqual(new Set(['a']))
    // All of it is in work: nothing more of it waits, and it holds nobody up.
    claimItems(db, 'me', 10, 100, 6)
    expect(notServed(db, ['b', 'c', 'd'], 10)).toEqual(new Set())
  })
  it('fences: an answer to a claim that was taken back changes nothing', () => {
    newRun('r1', [item(1)])
    const first = claimItem(db, 'me', 1, 10)
    if (!first) throw new Error('nothing to claim')
    returnItem(db, first.item, 'interruptions')
    const second = claimItem(db, 'you', 20, 10)
    expect(second?.item.token).toBe(first.item.token + 1)
    expect(finishItem(db, first.item, done, 30)).toBe(false)
    expect(second && finishItem(db, second.item, done, 31)).toBe(true)
    expect(second && finishItem(db, second.item, done, 32)).toBe(false)
    expect(listItems(db, 'r1')[0]).toMatchObject({ state: 'done', finishedAt: 31, interruptions: 1, crashes: 0 })
  })
  it('claims nothing of a run that can’t be begun just then, as when another program holds the database between two writes', () => {
    newRun('r1', [item(1)])
    db.$client.exec(`CREATE TEMP TRIGGER held BEFORE UPDATE OF state ON runs BEGIN SELECT RAISE(ABORT, 'database is locked'); END`)
    expect(() => claimItem(db, 'me', 1, 10)).toThrow(/locked/)
    expect(listItems(db, 'r1')).toMatchObject([{ state: 'waiting', owner: null, token: 0 }])
    db.$client.exec('DROP TRIGGER held')
    expect(claimItem(db, 'me', 1, 10)?.item.token).toBe(1)
    expect(findRun(db, 'r1')?.state).toBe('running')
  })
  it('prolongs leases of what a runner has in hand, and of nothing else', () => {
    newRun('r1', [item(1), item(2)])
    const [first, second] = [claimItem(db, 'me', 0, 10), claimItem(db, 'me', 0, 10)]
    renewLeases(db, 'me', [first?.item.id ?? 0], 1000)
    renewLeases(db, 'you', [second?.item.id ?? 0], 2000)
    expect(itemsInWork(db).map(({ leaseUntil }) => leaseUntil)).toEqual([1000, 10])
  })
  it('leaves nothing waiting in a run that was stopped, whatever its runner was doing', () => {
    newRun('r1', [item(1), item(2)])
    const claim = claimItem(db, 'me', 0, 10)
    advanceRun(db, 'r1', 'stop', 5)
    if (claim) returnItem(db, claim.item, 'interruptions')
    expect(totals('r1')).toEqual({ waiting: 0, working: 0, done: 0, failed: 0, skipped: 2 })
  })
})

/** A run's counts as they are kept with it; they must be those of its pictures. */
function totals(id: string) {
  const run = findRun(db, id)
  const kept = Object.fromEntries(itemStates.map((state) => [state, run?.[state] ?? -1]))
  const counted = Object.fromEntries(itemStates.map((state) => [state, listItems(db, id).filter((each) => each.state === state).length]))
  expect(kept).toEqual(counted)
  return kept
}

describe('a run', () => {
  it('counts, ends when nothing is left, and its stop leaves out what waits', () => {
    newRun('r1', [item(1), item(2), item(3, { state: 'failed', error: { code: 'fileEmpty', details: { path: 'x' } } })])
    expect(totals('r1')).toEqual({ waiting: 2, working: 0, done: 0, failed: 1, skipped: 0 })
    const claim = claimItem(db, 'me', 1, 10)
    expect(exhaustedRuns(db)).toEqual([])
    expect(advanceRun(db, 'r1', 'stop', 5)).toBe('stopped')
    expect(claim && finishItem(db, claim.item, done, 6)).toBe(true)
    expect(totals('r1')).toEqual({ waiting: 0, working: 0, done: 1, failed: 1, skipped: 1 })
    expect(advanceRun(db, 'r1', 'goOn', 7)).toBeUndefined()
    newRun('r2', [item(4, { state: 'skipped' })])
    expect(exhaustedRuns(db).map((run) => run.id)).toEqual(['r2'])
    expect(findRun(db, 'r2')?.number).toBe(2)
  })
  it('gives what was finished last, newest first, and how much the rest is', () => {
    newRun('r1', [item(1), item(2), item(3)])
    for (const at of [10, 20, 30]) {
      const claim = claimItem(db, 'me', at, 10)
      if (claim) finishItem(db, claim.item, done, at)
    }
    expect(recentlyFinished(db, 'r1', 2).map(({ at, milliseconds }) => [at, milliseconds])).toEqual([
      [30, 5],
      [20, 5],
    ])
    expect(openPixels(db, 'r1')).toBe(0)
    newRun('r2', [{ ...item(4), width: 30, height: 20 }, item(5), { ...item(6, { state: 'skipped' }), width: 9, height: 9 }])
    expect(openPixels(db, 'r2')).toBe(600)
  })
})

describe('signs of life', () => {
  it('events tell which runs changed since', () => {
    const start = lastEventId(db)
    addEvent(db, 'r1', 1)
    addEvent(db, 'r2', 2)
    addEvent(db, 'r1', 3)
    const { lastId, runIds } = eventsAfter(db, start)
    expect([...runIds].sort()).toEqual(['r1', 'r2'])
    expect(eventsAfter(db, lastId)).toEqual({ lastId, runIds: [] })
  })
  it('beats say what keeps a runner from working, and one that leaves is gone', () => {
    beat(db, { id: 'a', processId: 1, trouble: null }, 100)
    beat(db, { id: 'a', processId: 1, trouble: 'No kernels.' }, 300)
    expect(listRunners(db)).toMatchObject([{ id: 'a', startedAt: 100, beatAt: 300, trouble: 'No kernels.' }])
    leave(db, 'a')
    expect(listRunners(db)).toEqual([])
  })
})

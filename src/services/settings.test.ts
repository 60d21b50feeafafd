import { cpSync, existsSync, mkdirSync, readdirSync, statSync, utimesSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import Database from 'better-sqlite3'
import { afterEach, describe, expect, it } from 'vitest'
import { testApplication, testLoop } from '../../tests/application'
import { listBackups, makeBackup, restoreBackup } from './backups'
import { trimCache } from './cache'
import { openContext } from './context'
import { allLoops, saveLoop } from './loops'
import { thumbnailFile } from './pictures'
import { checkRoots, clearCache, nameRoots, setMachine, settingsView, workersOf } from './settings'

const named = process.env.COPPER_LOOP_ROOTS
afterEach(() => {
  if (named === undefined) delete process.env.COPPER_LOOP_ROOTS
  else process.env.COPPER_LOOP_ROOTS = named
})

describe('settings', () => {
  it('name the folders that may be used, for this start and the next', async () => {
    const app = testApplication()
    const pictures = join(app.root, 'mine')
    mkdirSync(pictures)
    const view = await settingsView(nameRoots(app.context, await checkRoots([` ${pictures} `, pictures])))
    expect(view.roots).toEqual([{ path: pictures, isThere: true }])
    const again = openContext({ ...app.environment, COPPER_LOOP_ROOTS: undefined })
    expect(again.roots.paths).toEqual([pictures])
    expect(again.roots.allows(app.intake)).toBe(false)
  })
  it.each([
    ['/', /whole computer/],
    ['pictures', /must begin with/],
    ['/no/such/folder', /does not exist/],
  ])('refuse %s', async (path, sentence) => {
    await expect(checkRoots([path])).rejects.toThrow(sentence)
  })
  it('refuse a file, and any change where the environment names them', async () => {
    const app = testApplication()
    const file = join(app.root, 'file')
    writeFileSync(file, '')
    await expect(checkRoots([file])).rejects.toThrow('not a folder')
    process.env.COPPER_LOOP_ROOTS = app.root
    expect(() => nameRoots(app.context, [app.root])).toThrow('COPPER_LOOP_ROOTS')
  })
  it('clear the cache, which comes back by itself', async () => {
    const app = testApplication()
    cpSync('demo/pictures/vessels/TLK27_0422.jpg', join(app.intake, 'a.jpg'))
    await thumbnailFile(app.context, join(app.intake, 'a.jpg'), 160)
    expect((await settingsView(app.context)).cacheBytes).toBeGreaterThan(1000)
    await clearCache(app.context)
    expect((await settingsView(app.context)).cacheBytes).toBe(0)
    expect(statSync(await thumbnailFile(app.context, join(app.intake, 'a.jpg'), 160)).size).toBeGreaterThan(1000)
  })
  it('hold the cache to its size: what was not looked at for longest goes first', async () => {
    const app = testApplication()
    const folder = join(app.context.dataFolder, 'cache')
    mkdirSync(folder)
    const area = (name: string): string => join(folder, name)
    const put = (name: string, usedAt: number): void => {
      writeFileSync(area(name), Buffer.alloc(4e6))
      utimesSync(area(name), usedAt, usedAt)
    }
    put('newest', 3000)
    put('oldest', 1000)
    put('between', 2000)
    await setMachine(app.context, { cacheMb: 13 })
    expect((await settingsView(app.context)).cacheBytes).toBe(12e6)
    await setMachine(app.context, { cacheMb: 11 })
    expect((await settingsView(app.context)).cacheBytes).toBe(8e6)
    expect(readdirSync(folder).sort()).toEqual(['between', 'newest'])
    put('more', 500)
    await trimCache(app.context)
    expect(readdirSync(folder).sort()).toEqual(['between', 'newest'])
  })
  it('name how many pictures are worked on at a time', async () => {
    const app = testApplication()
    await setMachine(app.context, { workers: 3 })
    expect((await settingsView(app.context)).workers).toBe(Number(process.env.COPPER_LOOP_WORKERS) || 3)
    expect(workersOf(app.context)).toBe((await settingsView(app.context)).workers)
  })
  it('go back to a copy, of which one is made first; a damaged or foreign one is refused and changes nothing', async () => {
    const app = testApplication()
    const loop = testLoop(app)
    await makeBackup(app.context)
    const [copy] = await listBackups(app.context)
    saveLoop(app.context, { ...loop, name: 'Changed' })
    await restoreBackup(app.context, copy?.name ?? '')
    expect(allLoops(app.context).map(({ name }) => name)).toEqual(['Test loop'])
    const before = (await listBackups(app.context)).find(({ name }) => name.includes('before-going-back'))
    await restoreBackup(app.context, before?.name ?? '')
    expect(allLoops(app.context).map(({ name }) => name)).toEqual(['Changed'])
    const area = (name: string): string => join(app.context.dataFolder, 'backups', name)
    writeFileSync(area('noise.sqlite'), 'this is no database')
    new Database(area('foreign.sqlite')).exec('create table mine (x)').close()
    const count = (await listBackups(app.context)).length
    for (const name of ['noise.sqlite', 'foreign.sqlite'])
      await expect(restoreBackup(app.context, name)).rejects.toThrow(/can't be gone back to: .*Nothing was changed/)
    for (const name of ['../copper-loop.sqlite', 'none.sqlite'])
      await expect(restoreBackup(app.context, name)).rejects.toThrow(/was not found/)
    expect(await listBackups(app.context)).toHaveLength(count)
    expect(allLoops(app.context).map(({ name }) => name)).toEqual(['Changed'])
  })
  it('make a copy of the database that is whole', async () => {
    const app = testApplication()
    await makeBackup(app.context)
    const [backup] = await listBackups(app.context)
    const path = join(app.context.dataFolder, 'backups', backup?.name ?? '')
    expect(existsSync(path)).toBe(true)
    const copy = new Database(path, { readonly: true })
    expect(copy.pragma('integrity_check', { simple: true })).toBe('ok')
    expect(copy.prepare('select name from macros').all()).toEqual([{ name: 'Quick' }])
  })
})

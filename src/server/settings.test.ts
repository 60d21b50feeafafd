import { cpSync, existsSync, mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import Database from 'better-sqlite3'
import { afterEach, describe, expect, it } from 'vitest'
import { testApplication } from '../../tests/application'
import { listBackups, makeBackup } from './backups'
import { openContext } from './context'
import { thumbnail } from './pictures'
import { clearCache, nameRoots, settingsView } from './settings'

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
    const view = await nameRoots(app.context, [` ${pictures} `, pictures])
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
    await expect(nameRoots(testApplication().context, [path])).rejects.toThrow(sentence)
  })
  it('refuse a file, and any change where the environment names them', async () => {
    const app = testApplication()
    const file = join(app.root, 'file')
    writeFileSync(file, '')
    await expect(nameRoots(app.context, [file])).rejects.toThrow('not a folder')
    process.env.COPPER_LOOP_ROOTS = app.root
    await expect(nameRoots(app.context, [app.root])).rejects.toThrow('COPPER_LOOP_ROOTS')
  })
  it('clear the cache, which comes back by itself', async () => {
    const app = testApplication()
    cpSync('demo/pictures/vessels/TLK27_0422.jpg', join(app.intake, 'a.jpg'))
    await thumbnail(app.context, join(app.intake, 'a.jpg'), 160)
    expect((await settingsView(app.context)).cacheBytes).toBeGreaterThan(1000)
    expect((await clearCache(app.context)).cacheBytes).toBe(0)
    expect((await thumbnail(app.context, join(app.intake, 'a.jpg'), 160)).length).toBeGreaterThan(1000)
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

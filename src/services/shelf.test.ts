import { cpSync, existsSync, mkdirSync } from 'node:fs'
import { join } from 'node:path'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import { newStep } from '@/macros/step'
import { binMacro as putInBin } from '@/store/macros'
import { quickSteps, testApplication, testMacroId } from '../../tests/application'
import { layOnBench, readBench } from './bench'
import { keepDropped } from './dropped'
import { binMacro, binned, describeMacro, duplicateMacro, macroById, macroRevisions, restoreMacro, reviseMacro, shelf } from './macros'
import { pickSpread } from './spread'

describe('the shelf', () => {
  it('keeps every revision, newest first', () => {
    const { context } = testApplication()
    reviseMacro(context, testMacroId, [newStep('crop', 'c')])
    const revisions = macroRevisions(context, testMacroId)
    expect(revisions.map(({ revision, steps }) => [revision, steps.map((step) => step.operation)])).toEqual([
      [2, ['crop']],
      [1, quickSteps.map((step) => step.operation)],
    ])
  })
  it('takes new words for a macro, and refuses wrong ones', () => {
    const { context } = testApplication()
    expect(describeMacro(context, testMacroId, { name: 'Other', notes: 'why', tags: ['a'] })).toMatchObject({ name: 'Other', revision: 1 })
    expect(() => describeMacro(context, testMacroId, { name: '', notes: '', tags: [] })).toThrow('name')
    expect(() => describeMacro(context, 'gone', { name: 'x', notes: '', tags: [] })).toThrow('not found')
  })
  it('duplicates under a name of its own', () => {
    const { context } = testApplication()
    const copy = duplicateMacro(context, testMacroId)
    expect(copy).toMatchObject({ name: 'Quick copy', revision: 1, steps: macroById(context, testMacroId).steps })
  })
  it('gives a binned macro thirty days', () => {
    const { context } = testApplication()
    binMacro(context, testMacroId)
    const [entry] = binned(context)
    expect(shelf(context, [])).toEqual([])
    expect(entry && entry.goneAt - entry.deletedAt).toBe(30 * 24 * 3600 * 1000)
    expect(restoreMacro(context, testMacroId)).toMatchObject({ name: 'Quick' })
    putInBin(context.db, testMacroId, Date.now() - 31 * 24 * 3600 * 1000)
    expect(binned(context)).toEqual([])
    expect(() => restoreMacro(context, testMacroId)).toThrow('not found')
  })
})

describe('samples', () => {
  it('of a spread differ: the demo’s darkest, brightest, noisiest, and each shape once', async () => {
    const app = testApplication()
    cpSync('demo/pictures', app.intake, { recursive: true })
    const square = join(app.intake, 'square.png')
    await sharp({ create: { width: 50, height: 50, channels: 3, background: '#777' } })
      .png()
      .toFile(square)
    const spread = await pickSpread(app.context, app.intake)
    const whys = spread.map(({ why }) => why.split(',')[0])
    for (const why of ['in the middle', 'darkest', 'brightest', 'noisiest']) expect(whys).toContain(why)
    expect(spread.some(({ path }) => path === square)).toBe(true)
    expect(new Set(spread.map(({ path }) => path)).size).toBe(spread.length)
    const facts = await Promise.all(spread.map(({ path }) => sharp(path).metadata()))
    expect(facts.some(({ width, height }) => (width ?? 0) < (height ?? 0))).toBe(true)
  })
  it('of an empty folder is empty', async () => {
    const app = testApplication()
    mkdirSync(join(app.intake, 'empty'))
    expect(await pickSpread(app.context, join(app.intake, 'empty'))).toEqual([])
    await expect(pickSpread(app.context, '/etc')).rejects.toThrow('outside')
  })
  it('stay on the bench, in order', () => {
    const { context } = testApplication()
    layOnBench(context, { samples: ['/b.jpg', '/a.jpg'], samplePath: '/a.jpg' })
    layOnBench(context, { macroId: 'x' })
    expect(readBench(context)).toMatchObject({ samples: ['/b.jpg', '/a.jpg'], samplePath: '/a.jpg', macroId: 'x' })
  })
  it('that are dropped are kept by content and may be read; what is no picture is refused', async () => {
    const { context } = testApplication()
    const picture = await sharp({ create: { width: 9, height: 7, channels: 3, background: '#a54' } })
      .png()
      .toBuffer()
    const drop = (body: Buffer, name: string) => keepDropped(context, body, name)
    const { path } = await drop(picture, '../con.png')
    expect(existsSync(path)).toBe(true)
    expect(context.roots.check(path)).toBe(path)
    expect(path).toContain('dropped')
    expect(await drop(picture, '../con.png')).toEqual({ path })
    await expect(drop(Buffer.from('hello'), 'a.jpg')).rejects.toMatchObject({ code: 'notAPicture' })
    await expect(drop(Buffer.alloc(0), 'a.jpg')).rejects.toMatchObject({ code: 'fileEmpty' })
  })
})

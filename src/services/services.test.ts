import { cpSync, existsSync, mkdirSync, readFileSync, symlinkSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { csvParse } from 'd3'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { AppError } from '@/base/errors'
import { benchEditSchema } from '@/contract/requests'
import { intakeOf, type Loop, loopSchema } from '@/jobs/loop'
import { newStep } from '@/macros/step'
import { claimItem, finishItem } from '@/store/queue'
import { followRuns } from '@/web/events'
import { answer } from '@/web/http'
import { readBody } from '@/web/read-body'
import { attachment } from '@/web/responses'
import { fillIntake, quickSteps, type TestApplication, testApplication, testLoop, testMacroId } from '../../tests/application'
import { extendBench, readBench } from './bench'
import {
  binMacro,
  describeMacro,
  duplicateMacro,
  exportMacro,
  importMacro,
  keepMacro,
  macroById,
  restoreMacro,
  reviseMacro,
  shelf,
} from './macros'
import { preflight } from './preflight/preflight'
import { proofOfLoop } from './proof'
import { reportCsv, runReport } from './runs/report'
import { startRun } from './runs/start'
import { runResults, runSteps } from './runs/summary'
import { setSilentMarks } from './settings'

const sentences = async (app: TestApplication, loop: Loop): Promise<string[]> =>
  (await preflight(app.context, loop)).problems.map(({ blocks, area, sentence }) => `${blocks ? 'blocks' : 'note'} ${area}: ${sentence}`)

describe('preflight', () => {
  it('foresees names and sizes, picture by picture, and writes nothing', async () => {
    const app = testApplication()
    mkdirSync(join(app.intake, 'tall'))
    cpSync('demo/pictures/vessels/TLK27_0437.jpg', join(app.intake, 'tall', 'a.jpg'))
    fillIntake(app, 2)
    const loop = testLoop(app, {}, { namePattern: '{folder}/{n:01}-{run}-{name}', longEdgePx: 150 })
    const check = await preflight(app.context, loop)
    expect(check.problems).toEqual([])
    expect(check.totals).toMatchObject({ pictures: 3, folders: 2, unreadable: 0 })
    expect(
      check.pictures.map((picture) => [picture.relativePath, picture.sizeBefore, picture.targets[0]?.name, picture.targets[0]?.size]),
    ).toEqual([
      ['picture-1.jpg', { width: 2400, height: 1600 }, 'intake/01-1-picture-1.jpg', { width: 150, height: 100 }],
      ['picture-2.jpg', { width: 2400, height: 1600 }, 'intake/02-1-picture-2.jpg', { width: 150, height: 100 }],
      ['tall/a.jpg', { width: 1600, height: 2400 }, 'tall/03-1-a.jpg', { width: 100, height: 150 }],
    ])
    expect(existsSync(app.delivery)).toBe(false)
  })

  const faulty: readonly (readonly [string, (app: TestApplication) => Partial<Loop> | Promise<Partial<Loop>>, RegExp])[] = [
    ['no intake', () => ({ intake: intakeOf('') }), /blocks intake: Choose the folder/],
    [
      'an intake that is missing',
      (app) => ({ intake: intakeOf(join(app.root, 'gone')) }),
      /blocks intake: The folder .*gone does not exist/,
    ],
    ['an intake outside the roots', () => ({ intake: intakeOf('/etc') }), /blocks intake: \/etc lies outside the folders/],
    [
      'an intake that is a file',
      (app) => ({ intake: intakeOf(join(app.intake, 'picture-1.jpg')) }),
      /blocks intake: .* is a file, not a folder/,
    ],
    [
      'an empty intake',
      (app) => {
        mkdirSync(join(app.root, 'empty'))
        return { intake: intakeOf(join(app.root, 'empty')) }
      },
      /blocks intake: There are no pictures in .*empty or its subfolders/,
    ],
    ['a macro that is gone', () => ({ macros: [{ macroId: 'gone', revision: null }] }), /blocks macros: The macro .* is not on the shelf/],
    [
      'a revision that never was',
      () => ({ macros: [{ macroId: testMacroId, revision: 9 }] }),
      /blocks macros: The macro .* is not on the shelf/,
    ],
    ['no delivery', () => ({ deliveries: [] }), /blocks delivery: Add a delivery/],
  ]
  it.each(faulty)('explains %s', async (_, part, sentence) => {
    const app = testApplication()
    fillIntake(app, 1)
    const loop = testLoop(app, await part(app))
    expect((await sentences(app, loop)).join('\n')).toMatch(sentence)
    await expect(startRun(app.context, loop)).rejects.toMatchObject({ code: 'loopNotReady' })
    expect(existsSync(app.delivery)).toBe(false)
  })

  it('goes without a macro: pictures only get another size, format and name', async () => {
    const app = testApplication()
    fillIntake(app, 1)
    const loop = testLoop(app, { macros: [] })
    expect((await sentences(app, loop)).join('\n')).toMatch(/note macros: No macro: pictures only get another size/)
    expect((await startRun(app.context, loop)).totals.waiting).toBe(1)
  })

  it.each([
    ['the intake itself', (app: TestApplication) => app.intake, /is the intake folder itself/],
    ['inside the intake', (app: TestApplication) => join(app.intake, 'out'), /lies inside the intake folder/],
    ['around the intake', (app: TestApplication) => app.root, /intake folder lies inside the delivery folder/],
    [
      'the intake by way of a link',
      (app: TestApplication) => {
        symlinkSync(app.intake, join(app.root, 'link'))
        return join(app.root, 'link')
      },
      /is the intake folder itself/,
    ],
    ['outside the roots', () => '/tmp/elsewhere', /lies outside the folders/],
    ['none', () => '', /Choose the folder to deliver to/],
  ])('refuses a delivery folder that is %s', async (_, folder, sentence) => {
    const app = testApplication()
    fillIntake(app, 1)
    expect((await sentences(app, testLoop(app, {}, { folder: folder(app) }))).join('\n')).toMatch(sentence)
  })
  it('explains a name pattern that can’t be read', async () => {
    const app = testApplication()
    fillIntake(app, 1)
    expect(await sentences(app, testLoop(app, {}, { namePattern: '{nme}' }))).toEqual([
      expect.stringMatching(/blocks delivery: \{nme\} is not a field/),
    ])
  })
  it('numbers names that collide in the run, ignoring case, and files that are there; replaces nothing', async () => {
    const app = testApplication()
    fillIntake(app, 3)
    const loop = testLoop(app, {}, { namePattern: 'Same' })
    const names = async () => (await preflight(app.context, loop)).pictures.map((picture) => picture.targets[0]?.name)
    expect(await names()).toEqual(['Same.jpg', 'Same-2.jpg', 'Same-3.jpg'])
    expect(await sentences(app, loop)).toEqual([
      expect.stringMatching(/^note delivery: 2 pictures would get a name that another one of this run has/),
    ])
    mkdirSync(app.delivery)
    writeFileSync(join(app.delivery, 'Same.jpg'), 'somebody else’s')
    expect(await names()).toEqual(['Same-2.jpg', 'Same-3.jpg', 'Same-4.jpg'])
    expect(await sentences(app, loop)).toEqual([
      expect.stringMatching(/^note delivery: For 3 pictures a file of the same name is there already/),
    ])
  })
  it('skips what is there when told to', async () => {
    const app = testApplication()
    fillIntake(app, 2)
    mkdirSync(app.delivery)
    writeFileSync(join(app.delivery, 'picture-1.jpg'), 'there')
    const loop = testLoop(app, {}, { whenThere: 'skip' })
    const check = await preflight(app.context, loop)
    expect(check.pictures.map((picture) => picture.skip)).toEqual([true, false])
    const run = await startRun(app.context, loop)
    expect(run.totals).toMatchObject({ skipped: 1, waiting: 1 })
    expect(readFileSync(join(app.delivery, 'picture-1.jpg'), 'utf8')).toBe('there')
  })
  it('tells which files can’t be read, and lets the others through', async () => {
    const app = testApplication()
    cpSync('demo/odd-files', app.intake, { recursive: true })
    const check = await preflight(app.context, testLoop(app))
    expect(check.totals).toMatchObject({ pictures: 10, unreadable: 2 })
    expect(check.pictures.filter((picture) => picture.error).map((picture) => picture.relativePath)).toEqual(['empty.jpg', 'notes.jpg'])
  })
  it('refuses to run a macro that needs a newer version, and says which step', async () => {
    const app = testApplication([newStep('exposure', 'a'), newStep('dream', 'b')])
    fillIntake(app, 1)
    expect((await sentences(app, testLoop(app)))[0]).toMatch(/Step 2 of Quick needs the operation "dream"/)
  })
  it('freezes macros: a later revision does not reach a run that was started', async () => {
    const app = testApplication()
    fillIntake(app, 1)
    const run = await startRun(app.context, testLoop(app))
    reviseMacro(app.context, testMacroId, [newStep('saturation', 'x')])
    expect(run.macros).toEqual([{ name: 'Quick', revision: 1 }])
    expect(macroById(app.context, testMacroId).revision).toBe(2)
    // What goes to the bench from a run is what it put its pictures through.
    expect(runSteps(app.context, run.id)).toMatchObject({ macroId: testMacroId, steps: quickSteps })
  })
})

describe('the shelf', () => {
  it('keeps, revises, exports, imports and bins macros', () => {
    const app = testApplication()
    const kept = keepMacro(app.context, { name: 'Glow', notes: '', tags: [], steps: [newStep('exposure', 'a', { exposureEv: 1 })] })
    expect(kept).toMatchObject({ revision: 1, reading: '1. Exposure +1.00 EV', needsNewer: false })
    expect(reviseMacro(app.context, kept.id, [newStep('crop', 'b')])).toMatchObject({ revision: 2 })
    const copy = importMacro(app.context, exportMacro(app.context, kept.id))
    expect(copy.id).not.toBe(kept.id)
    expect(copy.steps).toEqual(macroById(app.context, kept.id).steps)
    binMacro(app.context, kept.id)
    expect(() => macroById(app.context, kept.id)).toThrow(/not found/)
    expect(shelf(app.context, [{ name: 'L', macros: [{ macroId: copy.id }] }])[0]?.usedBy).toEqual(['L'])
  })
  it('gives no two macros one name: told where somebody chose it, numbered where it came from elsewhere', () => {
    const { context } = testApplication()
    const glow = { name: 'Glow', notes: '', tags: [], steps: [] }
    const first = keepMacro(context, glow)
    expect(() => keepMacro(context, { ...glow, name: 'GLOW' })).toThrow('There is a macro called "GLOW" already. Choose another name.')
    expect(importMacro(context, exportMacro(context, first.id)).name).toBe('Glow 2')
    expect(duplicateMacro(context, first.id).name).toBe('Glow copy')
    expect(duplicateMacro(context, first.id).name).toBe('Glow copy 2')
    expect(() => describeMacro(context, first.id, { name: 'glow 2', notes: '', tags: [] })).toThrow(/already/)
    expect(describeMacro(context, first.id, { name: 'glow', notes: '', tags: [] }).name).toBe('glow')
    binMacro(context, first.id)
    const second = keepMacro(context, glow)
    expect(restoreMacro(context, first.id).name).toBe('glow 3')
    expect(macroById(context, second.id).name).toBe('Glow')
  })
  it('refuses steps that are not whole, and keeps what was there', () => {
    const app = testApplication()
    expect(() => reviseMacro(app.context, testMacroId, [{ ...newStep('exposure', 'a'), settings: {} }])).toThrow(
      /steps\[0\]\.settings\.\w+ is missing/,
    )
    expect(macroById(app.context, testMacroId).revision).toBe(1)
  })
})

describe('the bench record', () => {
  it('is extended in order, and refuses a window that has fallen behind', () => {
    const { context } = testApplication()
    const change = { type: 'recording', before: null, after: 'x' } as const
    extendBench(context, { from: 0, expectedCursor: 0, added: [change], cursor: 1 })
    expect(() => extendBench(context, { from: 0, expectedCursor: 0, added: [change], cursor: 1 })).toThrow(/another window/)
    expect(readBench(context)).toMatchObject({ changes: [change], cursor: 1 })
  })
})

describe('the report', () => {
  it('tells of every picture, as JSON and CSV that other programs read', async () => {
    const app = testApplication()
    fillIntake(app, 1)
    cpSync('demo/odd-files/empty.jpg', join(app.intake, 'empty.jpg'))
    cpSync('demo/odd-files/SHELF.JPG', join(app.intake, '=1+1, "x".jpg'))
    const run = await startRun(app.context, testLoop(app))
    const report = runReport(app.context, run.id)
    expect(report).toMatchObject({
      format: 'copper-loop/report',
      version: 1,
      run: 1,
      loop: 'Test loop',
      originals: 'No source file was compared yet',
    })
    expect(report.pictures).toHaveLength(3)
    const rows = csvParse(
      reportCsv({ ...report, pictures: report.pictures.map((row) => ({ ...row, source: row.source.split('/').at(-1) ?? '' })) }),
    )
    expect(rows.map((row) => row.source)).toEqual(['\'=1+1, "x".jpg', 'empty.jpg', 'picture-1.jpg'])
    expect(rows.find((row) => row.source === 'empty.jpg')?.error).toMatch(/is empty/)
    expect(runResults(app.context, run.id).map((row) => row.state)).toEqual(['waiting', 'failed', 'waiting'])
  })
  it.each([
    [[null], 'No source file was compared yet'],
    [[true], '1 source file, unchanged'],
    [[true, true, null], '2 source files, all unchanged'],
    [[true, false], '2 source files, 1 changed by another program during the run'],
  ])('%o reads: %s', async (flags, words) => {
    const app = testApplication()
    fillIntake(app, flags.length)
    const run = await startRun(app.context, testLoop(app))
    for (const flag of flags) {
      const claim = claimItem(app.context.db, 'me', 1, 1000)
      if (claim)
        finishItem(app.context.db, claim.item, { state: 'done', milliseconds: 1, sourceUnchanged: flag ?? undefined, delivered: [] }, 2)
    }
    expect(runReport(app.context, run.id).originals).toBe(words)
  })
  it('tells which delivered picture stands out among its siblings, in pictures, report and CSV', async () => {
    const app = testApplication()
    fillIntake(app, 5)
    const run = await startRun(app.context, testLoop(app))
    const usual = { a: 0, b: 0, brightPercent: 0, darkPercent: 0, whitePercent: 0 }
    for (const lightness of [60, 61, 93, 62]) {
      const claim = claimItem(app.context.db, 'me', 1, 1000)
      const [result] = claim?.results ?? []
      if (!claim || !result) throw new Error('Nothing to claim')
      const file = { resultId: result.id, targetPath: result.targetPath, sizeBytes: 1, hash: 'h', width: 1, height: 1, constants: [] }
      const delivered = [{ ...file, traits: { ...usual, lightness } }]
      finishItem(app.context.db, claim.item, { state: 'done', milliseconds: 1, delivered }, 2)
    }
    const marks = runResults(app.context, run.id).map(({ results }) => results[0]?.marks)
    expect(marks).toEqual([[], [], ['brighter than the others'], [], []])
    const report = runReport(app.context, run.id)
    expect(report.pictures.map(({ noticed }) => noticed)).toEqual([null, null, 'brighter than the others', null, null])
    expect(csvParse(reportCsv(report)).map(({ noticed }) => noticed)).toEqual(['', '', 'brighter than the others', '', ''])
    // Switched off in the proof, it is told nowhere.
    setSilentMarks(app.context, ['light'])
    expect(runReport(app.context, run.id).pictures.map(({ noticed }) => noticed)).toEqual([null, null, null, null, null])
    expect((await proofOfLoop(app.context, { loopId: run.loopId })).silent).toEqual(['light'])
  })
})

describe('requests', () => {
  const request = (body: string): Request => new Request('http://127.0.0.1/', { method: 'POST', body })
  const good = (): Loop => testLoop(testApplication())

  it('take a whole loop and nothing beside it', async () => {
    const loop = good()
    await expect(readBody(request(JSON.stringify(loop)), loopSchema)).resolves.toEqual(loop)
    for (const wrong of [
      { ...loop, extra: 1 },
      { ...loop, intake: { folder: 7, subfolders: true } },
      { ...loop, deliveries: [{ ...loop.deliveries[0], qualityPercent: 101 }] },
      { ...loop, name: '' },
    ])
      await expect(readBody(request(JSON.stringify(wrong)), loopSchema)).rejects.toMatchObject({ code: 'badRequest' })
  })
  it.each(['', '{', 'null', '[]', '7', ' '.repeat((2 << 20) + 1)])('answer a body of %j with a clear error', async (body) => {
    await expect(readBody(request(body), loopSchema)).rejects.toMatchObject({ code: 'badRequest' })
  })
  it('answer anything at all with a value or a badRequest', async () => {
    await fc.assert(
      fc.asyncProperty(fc.json(), fc.constantFrom(loopSchema, benchEditSchema), async (body, schema) => {
        await readBody<unknown>(request(body), schema).catch((error) => expect(error).toMatchObject({ code: 'badRequest' }))
      }),
    )
  })
  it('turn errors into status, code and sentence', async () => {
    const response = await answer(() => {
      throw new AppError('fileEmpty', { path: '/a.jpg' })
    })
    expect(response.status).toBe(422)
    expect(await response.json()).toEqual({
      code: 'fileEmpty',
      details: { path: '/a.jpg' },
      sentence: '/a.jpg is empty (0 bytes). Copy it again from the camera or archive.',
    })
    expect(await (await answer(() => undefined)).json()).toBeNull()
  })
  it('name a file to save so that no header can be broken', () => {
    const header = attachment('x', 'a"b\r\n/青.json', 'application/json').headers.get('content-disposition')
    expect(header).toBe('attachment; filename="a_b____.json"; filename*=UTF-8\'\'a%22b%0D%0A_%E9%9D%92.json')
  })
})

describe('following runs', () => {
  it('tells of a run as soon as something happens to it, and ends when the page goes', async () => {
    const app = testApplication()
    fillIntake(app, 1)
    const gone = new AbortController()
    const reader = followRuns(app.context, gone.signal).getReader()
    const decoder = new TextDecoder()
    expect(decoder.decode((await reader.read()).value)).toContain('event: runner\ndata: {"away":true,"trouble":null}')
    const run = await startRun(app.context, testLoop(app))
    const told = decoder.decode((await reader.read()).value)
    expect(told).toMatch(/^event: run\ndata: \{.*\}\n\n$/)
    expect(told).toContain(run.id)
    gone.abort()
    expect((await reader.read()).done).toBe(true)
  })
})

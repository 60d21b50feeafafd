import { createHash } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { buffer } from 'node:stream/consumers'
import { describe, expect, it } from 'vitest'
import yazl from 'yazl'
import { defaultDelivery } from '@/jobs/delivery'
import { intakeOf } from '@/jobs/loop'
import { newStep } from '@/macros/step'
import { fillIntake, testApplication, testLoop, testMacroId } from '../../tests/application'
import { readBundle } from './bundles'
import { keepBytes } from './kept-files'
import { commonFolder, exportLoop, importLoop, loopOfRun } from './loop-files'
import { allLoops, binLoop, loopById } from './loops'
import { binMacro, keepMacro, macroById, reviseMacro, shelf } from './macros'
import { startRun } from './runs/start'

const mark = readFileSync('demo/marks/tern-lane-mark.png')
const markHash = createHash('sha256').update(mark).digest('hex')

/** A loop of two macros, one of them with a file, and a name that is no name of a file. */
async function richLoop() {
  const app = testApplication()
  const file = await keepBytes(app.context.dataFolder, mark, 'mark.png')
  const marked = keepMacro(app.context, { name: 'Marked', notes: 'n', tags: ['web'], steps: [newStep('stamp-image', 's', { file })] })
  const loop = testLoop(
    app,
    {
      name: 'Shop / web',
      intake: intakeOf(app.intake, { more: [app.root], only: [{ kind: 'orientation', is: 'portrait', not: true }] }),
      macros: [
        { macroId: testMacroId, revision: 1 },
        { macroId: marked.id, revision: null },
      ],
      start: { when: 'arrivals' },
    },
    { longEdgePx: 900, namePattern: '{loop}-{n:010}' },
  )
  return { app, loop, marked }
}

describe('a loop as a file', () => {
  it('goes to another machine with its macros and their files, without folders and without starting by itself', async () => {
    const { app, loop, marked } = await richLoop()
    const zip = await exportLoop(app.context, loop.id)
    expect([...(await readBundle(zip, 'x', () => true)).keys()].sort()).toEqual([
      'Shop _ web.loop.json',
      `files/${markHash}`,
      'macros/1.macro.json',
      'macros/2.macro.json',
    ])
    expect(zip.includes(app.root)).toBe(false)

    const to = testApplication([])
    const taken = await importLoop(to.context, zip, 'shop.loop.zip')
    expect(taken).toMatchObject({
      name: 'Shop / web',
      intake: { ...loop.intake, folder: '', more: [] },
      deliveries: [{ ...loop.deliveries[0], folder: '' }],
      start: { when: 'byHand' },
      macros: [{ revision: null }, { revision: null }],
    })
    expect(taken.id).not.toBe(loop.id)
    const [first, second] = taken.macros.map(({ macroId }) => macroById(to.context, macroId))
    expect([first?.name, second?.name]).toEqual(['Quick 2', 'Marked'])
    expect(first?.steps).toEqual(macroById(app.context, testMacroId).steps)
    expect(second).toMatchObject({ steps: marked.steps, notes: 'n', tags: ['web'] })

    // Once more: the macros that are there serve, the loop is another.
    const again = await importLoop(to.context, zip, 'shop.loop.zip')
    expect(again.name).toBe('Shop / web 2')
    expect(again.macros[1]).toEqual(taken.macros[1])
  })

  const loopText = (part: object) =>
    JSON.stringify({
      format: 'copper-loop/loop',
      version: 1,
      name: 'L',
      intake: intakeOf(''),
      deliveries: [defaultDelivery('d', '')],
      macros: [],
      ...part,
    })
  const zipOf = (files: Record<string, string>): Promise<Buffer> => {
    const zip = new yazl.ZipFile()
    for (const [name, text] of Object.entries(files)) zip.addBuffer(Buffer.from(text), name)
    zip.end()
    return buffer(zip.outputStream)
  }
  it.each([
    ['no loop', {}, /one loop file, not 0/],
    ['two loops', { 'a.loop.json': loopText({}), 'b.loop.json': loopText({}) }, /not 2/],
    ['something that does not belong', { 'a.loop.json': loopText({}), 'run.sh': 'x' }, /does not belong/],
    ['no JSON', { 'a.loop.json': '{' }, /its loop is not JSON/],
    ['another format', { 'a.loop.json': loopText({ format: 'other' }) }, /its loop format must be/],
    ['a newer version', { 'a.loop.json': loopText({ version: 2 }) }, /its loop version must be/],
    ['a macro that is missing', { 'a.loop.json': loopText({ macros: ['macros/1.macro.json'] }) }, /macros\/1\.macro\.json is missing/],
    ['a macro elsewhere', { 'a.loop.json': loopText({ macros: ['../x.macro.json'] }) }, /must name entries/],
  ])('with %s is refused, and nothing is kept', async (_, files, why) => {
    const { context } = testApplication([])
    await expect(importLoop(context, await zipOf(files as Record<string, string>), 'a.loop.zip')).rejects.toThrow(why)
    expect(allLoops(context)).toEqual([])
    expect(shelf(context, [])).toHaveLength(1)
  })
  it('that is no zip is refused in plain words', async () => {
    await expect(importLoop(testApplication().context, Buffer.from('PK nonsense'), 'a.loop.zip')).rejects.toThrow(/it is no whole zip file/)
  })
})

describe('a loop of a run', () => {
  it('has what the run had: revisions, deliveries, and its pictures’ folder', async () => {
    const app = testApplication()
    fillIntake(app, 2)
    const loop = testLoop(app)
    const run = await startRun(app.context, loop)
    reviseMacro(app.context, testMacroId, [newStep('saturation', 'x')])
    const made = loopOfRun(app.context, run.id)
    expect(made).toMatchObject({
      name: 'Test loop 2',
      intake: loop.intake,
      macros: [{ macroId: testMacroId, revision: 1 }],
      deliveries: loop.deliveries,
    })
    expect(loopById(app.context, made.id)).toEqual(made)
  })
  it('is whole though the run’s loop and its macro are in the bin', async () => {
    const app = testApplication()
    fillIntake(app, 2)
    const loop = testLoop(app)
    const run = await startRun(app.context, loop)
    const { steps } = macroById(app.context, testMacroId)
    binLoop(app.context, loop.id)
    binMacro(app.context, testMacroId)
    const made = loopOfRun(app.context, run.id)
    expect(made.intake.folder).toBe(app.intake)
    expect(made.macros).toHaveLength(1)
    expect(macroById(app.context, made.macros[0]?.macroId ?? '').steps).toEqual(steps)
  })
  it.each([
    [['/a/b/1.jpg', '/a/b/2.jpg'], '/a/b'],
    [['/a/b/1.jpg', '/a/bc/2.jpg'], '/a'],
    [['/a/1.jpg', '/b/2.jpg'], '/'],
    [[], ''],
  ])('%o lie in %s', (paths, folder) => expect(commonFolder(paths)).toBe(folder))
})

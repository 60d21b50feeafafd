import { cpSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import { AppError } from '@/base/errors'
import { newStep } from '@/macros/step'
import { fillIntake, quickSteps, type TestApplication, testApplication, testLoop } from '../../tests/application'
import { ended, startRunner } from '../../tests/runner-process'
import { readCommand, UsageError } from './arguments'
import { type ExitCode, execute, type Machine } from './commands'

const asking = [
  { ...newStep('exposure', 'a', { exposureEv: 0.2 }), open: [{ setting: 'exposureEv', question: 'How bright?' }] },
  newStep('resize', 'b', { lengthPx: 120 }),
]

/** Runs a line as the command line would, and tells what it said. */
async function line(app: TestApplication, ...words: string[]): Promise<{ code: ExitCode; said: string[] }> {
  const said: string[] = []
  let runner: ReturnType<typeof startRunner> | undefined
  const machine: Machine = {
    output: { say: (each) => said.push(each), progress: () => undefined },
    wait: (milliseconds) => new Promise((resolve) => setTimeout(resolve, milliseconds)),
    isInterrupted: () => false,
    bringRunner: () => {
      runner ??= startRunner(app)
    },
    leaveRunner: async () => {
      runner?.kill('SIGTERM')
      if (runner) await ended(runner)
    },
  }
  return { code: await execute(app.context, readCommand(words), machine), said }
}

describe('a line', () => {
  it('is understood', () => {
    expect(readCommand(['run', 'Shop', 'a.jpg', '--to', '/x', '--answer', 'Client?=A=B', '--dry'])).toEqual({
      name: 'run',
      loop: 'Shop',
      files: ['a.jpg'],
      to: '/x',
      answers: { 'Client?': 'A=B' },
      onlyChanged: false,
      dry: true,
      json: false,
    })
    expect(readCommand(['export', 'M', '--bundle'])).toEqual({ name: 'export', what: 'M', bundle: true, loop: false, to: undefined })
  })
  it.each([
    [[], 'Which command'],
    [['dance'], 'no command "dance"'],
    [['run'], 'needs the name of a loop'],
    [['run', 'x', '--loud'], '--loud'],
    [['list', '--dry'], 'takes no --dry'],
    [['report', '1', '2'], 'one word too many'],
    [['run', 'x', '--answer', 'noequals'], 'QUESTION=VALUE'],
  ])('%j is refused', (words, sentence) => {
    expect(() => readCommand(words)).toThrow(UsageError)
    expect(() => readCommand(words)).toThrow(sentence)
  })
})

describe('the command line', () => {
  it('takes a mark from a file as the answer, and keeps it with the run', async () => {
    const mark = {
      ...newStep('stamp-image', 'm', { sizePercent: 50, opacityPercent: 100, tint: 'own' }),
      open: [{ setting: 'file', question: 'Whose mark?' }],
    }
    const app = testApplication([newStep('resize', 'r', { lengthPx: 200 }), mark])
    fillIntake(app, 1)
    testLoop(app)
    const file = join(app.root, 'red.png')
    await sharp({ create: { width: 64, height: 64, channels: 3, background: '#ff0000' } }).toFile(file)
    const { code } = await line(app, 'run', 'test', '--answer', `Whose mark?=${file}`)
    expect(code).toBe(0)
    const { data, info } = await sharp(join(app.delivery, 'picture-1.jpg')).raw().toBuffer({ resolveWithObject: true })
    const isRed = (i: number): boolean => (data[i] ?? 0) > 180 && (data[i + 1] ?? 255) < 60
    const red = Array.from({ length: info.width * info.height }, (_, i) => i * 3).filter(isRed).length
    expect(red).toBeGreaterThan(500)
    await expect(line(app, 'run', 'test', '--answer', 'Whose mark?=/nowhere.png')).rejects.toThrow(/nowhere\.png is no longer there/)
  })
  it('runs a loop to its end, by the beginning of its name, with answers', async () => {
    const app = testApplication(asking)
    fillIntake(app, 2)
    testLoop(app)
    const { code, said } = await line(app, 'run', 'test', '--answer', 'How bright?=-2')
    expect([code, said.at(-1)]).toEqual([
      0,
      expect.stringMatching(/^Run 1: 2 delivered, 0 failed, 2 originals unchanged; .* in .*delivered\.$/),
    ])
    const dark = (await sharp(join(app.delivery, 'picture-1.jpg')).stats()).channels[0]?.mean ?? 255
    const plain = await line(app, 'run', 'test', '--json')
    const bright = (await sharp(join(app.delivery, 'picture-1-2.jpg')).stats()).channels[0]?.mean ?? 0
    expect(bright).toBeGreaterThan(dark + 20)
    expect(JSON.parse(plain.said.at(-1) ?? '')).toMatchObject({ format: 'copper-loop/report' })
  })
  it('tells which picture stands out among its siblings', async () => {
    const app = testApplication([newStep('resize', 'r', { lengthPx: 200 })])
    mkdirSync(app.intake, { recursive: true })
    for (const name of ['TLK27_0416', 'TLK27_0417', 'TLK27_0419', 'TLK27_0418'])
      cpSync(`demo/pictures/vessels/${name}.jpg`, join(app.intake, `${name}.jpg`))
    testLoop(app)
    const { said } = await line(app, 'run', 'test')
    expect(said.filter((words) => words.startsWith('Standing out'))).toEqual([
      expect.stringMatching(/^Standing out: .*TLK27_0418\.jpg \(\d+ % nearly white/),
    ])
  })
  it('takes files, to another folder, and only what has changed', async () => {
    const app = testApplication(quickSteps)
    fillIntake(app, 3)
    testLoop(app)
    const to = join(app.root, 'elsewhere')
    await line(app, 'run', 'test', join(app.intake, 'picture-2.jpg'), '--to', to)
    expect(readdirSync(to)).toEqual(['picture-2.jpg'])
    expect((await line(app, 'run', 'test')).code).toBe(0)
    fillIntake(app, 4)
    writeFileSync(join(app.delivery, 'picture-3.jpg'), 'spoilt')
    const { said } = await line(app, 'run', 'test', '--changed')
    // New: 4. Spoilt where it was delivered: 3. Pictures 1 and 2 were copied again, so their time has changed, too.
    expect(said.at(-1)).toMatch(/^Run 3: [1-4] delivered/)
    const again = await line(app, 'run', 'test', '--changed')
    expect(again.said.at(-1)).toMatch(/^Run 4: 0 delivered, 0 failed, 4 skipped/)
  })
  it('tells what would happen, and writes nothing', async () => {
    const app = testApplication(asking)
    fillIntake(app, 1)
    testLoop(app)
    const { code, said } = await line(app, 'run', 'test', '--dry')
    expect(code).toBe(0)
    expect(said[0]).toMatch(/^picture-1\.jpg → .*picture-1\.jpg \(120 × 80 px\)/)
    expect(existsSync(app.delivery)).toBe(false)
  })
  it('says why a loop can’t run, and ends with 3', async () => {
    const app = testApplication()
    testLoop(app)
    expect(await line(app, 'run', 'test')).toEqual({
      code: 3,
      said: [expect.stringMatching(/^Can’t run: There are no pictures/), expect.anything()],
    })
  })
  it('ends with 1 where a picture failed, and names it', async () => {
    const app = testApplication()
    fillIntake(app, 1)
    writeFileSync(join(app.intake, 'broken.jpg'), 'no picture')
    testLoop(app)
    const { code, said } = await line(app, 'run', 'test')
    expect(code).toBe(1)
    expect(said.join('\n')).toMatch(/Failed: .*broken\.jpg is not a picture/)
  })
  it.each([
    [['run', 'nothing'], /There is no single loop called "nothing". There are: Test loop/],
    [['run', 'test', '--answer', 'Who?=me'], /no single question called "Who\?"/],
    [['run', 'test', '--answer', 'How bright?=very'], /can't be answered with very: it takes a number from -5 to 5/],
    [['run', 'test', '--answer', 'How bright?=77'], /can't be answered with 77/],
    [['report', '9'], /no single run called "9"/],
    [['export', 'Nobody'], /no single macro called "Nobody". There are: Quick/],
  ])('%j is answered with a sentence', async (words, sentence) => {
    const app = testApplication(asking)
    fillIntake(app, 1)
    testLoop(app)
    await expect(line(app, ...words)).rejects.toThrow(AppError)
    await expect(line(app, ...words)).rejects.toThrow(sentence)
  })
  it('exports a loop with its macros, and takes it in again under a name that is free', async () => {
    const app = testApplication()
    testLoop(app, { name: 'Shop' })
    const file = join(app.root, 'shop.loop.zip')
    expect((await line(app, 'export', 'shop', '--loop', '--to', file)).said).toEqual([`Shop is in ${file}.`])
    await expect(line(app, 'export', 'shop', '--loop', '--to', file)).rejects.toMatchObject({ code: 'deliveryExists' })
    expect((await line(app, 'import', file)).said[0]).toMatch(/^Shop 2 is among the loops/)
    expect(() => readCommand(['export', 'Shop', '--loop', '--bundle'])).toThrow(/takes no --bundle/)
  })
  it('lists, exports without writing over anything, and imports what it exported', async () => {
    const app = testApplication()
    testLoop(app)
    expect((await line(app, 'list')).said.join('\n')).toMatch(/Loops\n {2}Test loop .*\nMacros\n {2}Quick r1 · 2 steps\nRuns$/)
    const folder = mkdtempSync(join(tmpdir(), 'copper-loop-cli-'))
    const file = join(folder, 'quick.macro.zip')
    await line(app, 'export', 'quick', '--bundle', '--to', file)
    await expect(line(app, 'export', 'quick', '--bundle', '--to', file)).rejects.toMatchObject({ code: 'deliveryExists' })
    expect((await line(app, 'import', file, join(folder, 'gone.json'))).code).toBe(1)
    expect(JSON.parse((await line(app, 'export', 'macro')).said.join('\n'))).toMatchObject({ name: 'Quick' })
    expect(readFileSync(file).subarray(0, 2).toString()).toBe('PK')
  })
})

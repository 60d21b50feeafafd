import { chmodSync, cpSync, mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { defaultDelivery } from '@/jobs/delivery'
import { intakeOf, type Loop } from '@/jobs/loop'
import { newStep } from '@/macros/step'
import { streamPreflight } from '@/web/preflight-stream'
import { fillIntake, type TestApplication, testApplication, testLoop } from '../../../tests/application'
import { estimateBytes, remarkFlatRaw } from './checks'
import { preflightAndKeep } from './kept'
import { preflight } from './preflight'
import { type PreflightLine, viewOfPreflight } from './view'

const sentences = async (...[app, loop]: [ReturnType<typeof testApplication>, ReturnType<typeof testLoop>]) =>
  (await preflight(app.context, loop)).problems.map(({ blocks, sentence }) => `${blocks ? 'blocks' : 'note'}: ${sentence}`)

describe('what a preflight finds before anything is lost', () => {
  it('a stamp that is gone', async () => {
    const app = testApplication([newStep('stamp-image', 's', { file: `${'e'.repeat(64)}/mark.png` })])
    fillIntake(app, 1)
    expect(await sentences(app, testLoop(app))).toEqual([expect.stringMatching(/blocks: Quick: The macro needs the file mark\.png/)])
  })
  it('a macro of which nothing is left', async () => {
    const app = testApplication([{ ...newStep('exposure', 'a'), enabled: false }])
    fillIntake(app, 1)
    expect(await sentences(app, testLoop(app))).toEqual(['note: Quick changes nothing: it has no step that is on.'])
  })
  it('pictures that would be blown up', async () => {
    const app = testApplication([newStep('resize', 'r', { lengthPx: 5000, mayEnlarge: true })])
    fillIntake(app, 2)
    expect(await sentences(app, testLoop(app))).toEqual([expect.stringMatching(/note: 2 pictures will be larger/)])
  })
  it('pictures that lie the other way than a crop of fixed shape', async () => {
    const fixed = testApplication([newStep('crop', 'c', { ratioWidth: 2, ratioHeight: 3, turnsWithPicture: false })])
    fillIntake(fixed, 2)
    expect(await sentences(fixed, testLoop(fixed))).toEqual([expect.stringMatching(/note: 2 landscape pictures will come out as portrait/)])
    const held = {
      macroId: 'm',
      revision: 1,
      name: 'Held',
      steps: [{ ...newStep('crop', 'c', { ratioWidth: 2, ratioHeight: 3, turnsWithPicture: false }) }],
    }
    const playing = testApplication([newStep('play-macro', 'p', { macro: held })])
    fillIntake(playing, 1)
    expect(await sentences(playing, testLoop(playing))).toEqual([expect.stringMatching(/note: 1 landscape picture will come out/)])
    const turning = testApplication([newStep('crop', 'c', { ratioWidth: 2, ratioHeight: 3, turnsWithPicture: true })])
    fillIntake(turning, 2)
    expect(await sentences(turning, testLoop(turning))).toEqual([])
  })
  it.skipIf(process.getuid?.() === 0)('a folder that can’t be written to', async () => {
    const app = testApplication()
    fillIntake(app, 1)
    mkdirSync(join(app.root, 'locked'))
    chmodSync(join(app.root, 'locked'), 0o500)
    expect(await sentences(app, testLoop(app, { deliveries: [defaultDelivery('d', join(app.root, 'locked', 'x'))] }))).toEqual([
      expect.stringMatching(/blocks: Nothing can be written to .*locked/),
    ])
  })
  it('a disk that is too small', async () => {
    const app = testApplication([newStep('resize', 'r', { by: 'percent', scalePercent: 100 })])
    fillIntake(app, 1)
    const loop = testLoop(app)
    const check = await preflight(app.context, loop)
    const [picture] = check.pictures
    const [delivery] = loop.deliveries
    if (!picture || !delivery) throw new Error('Nothing was foreseen')
    const checked = [{ delivery, folder: delivery.folder, pattern: [] }]
    expect(check.totals.estimatedBytes).toBeCloseTo(2400 * 1600 * 0.5, 0)
    expect(estimateBytes([picture, picture, { ...picture, skip: true }], checked)).toBeCloseTo(2400 * 1600, 0)
    const held = { ...delivery, mostKb: 100 }
    expect(estimateBytes([picture], [{ ...checked[0], delivery: held, folder: '', pattern: [] }])).toBe(100_000)
  })
})

describe('what mends a problem', () => {
  const applied = (app: TestApplication, loop: Loop, label: RegExp) =>
    preflight(app.context, loop).then(async ({ problems }) => {
      const found = problems.find(({ mend }) => mend && label.test(mend.label))
      if (!found?.mend) throw new Error(`Nothing offers ${label}: ${JSON.stringify(problems)}`)
      const mended = { ...loop, ...found.mend.change }
      const after = await preflight(app.context, mended)
      expect(after.problems.map(({ sentence }) => sentence)).not.toContain(found.sentence)
      return { mended, after }
    })
  const inFolder = (folder: string): Loop['deliveries'] => [defaultDelivery('d', folder)]

  it('names that two pictures would share are counted', async () => {
    const app = testApplication()
    fillIntake(app, 3)
    const { after } = await applied(app, testLoop(app, {}, { namePattern: 'same' }), /Count them all/)
    expect(after.pictures.map(({ targets }) => targets[0]?.name)).toEqual(['001-same.jpg', '002-same.jpg', '003-same.jpg'])
  })
  it('files that are there are skipped instead of numbered', async () => {
    const app = testApplication()
    fillIntake(app, 1)
    mkdirSync(app.delivery)
    writeFileSync(join(app.delivery, 'picture-1.jpg'), 'mine')
    const { after } = await applied(app, testLoop(app), /Skip these/)
    expect(after.pictures[0]?.skip).toBe(true)
  })
  it('a delivery into the intake goes beside it, and one below it is passed over', async () => {
    const app = testApplication()
    fillIntake(app, 1)
    const { mended } = await applied(app, testLoop(app, { deliveries: inFolder(app.intake) }), /Deliver to intake-delivered/)
    expect(mended.deliveries[0]?.folder).toBe(join(app.root, 'intake-delivered'))
    const below = await applied(app, testLoop(app, { deliveries: inFolder(join(app.intake, 'web', 'small')) }), /Pass over web/)
    expect(below.mended.intake.without).toEqual(['web'])
  })
  it('filters that mean nothing are taken away, and subfolders looked into', async () => {
    const app = testApplication()
    fillIntake(app, 2)
    const filtered = testLoop(app, { intake: intakeOf(app.intake, { only: [{ kind: 'camera', has: 'nobody' }] }) })
    expect((await applied(app, filtered, /Take all/)).after.totals.pictures).toBe(2)
    const outer = testLoop(app, { intake: intakeOf(app.root, { subfolders: false }), deliveries: inFolder(join(app.root, 'x')) })
    expect((await applied(app, outer, /Look in subfolders/)).after.totals.pictures).toBe(2)
  })
  it('a macro that is gone, or does nothing, is taken off', async () => {
    const app = testApplication([{ ...newStep('exposure', 'a'), enabled: false }])
    fillIntake(app, 1)
    await applied(app, testLoop(app), /Take it off/)
    const gone = testLoop(app, { macros: [{ macroId: 'nowhere', revision: null }, ...testLoop(app).macros] })
    expect((await applied(app, gone, /Take it off/)).mended.macros).toHaveLength(1)
  })
  it('pictures that lie the other way are left out, a missing delivery is added, a broken pattern made plain', async () => {
    const app = testApplication([newStep('crop', 'c', { ratioWidth: 2, ratioHeight: 3, turnsWithPicture: false })])
    fillIntake(app, 1)
    expect((await applied(app, testLoop(app), /Take only portrait/)).after.totals.pictures).toBe(0)
    expect((await applied(app, testLoop(app, { deliveries: [] }), /Add a web set/)).mended.deliveries[0]).toMatchObject({
      longEdgePx: 2048,
    })
    await applied(app, testLoop(app, {}, { namePattern: '{nonsense}' }), /Name them as the source/)
  })
})

describe('what a preflight counts', () => {
  it('the pictures that each condition means, also inside a played macro', async () => {
    const portrait = { kind: 'orientation', is: 'portrait' } as const
    const noisy = { kind: 'iso', from: 1600, to: null } as const
    const held = { macroId: 'm', revision: 1, name: 'Held', steps: [{ ...newStep('exposure', 'i'), when: [noisy] }] }
    const app = testApplication([
      { ...newStep('exposure', 'a'), when: [portrait] },
      { ...newStep('contrast', 'off'), when: [portrait], enabled: false },
      { ...newStep('play-macro', 'p', { macro: held }), when: [portrait] },
    ])
    cpSync('demo/pictures', app.intake, { recursive: true })
    const { catches, pictures } = await preflight(app.context, testLoop(app))
    const upright = pictures.filter(({ sizeBefore }) => sizeBefore && sizeBefore.height > sizeBefore.width).length
    expect(catches.map(({ operation, when, pictures, of }) => [operation, when, pictures, of])).toEqual([
      ['exposure', 'portraits', upright, 32],
      ['play-macro', 'portraits', upright, 32],
      ['exposure', 'portraits and ISO 1600 and more', expect.any(Number), 32],
    ])
    expect(catches[2]?.pictures).toBeLessThan(upright)
  })
  it('what names ask, once, together with the macros, and gives the answer to both', async () => {
    const steps = [{ ...newStep('exposure', 'a'), open: [{ setting: 'exposureEv', question: 'Client' }] }, newStep('resize', 'b')]
    const app = testApplication(steps)
    fillIntake(app, 2)
    const loop = testLoop(app, {}, { namePattern: '{ask:Job}/{ask:Client|loop}-{n:1}' })
    const { questions, pictures } = await preflight(app.context, loop)
    expect(questions.map(({ question, operation }) => [question, operation])).toEqual([
      ['Client', 'exposure'],
      ['Job', ''],
    ])
    expect(pictures[0]?.targets[0]?.name).toBe('_/Test loop-1.jpg')
    const answered = await preflight(app.context, loop, { answers: { Job: 'Spring', Client: 0.5 } })
    expect(answered.pictures.map(({ targets }) => targets[0]?.name)).toEqual(['Spring/0.5-1.jpg', 'Spring/0.5-2.jpg'])
  })
  it('names that have to be changed for other systems', async () => {
    const app = testApplication()
    for (const name of ['plain.jpg', 'what?.jpg', 'a:b.jpg', 'dots...jpg', 'u\u0308ber.jpg', `${'x'.repeat(240)}.jpg`])
      cpSync('demo/odd-files/SHELF.JPG', join(app.intake, name))
    const { pictures, problems } = await preflight(app.context, testLoop(app, {}, { namePattern: '{name}-for-the-shop' }))
    const changed = pictures
      .filter(({ targets }) => targets[0]?.madeSafe)
      .map(({ relativePath, targets }) => [relativePath, targets[0]?.name])
    expect(changed).toEqual([
      ['a:b.jpg', 'a-b-for-the-shop.jpg'],
      ['what?.jpg', 'what--for-the-shop.jpg'],
      [`${'x'.repeat(240)}.jpg`, expect.stringMatching(/^x+-for-the-sh\.jpg$/)],
    ])
    expect(problems.map(({ sentence }) => sentence)).toEqual([expect.stringMatching(/^3 names would not be taken by every system/)])
  })
  it('kinds and sizes', async () => {
    const app = testApplication()
    fillIntake(app, 2)
    cpSync('demo/odd-files', join(app.intake, 'odd'), { recursive: true })
    const { kinds, sizes, unreadable } = (await preflight(app.context, testLoop(app))).totals
    expect(kinds).toMatchObject({ jpeg: expect.any(Number), png: 1, tiff: 1 })
    expect(unreadable).toBe(2)
    expect(sizes?.[1]).toEqual({ width: 2400, height: 1600 })
  })
  it('tells as it goes, problems first at last, and ends when nobody listens', async () => {
    const app = testApplication()
    fillIntake(app, 12, 'demo/odd-files/SHELF.JPG')
    writeFileSync(join(app.intake, 'z-broken.jpg'), 'no picture')
    const read = async (signal: AbortSignal): Promise<PreflightLine[]> =>
      (
        await new Response(
          streamPreflight(async (options) => viewOfPreflight(await preflightAndKeep(app.context, testLoop(app), options)), signal),
        ).text()
      )
        .trim()
        .split('\n')
        .filter(Boolean)
        .map((line) => JSON.parse(line))
    const lines = await read(new AbortController().signal)
    const last = lines.at(-1)
    expect(last && 'check' in last && last.check).toMatchObject({ filesToDeliver: 12, notShown: 0, totals: { pictures: 13 } })
    expect(last && 'check' in last && last.check.pictures[0]?.relativePath).toBe('z-broken.jpg')
    const heard: string[] = []
    await preflight(app.context, testLoop(app), {}, { onProgress: ({ stage }) => void heard.push(stage) })
    expect(new Set(heard)).toEqual(new Set(['finding', 'reading', 'foreseeing']))
    await expect(preflight(app.context, testLoop(app), {}, { signal: AbortSignal.abort() })).rejects.toThrow(/abort/i)
  })
})

describe('raw files of which no step makes a picture', () => {
  const facts = { size: { width: 6, height: 4 }, bits: 16, space: 'camera', hasAlpha: false }
  const [raw, jpeg] = [{ facts: { ...facts, format: 'raw' } }, { facts: { ...facts, format: 'jpeg' } }]
  const told = (known: Parameters<typeof remarkFlatRaw>[0], macros: Parameters<typeof remarkFlatRaw>[1]): string[] => {
    const sentences: string[] = []
    remarkFlatRaw(known, macros, (_area, _blocks, sentence) => void sentences.push(sentence))
    return sentences
  }
  const inner = { macroId: 'm', revision: 1, name: 'Held', steps: [{ ...newStep('base-curve', 'b') }] }
  it('are told, with their number', () => {
    expect(told([raw, raw, jpeg], [{ steps: [newStep('exposure', 'e')] }])).toEqual([
      '2 raw files will come out flat: no step makes a picture of them. Add Base curve, before what is done to pictures.',
    ])
    expect(told([raw], [{ steps: [{ ...newStep('base-curve', 'b'), enabled: false }] }])).toHaveLength(1)
  })
  it.each([
    ['none is there', [jpeg], [{ steps: [] }]],
    ['a step makes it', [raw], [{ steps: [newStep('base-curve', 'b')] }]],
    ['a played macro makes it', [raw], [{ steps: [newStep('play-macro', 'p', { macro: inner })] }]],
    ['no macro is laid: it is made by itself', [raw], []],
  ] as const)('are not where %s', (_, known, macros) => expect(told(known, macros)).toEqual([]))
})

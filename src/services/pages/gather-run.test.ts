import { execFileSync } from 'node:child_process'
import { copyFileSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import { sha256 } from '@/files/placing'
import type { Delivery } from '@/jobs/delivery'
import { type Gather, gatherFor, gatherOf } from '@/jobs/gather'
import type { Loop } from '@/jobs/loop'
import { untouched } from '@/jobs/touch-up'
import { newStep } from '@/macros/step'
import { claimItem, finishItem } from '@/store/queue'
import { advanceRun, findRun, listItems, type StoredRun } from '@/store/runs'
import { fillIntake, type TestApplication, testApplication, testLoop } from '../../../tests/application'
import { mounted, unmount } from '../../../tests/mounts'
import { preflight } from '../preflight/preflight'
import { runReport } from '../runs/report'
import { zipEntries } from '../runs/results'
import { type RunWishes, startRun } from '../runs/start'
import { touchUpPicture } from '../touch-ups'
import { gatherRun } from './gather-run'
import { makePages, makePagesAgain, sentPages } from './make-pages'

const gathering = (app: TestApplication, gather: Gather, delivery: Partial<Delivery> = {}): Loop =>
  testLoop(app, { name: 'Twelve vases' }, { gather, namePattern: 'p-{name}', ...delivery })

/** Does what waits as workers would, with small pictures of its own; those whose names are given fail. */
async function work({ context: { db } }: TestApplication, failing: readonly string[] = []): Promise<number> {
  let done = 0
  for (let claim = claimItem(db, 'me', 1, 1000); claim; claim = claimItem(db, 'me', 1, 1000)) {
    const { item, results } = claim
    if (failing.some((name) => item.sourcePath.endsWith(name))) {
      finishItem(db, item, { state: 'failed', milliseconds: 1, delivered: [] }, 2)
      continue
    }
    const delivered = []
    for (const { id, targetPath } of results) {
      const bytes = await sharp({
        create: { width: 90, height: 60, channels: 3, background: `hsl(${item.ordinal * 40 + 7 * item.runId.length},50%,50%)` },
      })
        .jpeg()
        .toBuffer()
      mkdirSync(dirname(targetPath), { recursive: true })
      writeFileSync(targetPath, bytes)
      const known = { hash: sha256(bytes), sizeBytes: bytes.length, width: 90, height: 60, constants: [], traits: null as never }
      delivered.push({ resultId: id, targetPath, ...known })
    }
    finishItem(db, item, { state: 'done', milliseconds: 1, delivered }, 2)
    done++
  }
  return done
}

async function runThrough(app: TestApplication, loop: Loop, wishes: RunWishes = {}, failing: readonly string[] = []): Promise<StoredRun> {
  const { id } = await startRun(app.context, loop, wishes)
  await work(app, failing)
  await gatherRun(app.context, findRun(app.context.db, id) as StoredRun)
  advanceRun(app.context.db, id, 'finished', 3)
  return findRun(app.context.db, id) as StoredRun
}

const pagesOf = (path: string): string => execFileSync('pdfinfo', [path], { encoding: 'utf8' })

describe('a delivery on pages', () => {
  it('is one file in its folder, of all that was delivered; what failed is named', async () => {
    const app = testApplication()
    fillIntake(app, 4)
    const run = await runThrough(app, gathering(app, gatherFor('set')), {}, ['picture-2.jpg'])
    expect(readdirSync(app.delivery)).toEqual(['Twelve vases.pdf'])
    const [file] = run.gathered
    expect(file).toMatchObject({
      path: join(app.delivery, 'Twelve vases.pdf'),
      pages: 3,
      pictures: 3,
      leftOut: ['picture-2.jpg'],
      problem: null,
    })
    expect(pagesOf(file?.path ?? '')).toMatch(/Pages:\s+3/)
    expect(file?.bytes).toBe(readFileSync(file?.path ?? '').length)
    expect(runReport(app.context, run.id).pages).toMatchObject([{ pages: 3, leftOut: ['picture-2.jpg'] }])
    const { entries } = await zipEntries(app.context, run.id)
    expect(entries.map(({ name }) => name)).toEqual(['Twelve vases.pdf'])
  })

  it('never writes over a file: it is numbered; or its own is replaced, if that is wished for and it is as it was', async () => {
    const app = testApplication()
    fillIntake(app, 1)
    mkdirSync(app.delivery)
    const mine = join(app.delivery, 'Twelve vases.pdf')
    writeFileSync(mine, 'mine')
    const numbered = await runThrough(app, gathering(app, gatherFor('set')))
    expect(numbered.gathered[0]?.path).toBe(join(app.delivery, 'Twelve vases-2.pdf'))
    const refused = await runThrough(app, gathering(app, gatherFor('set'), { whenThere: 'replace' }))
    expect(refused.gathered[0]?.problem).toMatch(/Twelve vases\.pdf/)
    expect(readFileSync(mine, 'utf8')).toBe('mine')

    rmSync(mine)
    const loop = gathering(app, gatherFor('set'), { whenThere: 'replace' })
    const first = await runThrough(app, loop)
    fillIntake(app, 2)
    const second = await runThrough(app, loop)
    expect([first, second].map(({ gathered }) => [gathered[0]?.path, gathered[0]?.pages])).toEqual([
      [mine, 1],
      [mine, 2],
    ])
  })

  it('is made anew only if one of its pictures is; then of the whole set', async () => {
    const app = testApplication()
    fillIntake(app, 3)
    const loop = gathering(app, gatherFor('set'), { whenThere: 'replace' })
    const first = await runThrough(app, loop)
    const before = readFileSync(first.gathered[0]?.path ?? '')

    const same = await runThrough(app, loop, { only: 'changed' })
    expect(same.gathered[0]).toMatchObject({ hash: first.gathered[0]?.hash, pages: 3 })
    expect(readFileSync(first.gathered[0]?.path ?? '').equals(before)).toBe(true)

    copyFileSync(join(app.intake, 'picture-1.jpg'), join(app.intake, 'picture-9.jpg'))
    const { id } = await startRun(app.context, loop, { only: 'changed' })
    expect(await work(app)).toBe(1)
    await gatherRun(app.context, findRun(app.context.db, id) as StoredRun)
    const grown = findRun(app.context.db, id)?.gathered[0]
    expect(grown).toMatchObject({ pages: 4, leftOut: [], problem: null })
    expect(pagesOf(grown?.path ?? '')).toMatch(/Pages:\s+4/)
  })

  it('leaves out what was set aside; touched up, a picture is made anew and the others stay', async () => {
    const app = testApplication()
    fillIntake(app, 3)
    const loop = gathering(app, gatherFor('set'), { whenThere: 'replace' })
    await runThrough(app, loop)
    const edit = (name: string, part: object) =>
      touchUpPicture(app.context, { loopId: loop.id, sourcePath: join(app.intake, name), touchUp: { ...untouched, ...part }, version: 0 })
    await edit('picture-1.jpg', { setAside: true })
    await edit('picture-2.jpg', { after: [newStep('exposure', 'e', { exposureEv: 0.5 })] })
    const { id } = await startRun(app.context, loop, { only: 'touched' })
    expect(await work(app)).toBe(1)
    await gatherRun(app.context, findRun(app.context.db, id) as StoredRun)
    expect(findRun(app.context.db, id)?.gathered[0]).toMatchObject({ pages: 2, pictures: 2, leftOut: ['picture-1.jpg'], problem: null })
  })

  it('ends without a file where it can’t be made, says why, and leaves nothing half written', async () => {
    const app = testApplication()
    fillIntake(app, 2)
    const loop = gathering(app, gatherFor('set'))
    const { id } = await startRun(app.context, loop)
    await work(app)
    const run = findRun(app.context.db, id) as StoredRun
    const waiting = run.deliveries[0]?.folder ?? ''
    rmSync(join(waiting, 'p-picture-2.jpg'))
    await gatherRun(app.context, run)
    const [file] = findRun(app.context.db, id)?.gathered ?? []
    expect(file?.problem).toMatch(/p-picture-2\.jpg/)
    expect(readdirSync(app.delivery)).toEqual([])
    const none = await runThrough(app, loop, {}, ['picture-1.jpg', 'picture-2.jpg'])
    expect(none.gathered[0]).toMatchObject({ problem: 'None of its pictures was delivered.', leftOut: ['picture-1.jpg', 'picture-2.jpg'] })
  })

  it('cut off and begun again is the same file once, as pages of pictures too', async () => {
    const app = testApplication()
    fillIntake(app, 5)
    for (const gather of [gatherFor('set'), gatherOf({ columns: 2, rows: 1, dpi: 60, format: 'jpeg', fileName: '{loop} {delivery}' })]) {
      rmSync(app.delivery, { recursive: true, force: true })
      const run = await runThrough(app, gathering(app, gather))
      const names = readdirSync(app.delivery)
      // As after a kill between the last file and the note of it.
      await gatherRun(app.context, { ...run, gathered: [] })
      expect(readdirSync(app.delivery)).toEqual(names)
      expect(findRun(app.context.db, run.id)?.gathered).toEqual(run.gathered)
      expect(names).toEqual(gather.kind === 'set' ? ['Twelve vases.pdf'] : [1, 2, 3].map((page) => `Twelve vases Web set-${page}.jpg`))
    }
  })

  it('keeps pictures that wait only as long as pages need them', async () => {
    const app = testApplication()
    fillIntake(app, 2)
    const loop = gathering(app, gatherFor('set'))
    const [first, second] = [await runThrough(app, loop), await runThrough(app, loop)]
    expect(existsSync(first.deliveries[0]?.folder ?? '')).toBe(false)
    expect(readdirSync(second.deliveries[0]?.folder ?? '')).toEqual(['p-picture-1.jpg', 'p-picture-2.jpg'])
  })

  it('on a disk that fills up leaves nothing there, says so, and is made once there is room', async () => {
    const app = testApplication()
    mkdirSync(app.delivery)
    if (!mounted('-t', 'tmpfs', '-o', 'size=256k', 'tmpfs', app.delivery)) return
    try {
      fillIntake(app, 4)
      const { id } = await startRun(app.context, gathering(app, gatherFor('set')))
      await work(app)
      // Somebody else's file comes meanwhile.
      const other = join(app.delivery, 'other')
      writeFileSync(other, Buffer.alloc(252 << 10))
      await gatherRun(app.context, findRun(app.context.db, id) as StoredRun)
      advanceRun(app.context.db, id, 'finished', 3)
      expect(findRun(app.context.db, id)?.gathered[0]?.problem).toMatch(
        /The disk that holds .* is full\. Free some space; then make the pages again\./,
      )
      expect(readdirSync(app.delivery)).toEqual(['other'])
      rmSync(other)
      await makePagesAgain(app.context, id)
      expect(findRun(app.context.db, id)?.gathered[0]).toMatchObject({ problem: null, pages: 4 })
      expect(readdirSync(app.delivery)).toEqual(['Twelve vases.pdf'])
    } finally {
      unmount(app.delivery)
    }
  })

  it('afterwards, of what was delivered, is written beside what is there, and noted with the run', async () => {
    const app = testApplication()
    fillIntake(app, 3)
    const run = await runThrough(app, testLoop(app, { name: 'Twelve vases' }))
    const resultIds = listItems(app.context.db, run.id).flatMap(({ results }) => results.map(({ id }) => id))
    const wish = { resultIds: resultIds.slice(1), gather: gatherFor('set'), folder: join(app.root, 'pages') }
    const [file] = await makePages(app.context, wish)
    expect(file).toMatchObject({ path: join(app.root, 'pages', 'Twelve vases.pdf'), pages: 2, pictures: 2 })
    expect(findRun(app.context.db, run.id)?.gathered).toEqual([file])
    const sent = await sentPages(app.context, run.id, 0)
    expect(Buffer.from(await new Response(sent.stream).arrayBuffer()).equals(readFileSync(file?.path ?? ''))).toBe(true)
    await expect(sentPages(app.context, run.id, 1)).rejects.toMatchObject({ code: 'notFound' })
    await expect(makePages(app.context, { ...wish, folder: '/etc' })).rejects.toMatchObject({ code: 'outsideRoots' })
    await expect(makePages(app.context, { ...wish, resultIds: [987_654] })).rejects.toMatchObject({ code: 'notFound' })
    rmSync(join(app.delivery, 'picture-2.jpg'))
    await expect(makePages(app.context, wish)).rejects.toMatchObject({ code: 'pagesFailed' })
    expect(readdirSync(join(app.root, 'pages'))).toEqual(['Twelve vases.pdf'])
  })

  it('puts what was answered before the run under its pictures', async () => {
    const app = testApplication()
    fillIntake(app, 1)
    const loop = gathering(app, gatherOf({ captions: ['{name} for {ask:Client?}'] }))
    expect((await preflight(app.context, loop)).questions.map(({ question }) => question)).toEqual(['Client?'])
    const run = await runThrough(app, loop, { answers: { 'Client?': 'Tern Lane' } })
    const words = execFileSync('pdftotext', [run.gathered[0]?.path ?? '', '-'], { encoding: 'utf8' })
    expect(words).toContain('picture-1 for Tern Lane')
  })

  it('asks for pictures no larger than their places, and tells their lines beforehand', async () => {
    const app = testApplication([])
    fillIntake(app, 2)
    const sheet = gatherOf({ grid: 'size', cellMm: 25.4, dpi: 200, captions: ['{name} {n:01}', '', '{width}'] })
    const { pictures, problems } = await preflight(app.context, gathering(app, sheet, { format: 'tiff' }))
    expect(problems.filter(({ blocks }) => blocks)).toEqual([])
    expect(pictures.map(({ targets }) => [targets[0]?.name, targets[0]?.size, targets[0]?.captions])).toEqual([
      ['p-picture-1.jpg', { width: 200, height: 133 }, ['picture-1 01', '200']],
      ['p-picture-2.jpg', { width: 200, height: 133 }, ['picture-2 02', '200']],
    ])
  })

  it.each([
    ['a field that is none', { head: '{nothing}' }, /\{nothing\} is not a field here/],
    ['a caption that can’t be read', { captions: ['{name'] }, /A \{ is not closed/],
    ['a page too large as a picture', { format: 'png', dpi: 1200, paper: 'a3' }, /too large as a picture/],
  ] as const)('is refused before it runs with %s', async (_, part, sentence) => {
    const app = testApplication()
    fillIntake(app, 1)
    const { problems } = await preflight(app.context, gathering(app, gatherOf(part as Partial<Gather>)))
    expect(problems.find(({ blocks }) => blocks)?.sentence).toMatch(sentence)
  })
})

import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { sha256, temporaryPrefix } from '@/files/placing'
import { defaultDelivery } from '@/jobs/delivery'
import { preflight } from '@/services/preflight/preflight'
import { startRun } from '@/services/runs/start'
import { type RunResultRow, runDetail } from '@/services/runs/summary'
import { type TestApplication, testApplication, testLoop } from './application'
import { layOddEntries, type OddEntry } from './odd-entries'
import { ended, isDone, runUntil, startRunner } from './runner-process'

/* One folder of everything that people's folders hold, two deliveries: every entry is accounted for, in words a person understands. */

/** Words of libraries and systems that say nothing to a person. */
const jargon =
  /vips|libpng|libjpeg|tiff2|spng|heif:|sharp|EN[A-Z]{3,}|errno|undefined|null|\[object|Input (buffer|file)|seek|scanline|Error:/i

describe('a folder of odd entries', () => {
  let app: TestApplication
  let entries: readonly OddEntry[]
  let rows: readonly RunResultRow[]
  let told: readonly string[]
  let runner: ReturnType<typeof startRunner>
  let before: readonly string[]
  const hashes = (): string[] =>
    readdirSync(app.intake, { withFileTypes: true })
      .filter((entry) => entry.isFile())
      .map(({ name }) => sha256(readFileSync(join(app.intake, name))))

  beforeAll(async () => {
    app = testApplication()
    entries = await layOddEntries(app.intake)
    before = hashes()
    const deliveries = [
      { ...defaultDelivery('web', join(app.root, 'web')), longEdgePx: 32, sidecar: true },
      {
        ...defaultDelivery('master', join(app.root, 'master')),
        format: 'tiff' as const,
        bits: 16 as const,
        namePattern: '{n:001}-{name:plain}',
      },
    ]
    const loop = testLoop(app, { deliveries })
    const check = await preflight(app.context, loop)
    expect(check.problems.filter(({ blocks }) => blocks)).toEqual([])
    runner = startRunner(app)
    const { id } = await startRun(app.context, loop)
    await runUntil(app, id, isDone, 180_000)
    const detail = runDetail(app.context, id)
    rows = detail.results
    told = detail.leftOut
    expect(detail.originals).toMatch(/all unchanged/)
  }, 240_000)
  afterAll(async () => {
    runner.kill('SIGTERM')
    await ended(runner)
  })

  it('holds enough to mean something', () => expect(entries.length).toBeGreaterThanOrEqual(152))

  it('has each one come to what it must', () => {
    const came = new Map(rows.map((row) => [row.relativePath, row]))
    const wrong = entries.flatMap(({ name, outcome }) => {
      const row = came.get(name)
      const what = row === undefined ? 'no part' : (row.error ?? (row.state === 'done' ? 'delivered' : row.state))
      const isRight = outcome instanceof RegExp ? outcome.test(what) : what === outcome
      return isRight ? [] : [`${JSON.stringify(name)}: ${what}`]
    })
    expect(wrong).toEqual([])
    expect(rows).toHaveLength(entries.filter(({ outcome }) => outcome !== 'no part').length)
  })

  it('says what went wrong in words a person understands', () => {
    for (const { error, remarks, sourcePath } of rows)
      for (const sentence of [...(error ? [error] : []), ...remarks].map((each) => each.replace(sourcePath, 'It'))) {
        expect(sentence).not.toMatch(jargon)
        expect(sentence).toMatch(/^It .*\.$/s)
      }
    expect(told.join(' ')).toMatch(
      /files of kinds that are not read: .*HEIC.*6 links .* not followed.*1 entry with a picture's name is no file/,
    )
    expect(
      rows
        .filter(({ remarks }) => remarks.some((remark) => /holds 3 pictures; the first one was taken/.test(remark)))
        .map(({ relativePath }) => relativePath),
    ).toEqual(['moving.webp', 'three-pages.tif'])
  })

  it('is delivered whole, twice, under names that every system takes, and no two are one', async () => {
    const done = rows.filter(({ state }) => state === 'done')
    for (const folder of ['web', 'master']) {
      const names = readdirSync(join(app.root, folder))
      expect(names.filter((name) => name.startsWith(temporaryPrefix))).toEqual([])
      const pictures = names.filter((name) => !name.endsWith('.json'))
      expect(pictures).toHaveLength(done.length)
      expect(new Set(names.map((name) => name.normalize('NFC').toLowerCase())).size).toBe(names.length)
      for (const name of names) {
        // biome-ignore lint/suspicious/noControlCharactersInRegex: control characters are what must not be there
        expect(name).not.toMatch(/[<>:"/\\|?*\u0000-\u001f]|[. ]$|^(con|nul|com1|lpt9)(\.|$)/i)
        expect(Buffer.byteLength(name)).toBeLessThanOrEqual(255)
      }
    }
    for (const { results } of done)
      for (const { path, width, height } of results) {
        const { data, info } = await sharp(path, { limitInputPixels: false }).raw().toBuffer({ resolveWithObject: true })
        expect([info.width, info.height, data.length > 0]).toEqual([width, height, true])
      }
    expect(hashes()).toEqual(before)
  })
})

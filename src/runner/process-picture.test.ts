import { cpSync, mkdirSync, mkdtempSync, readFileSync, statSync, utimesSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import sharp from 'sharp'
import { beforeEach, describe, expect, it } from 'vitest'
import { sha256 } from '@/files/placing'
import { type Delivery, defaultDelivery } from '@/jobs/delivery'
import { formats } from '@/jobs/encoding'
import { newStep, type Step } from '@/macros/step'
import { testKernels } from '../../tests/kernels'
import { isMendable, type PictureJob } from './messages'
import { processPicture } from './process-picture'

let folder: string
let out: string
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'copper-loop-picture-'))
  out = join(folder, 'out')
  mkdirSync(out)
})

/** A job for one source with a delivery of each long edge. */
function job(sourcePath: string, longEdges: readonly (number | null)[], steps: readonly Step[] = []): PictureJob {
  const { size, mtimeMs } = statSync(sourcePath)
  return {
    runId: 'run',
    itemId: 1,
    token: 1,
    roots: [folder, resolve('demo')],
    damaged: 'fail',
    sourcePath,
    sizeBytes: size,
    modifiedMs: Math.floor(mtimeMs),
    steps,
    macros: [{ name: 'Test', revision: 2 }],
    targets: longEdges.map((longEdgePx, i) => ({
      resultId: i + 1,
      path: join(out, `${i}.jpg`),
      delivery: { ...defaultDelivery(String(i), out), longEdgePx },
      replaces: null,
    })),
  }
}
const source = (from = 'demo/pictures/vessels/TLK27_0437.jpg'): string => {
  const path = join(folder, 'source.jpg')
  cpSync(from, path)
  return path
}
const run = async (wanted: PictureJob) => processPicture(await testKernels(), wanted)

describe('a picture’s way through a run', () => {
  it.each([
    ['neighbours', ['full-range', 'local-contrast', 'unsharp-mask']],
    ['tone', ['vibrance', 'full-range', 'brightness-contrast']],
  ])(
    'gives each of several deliveries the very bytes it gets alone, though a macro that ends in %s is rendered once',
    async (_, operations) => {
      const path = source()
      const steps = operations.map((operation) => newStep(operation, operation))
      const together = await run(job(path, [null, 500, 200], steps))
      const alone: string[] = []
      for (const edge of [null, 500, 200]) {
        const wanted = job(path, [edge], steps)
        const targets = wanted.targets.map((target) => ({ ...target, path: join(out, `alone-${edge}.jpg`) }))
        alone.push((await run({ ...wanted, targets })).delivered[0]?.hash ?? '')
      }
      expect(together.delivered.map(({ hash }) => hash)).toEqual(alone)
      expect(together.delivered[1]?.constants).toMatchObject([...operations, 'resize'].map((operation) => ({ operation })))
    },
  )
  it('ends in a file per delivery, each of its size, with hashes, constants and the original unchanged', async () => {
    const path = source()
    const outcome = await run(job(path, [300, 120], [newStep('crop', 'c', { ratioWidth: 1, ratioHeight: 1 })]))
    expect(outcome).toMatchObject({
      state: 'done',
      width: 1600,
      height: 2400,
      sourceUnchanged: true,
      sourceHash: sha256(readFileSync(path)),
    })
    for (const [i, edge] of [300, 120].entries()) {
      const file = readFileSync(join(out, `${i}.jpg`))
      expect(await sharp(file).metadata()).toMatchObject({ width: edge, height: edge, format: 'jpeg' })
      expect(outcome.delivered[i]).toMatchObject({ resultId: i + 1, width: edge, height: edge, sizeBytes: file.length, hash: sha256(file) })
      expect(outcome.delivered[i]?.constants).toMatchObject([
        { stepId: 'c', constants: { width: 1600, height: 1600 } },
        { operation: 'resize' },
      ])
    }
  })
  it('tells what each file looks like as a whole, in 8 and 16 bits', async () => {
    const as = async (format: 'jpeg' | 'tiff', exposureEv: number) => {
      const wanted = job(source(), [300], [newStep('exposure', 'e', { exposureEv })])
      const targets = wanted.targets.map((target) => ({
        ...target,
        path: join(out, `${exposureEv}.${format}`),
        delivery: { ...target.delivery, format, ...(format === 'tiff' ? { bits: 16 as const } : {}) },
      }))
      return (await run({ ...wanted, targets })).delivered[0]?.traits
    }
    const [plain, deep, bright] = [await as('jpeg', 0), await as('tiff', 0), await as('jpeg', 2)]
    expect(deep?.lightness).toBeCloseTo(plain?.lightness ?? 0, 0)
    expect(bright?.lightness).toBeGreaterThan((plain?.lightness ?? 100) + 14)
    expect(bright?.brightPercent).toBeGreaterThan((plain?.brightPercent ?? 100) + 10)
  })
  it('gives the same bytes every time', async () => {
    const wanted = job(
      source(),
      [200],
      [newStep('unsharp-mask', 'u'), newStep('white-balance', 'w', { by: 'auto' }), newStep('full-range', 'a')],
    )
    const [first, second] = [await run(wanted), await run(wanted)]
    expect(first.delivered[0]?.hash).toBe(second.delivered[0]?.hash)
    expect(second.state).toBe('done')
  })
  it('judges conditions by the file that came in', async () => {
    const square = {
      ...newStep('crop', 'c', { ratioWidth: 1, ratioHeight: 1 }),
      when: [{ kind: 'iso', from: 400, to: 400 } as const, { kind: 'keyword', has: 'bottle' } as const],
    }
    expect((await run(job(source(), [100], [square]))).delivered[0]).toMatchObject({ width: 100, height: 100 })
    const other = await run({
      ...job(source(), [100], [{ ...square, when: [{ kind: 'iso', from: 800, to: null }] }]),
      itemId: 2,
      targets: job(source(), [100]).targets.map((target) => ({ ...target, path: join(out, 'other.jpg') })),
    })
    expect(other.delivered[0]).toMatchObject({ width: 67, height: 100 })
  })
  it('tells when the original was changed by somebody else after the list was made', async () => {
    const path = source()
    const wanted = job(path, [100])
    utimesSync(path, 1, 1)
    expect(await run(wanted)).toMatchObject({ state: 'done', sourceUnchanged: false })
  })
  it.each([
    ['one byte of it', (bytes: Buffer) => Buffer.concat([bytes.subarray(0, -1), Buffer.of(0)])],
    ['nothing', (bytes: Buffer) => bytes],
  ])('tells when %s was changed meanwhile, size and time being as before', async (what, change) => {
    // Longer than what is compared at a time.
    const path = source('demo/pictures/kiln-and-yard/TLK27_0401.jpg')
    utimesSync(path, 1000, 1000)
    const wanted = job(path, [100])
    const meddling = async (): Promise<boolean> => {
      writeFileSync(path, change(readFileSync(path)))
      utimesSync(path, 1000, 1000)
      return true
    }
    const { state, sourceUnchanged } = await processPicture(await testKernels(), wanted, undefined, meddling)
    expect([state, sourceUnchanged]).toEqual(['done', what === 'nothing'])
  })
  it.each([
    ['empty.jpg', 'fileEmpty'],
    ['notes.jpg', 'notAPicture'],
    ['truncated.jpg', 'pictureDamaged'],
  ])('%s becomes its own error: %s', async (name, code) => {
    const outcome = await run(job(source(`demo/odd-files/${name}`), [100]))
    expect(outcome).toMatchObject({ state: 'failed', error: { code }, delivered: [] })
    expect(isMendable(outcome.error)).toBe(false)
  })
  it('leaves a file that is not its own alone, and says so', async () => {
    writeFileSync(join(out, '0.jpg'), 'somebody else’s')
    expect(await run(job(source(), [100]))).toMatchObject({ state: 'failed', error: { code: 'deliveryExists' } })
    expect(readFileSync(join(out, '0.jpg'), 'utf8')).toBe('somebody else’s')
  })
  it('calls a missing delivery folder a fault that can be mended', async () => {
    const wanted = job(source(), [100])
    const gone = join(folder, 'gone')
    const outcome = await run({
      ...wanted,
      targets: wanted.targets.map((target) => ({ ...target, path: join(gone, 'x.jpg'), delivery: { ...target.delivery, folder: gone } })),
    })
    expect(isMendable(outcome.error)).toBe(true)
  })
  it('refuses steps of a newer version with the operation’s name', async () => {
    const outcome = await run(job(source(), [100], [newStep('dream', 'd')]))
    expect(outcome.state).toBe('failed')
    expect(outcome.error?.details.reason).toMatch(/"dream"/)
  })

  const withDelivery = (wanted: PictureJob, ...parts: readonly Partial<Delivery>[]): PictureJob => ({
    ...wanted,
    targets: parts.map((part, i) => {
      const delivery = { ...defaultDelivery(String(i), out), ...part }
      return { resultId: i + 1, path: join(out, `${i}.${formats[delivery.format].extension}`), delivery, replaces: null }
    }),
  })
  it('leaves stamps out of a delivery that wants none, those of played macros too', async () => {
    const stamp = newStep('stamp-text', 's', { text: 'MARK', sizePercent: 30, tint: 'given', colour: '#ff00ff', opacityPercent: 100 })
    const play = newStep('play-macro', 'p', { macro: { macroId: '', name: 'x', revision: 1, steps: [{ ...stamp }] } })
    const folders = { files: '', fonts: '.build/fonts' }
    const path = source()
    const small = newStep('resize', 'r', { lengthPx: 300 })
    const outcome = await processPicture(
      await testKernels(),
      withDelivery(job(path, [null], [small, play]), {}, { stamps: false }),
      folders,
    )
    expect(outcome.error).toBeUndefined()
    const plain = withDelivery(job(path, [null], [small]), {})
    const target = plain.targets.map((each) => ({ ...each, path: join(out, 'plain.jpg') }))
    const [stamped, unstamped] = outcome.delivered
    expect(unstamped?.hash).toBe((await run({ ...plain, targets: target })).delivered[0]?.hash)
    expect(stamped?.hash).not.toBe(unstamped?.hash)
  })
  it('says beside a picture how it was made; the same is made again from that alone', async () => {
    const path = source()
    const steps = [newStep('full-range', 'l'), newStep('crop', 'c')]
    const outcome = await run(withDelivery(job(path, [null], steps), { sidecar: true, longEdgePx: 240 }))
    const text = JSON.parse(readFileSync(join(out, '0.jpg.steps.json'), 'utf8'))
    expect(text).toMatchObject({
      format: 'copper-loop/steps',
      source: { name: 'source.jpg', sha256: sha256(readFileSync(path)) },
      sha256: outcome.delivered[0]?.hash,
      macros: [{ name: 'Test', revision: 2 }],
    })
    expect(JSON.stringify(text)).not.toContain(folder)
    const again = withDelivery(job(path, [null], text.steps), text.delivery)
    const target = again.targets.map((each) => ({ ...each, path: join(out, 'again.jpg'), delivery: { ...each.delivery, sidecar: false } }))
    expect((await run({ ...again, targets: target })).delivered[0]?.hash).toBe(text.sha256)
  })
  it('keeps what can be seen through in formats that know it, and lays it on white in others', async () => {
    const path = join(folder, 'clear.png')
    const dot = Buffer.from('<svg width="60" height="40"><circle cx="30" cy="20" r="15" fill="#a54"/></svg>')
    await sharp(dot).png().toFile(path)
    const outcome = await run(
      withDelivery(job(path, [null], [newStep('exposure', 'e', { exposureEv: 0.2 })]), { format: 'png' }, { format: 'jpeg' }),
    )
    expect(outcome.state).toBe('done')
    const [clear, white] = await Promise.all(
      ['0.png', '1.jpg'].map((name) => sharp(join(out, name)).raw().toBuffer({ resolveWithObject: true })),
    )
    expect([clear?.info.channels, clear?.data[3]]).toEqual([4, 0])
    expect([white?.info.channels, ...(white?.data.subarray(0, 3) ?? [])]).toEqual([3, 255, 255, 255])
  })
  it('sharpens for the delivered size, and writes the picture’s own words into its fields', async () => {
    const metadata = {
      policy: 'none' as const,
      fields: { title: '{title}, {name:upper}', description: '', creator: '', rights: '', keywords: '' },
    }
    await run(withDelivery(job(source(), [null]), { longEdgePx: 300 }, { longEdgePx: 300, sharpenPercent: 80, metadata }))
    const [soft, crisp] = await Promise.all(
      ['0.jpg', '1.jpg'].map(async (name) => (await sharp(join(out, name)).greyscale().stats()).sharpness),
    )
    expect(crisp).toBeGreaterThan((soft ?? 0) * 1.1)
    expect((await sharp(join(out, '1.jpg')).metadata()).xmp?.toString()).toContain('Speckled bottle and cup, SOURCE')
  })
})

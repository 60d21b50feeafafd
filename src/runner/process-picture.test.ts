import { cpSync, mkdirSync, mkdtempSync, readFileSync, statSync, utimesSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { beforeEach, describe, expect, it } from 'vitest'
import { defaultDelivery } from '@/core/loop'
import { newStep, type Step } from '@/macro/step'
import { sha256 } from '@/pictures/place'
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
    sourcePath,
    sizeBytes: size,
    modifiedMs: Math.floor(mtimeMs),
    steps,
    targets: longEdges.map((longEdgePx, i) => ({
      resultId: i + 1,
      path: join(out, `${i}.jpg`),
      delivery: { ...defaultDelivery(String(i), out), longEdgePx },
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
  it('gives each of several deliveries the very bytes it gets alone, though the macro is rendered once', async () => {
    const path = source()
    const steps = [newStep('auto-levels', 'l'), newStep('local-contrast', 'c'), newStep('unsharp-mask', 'u')]
    const together = await run(job(path, [null, 500, 200], steps))
    const alone: string[] = []
    for (const edge of [null, 500, 200]) {
      const wanted = job(path, [edge], steps)
      const targets = wanted.targets.map((target) => ({ ...target, path: join(out, `alone-${edge}.jpg`) }))
      alone.push((await run({ ...wanted, targets })).delivered[0]?.hash ?? '')
    }
    expect(together.delivered.map(({ hash }) => hash)).toEqual(alone)
    expect(together.delivered[1]?.constants).toMatchObject(
      ['auto-levels', 'local-contrast', 'unsharp-mask', 'resize'].map((operation) => ({ operation })),
    )
  })
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
  it('gives the same bytes every time', async () => {
    const wanted = job(
      source(),
      [200],
      [newStep('unsharp-mask', 'u'), newStep('white-balance', 'w', { by: 'auto' }), newStep('auto-levels', 'a')],
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
})

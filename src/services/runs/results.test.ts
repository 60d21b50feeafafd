import { existsSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { buffer } from 'node:stream/consumers'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import yauzl from 'yauzl'
import { defaultDelivery } from '@/jobs/delivery'
import { shownType } from '@/services/runs/shown-type'
import { fillIntake, testApplication, testLoop } from '../../../tests/application'
import { ended, isDone, runUntil, startRunner } from '../../../tests/runner-process'
import { runReport } from './report'
import { shownResult, zipEntries } from './results'
import { startRun } from './start'
import { runResults } from './summary'
import { tryLoop } from './tries'
import { zipOf } from './zip-of-run'

describe('trying a loop', () => {
  it('makes three real results in a folder of its own, and leaves the deliveries alone', async () => {
    const app = testApplication()
    fillIntake(app, 7)
    const loop = testLoop(app, {}, { longEdgePx: 90 })
    const runner = startRunner(app)
    try {
      const { id } = await tryLoop(app.context, loop)
      await runUntil(app, id, isDone)
      const rows = runResults(app.context, id)
      expect(rows.map(({ relativePath }) => relativePath)).toEqual(['picture-1.jpg', 'picture-4.jpg', 'picture-7.jpg'])
      expect(existsSync(app.delivery)).toBe(false)
      expect((await shownResult(app.context, rows[2]?.results[0]?.id ?? 0)).length).toBeGreaterThan(500)
    } finally {
      runner.kill('SIGTERM')
      await ended(runner)
    }
  })
  it('needs a picture that can be read', async () => {
    const app = testApplication()
    await expect(tryLoop(app.context, testLoop(app))).rejects.toMatchObject({ code: 'loopNotReady' })
  })
})

describe('what a run delivered', () => {
  it('is shown pixel for pixel, goes out as one archive, and is reported as it was delivered', async () => {
    const app = testApplication()
    fillIntake(app, 2)
    const deliveries = [
      { ...defaultDelivery('web', join(app.root, 'web')), longEdgePx: 100 },
      {
        ...defaultDelivery('master', join(app.root, 'master')),
        format: 'tiff' as const,
        bits: 16 as const,
        space: 'romm' as const,
        dpi: 300,
      },
    ]
    const runner = startRunner(app)
    try {
      const { id } = await startRun(app.context, testLoop(app, { deliveries }))
      await runUntil(app, id, isDone)
      const [first] = runResults(app.context, id)
      const [web, master] = first?.results ?? []
      expect((await sharp(await shownResult(app.context, web?.id ?? 0)).metadata()).format).toBe('jpeg')
      const shown = await shownResult(app.context, master?.id ?? 0)
      const { format, width } = await sharp(shown).metadata()
      expect([format, width, shownType(master?.path ?? '')]).toEqual(['png', master?.width, 'image/png'])

      expect(runReport(app.context, id).pictures.map(({ profile, dpi }) => [profile, dpi])).toEqual([
        ['sRGB', null],
        ['ROMM RGB', 300],
        ['sRGB', null],
        ['ROMM RGB', 300],
      ])

      rmSync(join(app.root, 'web', 'picture-2.jpg'))
      const { entries, name } = await zipEntries(app.context, id)
      const archive = await yauzl.fromBufferPromise(await buffer(zipOf(entries) as never))
      const names: string[] = []
      for await (const entry of archive.eachEntry()) names.push(entry.fileName)
      expect(name).toBe('Test loop 1.zip')
      expect(names.sort()).toEqual(['master/picture-1.tif', 'master/picture-2.tif', 'web/picture-1.jpg'])
    } finally {
      runner.kill('SIGTERM')
      await ended(runner)
    }
  })
})

import { mkdirSync, readdirSync, statSync } from 'node:fs'
import { join } from 'node:path'
import sharp from 'sharp'
import type { Delivery } from '@/jobs/delivery'
import type { Step } from '@/macros/step'
import { processPicture } from '@/runner/process-picture'
import { testKernels } from '../tests/kernels'

/*
 * A picture's whole way without runner, queue and database, over and over in one process: what a bare core does.
 * Told by message what to do; answers when it is warm, and with the seconds it took.
 */

export interface BareWork {
  readonly intake: string
  readonly steps: readonly Step[]
  readonly delivery: Delivery
}

sharp.concurrency(1)
sharp.cache(false)

process.once('message', async ({ intake, steps, delivery }: BareWork) => {
  const kernels = await testKernels()
  const own = { ...delivery, folder: join(delivery.folder, String(process.pid)) }
  mkdirSync(own.folder, { recursive: true })
  const one = async (name: string, as: string): Promise<void> => {
    const sourcePath = join(intake, name)
    const { size, mtimeMs } = statSync(sourcePath)
    const target = { resultId: 1, path: join(own.folder, as), delivery: own, replaces: null }
    const job = {
      runId: 'bare',
      itemId: 1,
      token: 1,
      roots: [intake, own.folder],
      damaged: 'fail' as const,
      sourcePath,
      sizeBytes: size,
      modifiedMs: Math.floor(mtimeMs),
      steps,
      macros: [],
      targets: [target],
    }
    const { error } = await processPicture(kernels, job)
    if (error) throw new Error(JSON.stringify(error))
  }
  const names = readdirSync(intake)
  for (let i = 0; i < 3; i++) await one(names[0] ?? '', `warm-${i}.jpg`)
  process.send?.('warm')
  process.once('message', async () => {
    const started = performance.now()
    for (const name of names) await one(name, name)
    process.send?.((performance.now() - started) / 1000)
    process.disconnect()
  })
})

import { mkdirSync, mkdtempSync, statSync, copyFileSync } from 'node:fs'
import { join } from 'node:path'
import sharp from 'sharp'
import { newStep } from '@/macros/step'
import { defaultDelivery } from '@/jobs/delivery'
import { processPicture } from '@/runner/process-picture'
import { testKernels } from '../tests/kernels'
import { largePicture } from './pictures'
sharp.concurrency(1); sharp.cache(false)
const kernels = await testKernels()
const root = mkdtempSync('/tmp/zzc-'); mkdirSync(join(root,'in')); mkdirSync(join(root,'out'))
const src = join(root,'in','a.jpg'); copyFileSync(await largePicture(), src)
const steps = [newStep('resize', 'resize', { by: 'longEdge', lengthPx: 2048 })]
const delivery = { ...defaultDelivery('web', join(root,'out')), longEdgePx: null }
const times: number[] = []
for (let i = 0; i < 14; i++) {
  const { size, mtimeMs } = statSync(src)
  const t = performance.now()
  const { error } = await processPicture(kernels, { runId: 'bare', itemId: 1, token: 1, roots: [root], damaged: 'fail', sourcePath: src, sizeBytes: size, modifiedMs: Math.floor(mtimeMs), steps, macros: [], targets: [{ resultId: 1, path: join(root,'out', `${i}.jpg`), delivery, replaces: null }] } as any)
  if (error) throw new Error(JSON.stringify(error))
  times.push(performance.now() - t)
}
const cpu = process.cpuUsage()
console.log(times.map((t) => t.toFixed(0)).join(' '), 'cpu/picture', ((cpu.user + cpu.system) / 1000 / 14).toFixed(0), statSync(src).size)

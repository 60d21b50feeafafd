import { readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { instantiateKernels } from '@kernels/binding'
import sharp from 'sharp'
import { allowOnlyPictures } from '@/files/loaders'
import { serveJobs } from '@/processes/serve'
import type { PictureJob } from './messages'
import { processPicture } from './process-picture'
import { simulateTrouble } from './trouble'

/*
 * A worker process: one picture at a time from decode to file. libvips gets one thread here, since the pool already
 * has a worker for every core, and no cache, since no picture comes twice.
 */
sharp.concurrency(1)
sharp.cache(false)
allowOnlyPictures()

const build = dirname(fileURLToPath(import.meta.url))
const kernels = await instantiateKernels(await WebAssembly.compile(readFileSync(join(build, 'kernels.wasm'))))
const folders = { files: process.env.COPPER_LOOP_KEPT_FILES ?? '', fonts: join(build, 'fonts') }

serveJobs(async (asked, { mayGoOn }) => {
  const job = asked as PictureJob
  await simulateTrouble(job.sourcePath)
  return processPicture(kernels, job, folders, mayGoOn)
})

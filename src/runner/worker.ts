import { readFileSync } from 'node:fs'
import { parentPort, workerData } from 'node:worker_threads'
import { instantiateKernels } from '@kernels/binding'
import sharp from 'sharp'
import type { FromWorker, ToWorker } from './messages'
import { type AssetFolders, processPicture } from './process-picture'

/*
 * A worker thread: one picture at a time from decode to file. libvips gets one thread here, since the pool already
 * has a worker for every core, and no cache, since no picture comes twice.
 */
sharp.concurrency(1)
sharp.cache(false)

const port = parentPort
if (!port) throw new Error('worker.ts runs only as a worker thread')
const send = (message: FromWorker): void => port.postMessage(message)

const { kernelsPath, folders } = workerData as { kernelsPath: string; folders: AssetFolders }
const kernels = await instantiateKernels(await WebAssembly.compile(readFileSync(kernelsPath)))

port.on('message', async ({ job }: ToWorker) => {
  simulateTrouble(job.sourcePath)
  send({ type: 'outcome', itemId: job.itemId, outcome: await processPicture(kernels, job, folders) })
})
send({ type: 'ready' })

/** For the tests of promises: a picture whose name asks for it makes its worker die, hang or run out of memory. Off unless the environment says so. */
function simulateTrouble(path: string): void {
  if (process.env.COPPER_LOOP_TROUBLE !== 'allowed') return
  if (path.includes('crash-worker')) process.exit(13)
  if (path.includes('hang-worker')) for (;;);
  if (path.includes('exhaust-worker')) for (const held: number[][] = []; ; ) held.push(new Array(1e6).fill(0.5))
}

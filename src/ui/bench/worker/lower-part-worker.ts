import type { PlaneSource } from '@/engine/source'
import type { Asset } from '@/pixels/kept-file'
import { BufferPool } from './buffer-pool'
import { fetchAssets, loadKernels } from './loading'
import { drawLowerPart, type FromLowerPart, type ToLowerPart } from './lower-part'

/*
 * The thread that draws the lower half of fitted pictures. It speaks with the bench's thread alone, by a port that the page hands it.
 */

const assets = new Map<string, Asset>()
const pool = new BufferPool()
let frame: PlaneSource | undefined

async function answer(message: ToLowerPart): Promise<FromLowerPart | undefined> {
  if (message.type === 'frame') {
    frame = message.frame
    return undefined
  }
  if (message.type === 'recycle') {
    pool.keep(message.buffer)
    return undefined
  }
  const { id, task } = message
  try {
    if (!frame) throw new Error('There is no frame yet')
    await fetchAssets(assets, task.steps)
    return { id, pixels: drawLowerPart(await loadKernels(), frame, task, assets, pool) }
  } catch (error) {
    return { id, pixels: null, problem: String(error) }
  }
}

self.onmessage = ({ data: port }: MessageEvent<MessagePort>) => {
  let queue: Promise<void> = Promise.resolve()
  port.onmessage = ({ data }: MessageEvent<ToLowerPart>) => {
    queue = queue.then(async () => {
      const reply = await answer(data)
      if (reply) port.postMessage(reply, reply.pixels ? [reply.pixels.buffer] : [])
    })
  }
}

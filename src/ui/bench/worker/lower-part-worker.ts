import type { PlaneSource } from '@/engine/source'
import type { Asset } from '@/pixels/kept-file'
import { Spare } from './buffer-pool'
import { fetchAssets, loadKernels } from './loading'
import { drawHalf, type FromHalf, type ToHalf } from './lower-part'

/*
 * The thread that draws the lower half of fitted pictures. It speaks with the bench's thread alone, by a port that the page hands it.
 */

const assets = new Map<string, Asset>()
const spare = new Spare()
let frame: PlaneSource | undefined

async function answer(message: ToHalf): Promise<FromHalf | undefined> {
  if (message.type === 'frame') {
    frame = message.frame
    return undefined
  }
  if (message.type === 'spare') {
    spare.keep(message.buffer)
    return undefined
  }
  const { id, task } = message
  try {
    if (!frame) throw new Error('There is no frame yet')
    await fetchAssets(assets, task.steps)
    return { id, pixels: drawHalf(await loadKernels(), frame, task, assets, spare) }
  } catch (error) {
    return { id, pixels: null, problem: String(error) }
  }
}

self.onmessage = ({ data: port }: MessageEvent<MessagePort>) => {
  let queue: Promise<void> = Promise.resolve()
  port.onmessage = ({ data }: MessageEvent<ToHalf>) => {
    queue = queue.then(async () => {
      const reply = await answer(data)
      if (reply) port.postMessage(reply, reply.pixels ? [reply.pixels.buffer] : [])
    })
  }
}

import { mkdirSync } from 'node:fs'
import { readFile, stat } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'

export const benchFolder = join(tmpdir(), 'copper-loop-bench')

/** A large JPEG made from a demo picture: enlarged, with grain, so that it weighs what a camera's file does. */
export async function largePicture(megapixels = 24): Promise<string> {
  mkdirSync(benchFolder, { recursive: true })
  const path = join(benchFolder, `large-${megapixels}mp.jpg`)
  if (await stat(path).catch(() => undefined)) return path
  const scale = Math.sqrt(megapixels / 24)
  const size = { width: Math.round(6000 * scale), height: Math.round(4000 * scale) }
  const grain = await sharp({ create: { ...size, channels: 3, background: '#808080', noise: { type: 'gaussian', mean: 128, sigma: 7 } } })
    .png()
    .toBuffer()
  await sharp('demo/pictures/kiln-and-yard/TLK27_0403.jpg')
    .resize(size.width, size.height, { kernel: 'cubic' })
    .composite([{ input: grain, blend: 'soft-light' }])
    // No profile: converting by one would be most of what a bare decode and encode does.
    .keepExif()
    .jpeg({ quality: 92 })
    .toFile(path)
  return path
}

export const bytesOf = (path: string): Promise<Buffer> => readFile(path)

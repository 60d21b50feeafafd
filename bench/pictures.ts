import { mkdirSync } from 'node:fs'
import { readFile, stat, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { codeAt, numberAt } from '@/base/numbers'
import { decodePicture } from '@/files/decode'
import { dng } from '../tests/dng'

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

/** A raw file of 24 MP, 12 bit, not compressed, with a preview as cameras put one in: the demo's mosaic, side by side. */
export async function largeRaw(): Promise<string> {
  mkdirSync(benchFolder, { recursive: true })
  const path = join(benchFolder, 'large-24mp.dng')
  if (await stat(path).catch(() => undefined)) return path
  const { source } = await decodePicture(await readFile('demo/raw/TLK27_0415.dng'), 'TLK27_0415.dng')
  const neutral = [0.400267, 1, 0.709196]
  const { width, height } = source.size
  const at = (x: number, y: number, channel: 0 | 1 | 2): number =>
    (codeAt(source.pixels, ((y % height) * width + (x % width)) * 3 + channel) / 65535) * (numberAt(neutral, channel) / 0.400267)
  const preview = await sharp('demo/pictures/vessels/TLK27_0415.jpg').resize(1620).jpeg({ quality: 85 }).toBuffer()
  const matrices = [[0.742, -0.205, -0.081, -0.437, 1.217, 0.249, -0.061, 0.151, 0.642]]
  const levels = { bits: 12, black: 256, white: 4095 } as const
  await writeFile(path, dng({ size: { width: 6000, height: 4000 }, at, ...levels, neutral, matrices, baselineExposure: 1, preview }))
  return path
}

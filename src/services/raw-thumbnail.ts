import { basename } from 'node:path'
import sharp from 'sharp'
import { Sample } from '@/engine/sample'
import { readFacts } from '@/files/facts'
import { rawPicture, rawPreview } from '@/files/raw/read-raw'
import { startedRaw } from '@/macros/raw-start'
import { kernels } from './kernels'

/**
 * A small JPEG of a raw file: what the camera put into it, or, where that is missing, broken or too small, a quick rendering of its own.
 * @throws AppError as reading it does
 */
export async function rawThumbnail(bytes: Buffer, path: string, edge: number): Promise<Buffer> {
  const preview = await rawPreview(bytes, { path }, edge)
  if (preview) return preview
  const [facts, source] = [await readFacts(bytes, path), await rawPicture(bytes, { path }, true)]
  const sample = new Sample(await kernels(), source, { facts, name: basename(path) }, new Map(), edge)
  const { size, pixels } = sample.render(startedRaw([], []))
  return sharp(pixels, { raw: { ...size, channels: 4 } })
    .removeAlpha()
    .jpeg({ quality: 82, chromaSubsampling: '4:4:4' })
    .toBuffer()
}

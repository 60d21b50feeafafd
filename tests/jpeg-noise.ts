import sharp from 'sharp'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { decodePicture } from '@/files/decode'
import { newStep } from '@/macros/step'
import { testKernels } from './kernels'
import { normals } from './pictures'
import { rankCorrelation } from './rank-correlation'

/*
 * Noise in JPEG files of known content. The truth is what is left in the file: its deviation from what was drawn, in brightness. Both sides
 * that are multiples of 64 put every evenly spread piece on the blocks of the format (8 × 8, ITU-T T.81).
 */

const drawn = (x: number, y: number): number =>
  90 +
  60 * Math.sin(x / 210) * Math.cos(y / 170) +
  (Math.hypot(x - 350, y - 250) < 160 ? 40 : 0) +
  (x > 500 && y > 300 ? 18 * Math.sin(x / 3) : 0)

/** Part that all sizes show. */
const sharedSize = [704, 448] as const
/** No shot is wider. */
const sheetWidth = 800

export interface Shot {
  /** Deviation of brightness in the file, in codes. */
  readonly real: number
  readonly found: number
  /** Of the default noise reduction against what was drawn. */
  psnr(): number
}

interface Taken {
  readonly sigma: number
  readonly quality: number
  readonly edition?: 'now' | 'first'
}

export async function shoot(width: number, height: number, { sigma, quality, edition = 'now' }: Taken): Promise<Shot> {
  const kernels = await testKernels()
  const normal = normals(5)
  const pixels = Buffer.alloc(width * height * 3)
  // The same noise at a place whatever the size.
  for (let y = 0; y < height; y++)
    for (let x = 0; x < sheetWidth; x++)
      for (let channel = 0; channel < 3; channel++) {
        const value = Math.max(0, Math.min(255, Math.round(drawn(x, y) + sigma * normal())))
        if (x < width) pixels[(y * width + x) * 3 + channel] = value
      }
  const bytes = await sharp(pixels, { raw: { width, height, channels: 3 } })
    .jpeg({ quality, chromaSubsampling: '4:2:0' })
    .toBuffer()
  const { source } = await decodePicture(bytes, 'noise.jpg')
  // What all sizes show.
  const [across, down] = [Math.min(width, sharedSize[0]), Math.min(height, sharedSize[1])]
  const errorOf = (values: ArrayLike<number>): number => {
    let sum = 0
    for (let y = 0; y < down; y++)
      for (let x = 0; x < across; x++) {
        const at = 3 * (y * width + x)
        const brightness = ((values[at] ?? 0) + (values[at + 1] ?? 0) + (values[at + 2] ?? 0)) / 3
        sum += (brightness - drawn(x, y)) ** 2
      }
    return sum / (across * down)
  }
  const steps = resolveSteps([newStep('noise-reduction', 'n', { edition })], source.size, { sampler: createSampler(kernels, source) })
  return {
    real: Math.sqrt(errorOf(source.pixels)),
    found: Number(steps[0]?.constants.foundLevels),
    psnr: () => {
      const calm = renderEncoded(kernels, planRender(source, steps, 'full'), { space: 'srgb', channels: 3, dither: false })
      return 10 * Math.log10(255 ** 2 / errorOf(calm))
    },
  }
}

/** The first two on the grid, the others off it. */
export const shotSizes = [
  [768, 512],
  [704, 448],
  [761, 509],
  [750, 500],
] as const

/** Rank correlation of what was found with what is there. */
export const orderOf = (shots: readonly Shot[]): number =>
  rankCorrelation(
    shots.map(({ real }) => real),
    shots.map(({ found }) => found),
  )

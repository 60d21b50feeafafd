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
  for (let i = 0; i < pixels.length; i++) {
    const at = Math.floor(i / 3)
    pixels[i] = Math.max(0, Math.min(255, Math.round(drawn(at % width, Math.floor(at / width)) + sigma * normal())))
  }
  const bytes = await sharp(pixels, { raw: { width, height, channels: 3 } })
    .jpeg({ quality, chromaSubsampling: '4:2:0' })
    .toBuffer()
  const { source } = await decodePicture(bytes, 'noise.jpg')
  const errorOf = (values: ArrayLike<number>): number => {
    let sum = 0
    for (let i = 0; i < width * height; i++) {
      const brightness = ((values[3 * i] ?? 0) + (values[3 * i + 1] ?? 0) + (values[3 * i + 2] ?? 0)) / 3
      sum += (brightness - drawn(i % width, Math.floor(i / width))) ** 2
    }
    return sum / (width * height)
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

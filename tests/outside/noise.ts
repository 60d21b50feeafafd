import sharp from 'sharp'
import { expect } from 'vitest'
import { resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { newStep } from '@/macros/step'
import { testKernels } from '../kernels'
import { normals, paint } from '../pictures'
import { decibels } from '../reduced-noise'
import { renderOne } from '../render'
import type { Checks } from './checks'

/** Soft shapes with a hard edge, in colour. */
const scene = (x: number, y: number): readonly [number, number, number] => {
  const edge = x + y * 0.3 > 180 ? 60 : 0
  return [90 + 30 * Math.sin(x / 31) + edge, 100 + 20 * Math.cos(y / 23) + edge, 80 + 25 * Math.sin((x + y) / 47) + edge]
}

export const noiseChecks: Checks = {
  'noise-reduction': [
    'white noise of a known deviation is found within 8 %, and taken to 3 dB more than libvips’ median filter does',
    async () => {
      const [width, height, sigma] = [320, 256, 12]
      const clean = paint(width, height, scene)
      const normal = normals(11)
      const noisy = { ...clean, pixels: clean.pixels.map((code) => Math.min(255, Math.max(0, Math.round(code + sigma * normal())))) }
      const kernels = await testKernels()
      const [step] = resolveSteps([newStep('noise-reduction', 'n', {})], noisy.size, { sampler: createSampler(kernels, noisy) })
      // Brightness is the mean of three channels with noise of their own.
      expect(Math.abs(Number(step?.constants.foundLevels) / (sigma / Math.sqrt(3)) - 1)).toBeLessThan(0.08)
      const { pixels } = await renderOne(noisy, 'noise-reduction', { brightnessNoisePercent: 100 })
      const median = await sharp(Buffer.from(noisy.pixels), { raw: { width, height, channels: 3 } })
        .median(5)
        .raw()
        .toBuffer()
      expect(decibels(pixels, clean.pixels)).toBeGreaterThan(decibels(median, clean.pixels) + 3)
    },
  ],
}

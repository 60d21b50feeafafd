import sharp from 'sharp'
import { expect } from 'vitest'
import { resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { newStep } from '@/macros/step'
import { testKernels } from '../kernels'
import { busyPicture, greyPicture, paint } from '../pictures'
import { renderOne, worstDifference } from '../render'
import type { Checks } from './checks'

const softly = (x: number, y: number): number => 128 + 60 * Math.sin(x / 9) * Math.cos(y / 11) + (x + y) / 8

export const geometryChecks: Checks = {
  straighten: [
    'a drawn function turned by the rotation matrix, within 1.5/255; and a drawn horizon’s angle is found to 0.1°',
    async () => {
      const [width, height] = [160, 120]
      const source = greyPicture(width, height, softly)
      const { pixels } = await renderOne(source, 'straighten', { by: 'angle', angleDegrees: 7, corners: 'fill' })
      const [c, s] = [Math.cos((7 * Math.PI) / 180), Math.sin((7 * Math.PI) / 180)]
      for (let y = 30; y < 90; y++)
        for (let x = 40; x < 120; x++) {
          const [dx, dy] = [x + 0.5 - width / 2, y + 0.5 - height / 2]
          const expected = softly(width / 2 + c * dx + s * dy - 0.5, height / 2 - s * dx + c * dy - 0.5)
          expect(Math.abs((pixels[(y * width + x) * 3] ?? 0) - expected)).toBeLessThan(1.5)
        }

      const tilted = greyPicture(600, 400, (x, y) => 120 - 60 * Math.tanh(y - 200 - (x - 300) * Math.tan((1.7 * Math.PI) / 180)))
      const sampler = createSampler(await testKernels(), tilted)
      const [step] = resolveSteps([newStep('straighten', 's', { by: 'lines' })], tilted.size, { sampler })
      expect(Number(step?.constants.degrees)).toBeCloseTo(-1.7, 1)
    },
  ],
  perspective: [
    'places come from where the published formula says (Heckbert 1989, section 2.2.3), worked out here for a trapezium by cross ratios',
    async () => {
      // Source codes tell their own place: red across, green down.
      const [width, height] = [200, 160]
      const source = paint(width, height, (x, y) => [(x / width) * 255, (y / height) * 255, 90])
      const { pixels } = await renderOne(source, 'perspective', { verticalPercent: 80 })
      // The top of the new picture spans a share k of the old one's width. Along the middle plumb line, output height t comes from
      // t / (t + (1 − t) · 1/k) … which follows from the crossing of the diagonals: it stays a crossing of diagonals.
      const k = 1 - 2 * 0.8 * 0.25
      for (const y of [20, 80, 130]) {
        const t = (y + 0.5) / height
        const w = 1 / k + (1 - 1 / k) * t
        const down = t / w
        const left = ((1 - k) / 2) * (1 - down)
        for (const x of [30, 100, 170]) {
          const across = left + ((x + 0.5) / width) * (1 - 2 * left)
          const at = (y * width + x) * 3
          expect(Math.abs((pixels[at] ?? 0) - (across - 0.5 / width) * 255)).toBeLessThan(2)
          expect(Math.abs((pixels[at + 1] ?? 0) - (down - 0.5 / height) * 255)).toBeLessThan(2)
        }
      }
    },
  ],
  pad: [
    'libvips’ extend with the same colour, pixel for pixel',
    async () => {
      const source = busyPicture(70, 50)
      const { pixels, size } = await renderOne(source, 'pad', { by: 'pixels', borderPx: 9, ground: 'colour', colour: '#a4542a' })
      const theirs = await sharp(Buffer.from(source.pixels), { raw: { ...source.size, channels: 3 } })
        .extend({ top: 9, bottom: 9, left: 9, right: 9, background: '#a4542a' })
        .raw()
        .toBuffer()
      expect(size).toEqual({ width: 88, height: 68 })
      expect(worstDifference(pixels, theirs)).toBe(0)
    },
  ],
}

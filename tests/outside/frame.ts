import sharp from 'sharp'
import { expect } from 'vitest'
import { srgbTransfer } from '@/colour/transfer'
import { busyPicture, greyPicture } from '../pictures'
import { renderOne, worstDifference } from '../render'
import type { Checks } from './checks'
import { throughLibvips } from './libraries'

export const frameChecks: Checks = {
  'turn-mirror': [
    'the very pixels that libvips turns and mirrors, for all sixteen settings',
    async () => {
      const source = busyPicture(31, 18)
      const image = sharp(Buffer.from(source.pixels), { raw: { ...source.size, channels: 3 } })
      for (const [turn, degrees] of [
        ['none', 0],
        ['right', 90],
        ['half', 180],
        ['left', 270],
      ] as const)
        for (const mirrorAcross of [false, true])
          for (const mirrorDown of [false, true]) {
            const turned = await sharp(await image.clone().rotate(degrees).png().toBuffer())
              .flop(mirrorAcross)
              .flip(mirrorDown)
              .raw()
              .toBuffer()
            const { pixels } = await renderOne(source, 'turn-mirror', { turn, mirrorAcross, mirrorDown })
            expect(worstDifference(pixels, turned)).toBe(0)
          }
    },
  ],
  crop: [
    'the very pixels that libvips extracts',
    async () => {
      const source = busyPicture(90, 60)
      const settings = { shape: 'pixels', widthPx: 41, heightPx: 23, turnsWithPicture: false, positionXPercent: 100, positionYPercent: 0 }
      const { pixels, size } = await renderOne(source, 'crop', settings)
      const theirs = await sharp(Buffer.from(source.pixels), { raw: { ...source.size, channels: 3 } })
        .extract({ left: 49, top: 0, width: 41, height: 23 })
        .raw()
        .toBuffer()
      expect(size).toEqual({ width: 41, height: 23 })
      expect(worstDifference(pixels, theirs)).toBe(0)
    },
  ],
  resize: [
    'libvips’ Lanczos-3 in linear light at two ratios, within 1/255 (it enlarges by another filter); where that rings, within what it reduces and 4/255',
    async () => {
      const [width, height] = [150, 90]
      const source = greyPicture(width, height, (x, y) => 120 + 70 * Math.sin((x * x + y * y) / 900) + (x > 70 && y > 30 ? 40 : 0))
      const linear = Float32Array.from({ length: width * height }, (_, i) => srgbTransfer.decode((source.pixels[i * 3] ?? 0) / 255))
      for (const to of [100, 80]) {
        const theirs = await throughLibvips(linear, width, height, (image) =>
          image.resize(to, Math.round((to * height) / width), { kernel: 'lanczos3', fit: 'fill' }),
        )
        const codes = Array.from(theirs, (value) => Math.min(255, Math.max(0, srgbTransfer.encode(value) * 255)))
        const settings = { by: 'width', lengthPx: to, mayEnlarge: true, kernel: 'lanczos3' }
        const greys = async (edition: string): Promise<{ readonly values: Uint8ClampedArray; readonly width: number }> => {
          const { pixels, size } = await renderOne(source, 'resize', { ...settings, edition })
          expect(size.width * size.height).toBe(theirs.length)
          return { values: pixels.filter((_, i) => i % 3 === 0), width: size.width }
        }
        expect(worstDifference((await greys('first')).values, codes)).toBeLessThanOrEqual(1)
        const { values, width: across } = await greys('now')
        const ratio = width / to
        for (const [i, value] of values.entries()) {
          const [x, y] = [((i % across) + 0.5) * ratio - 0.5, (Math.floor(i / across) + 0.5) * ratio - 0.5]
          // What lies within one pixel of the finished picture, edges repeated.
          const near: number[] = []
          for (let row = Math.ceil(y - ratio); row <= y + ratio; row++)
            for (let column = Math.ceil(x - ratio); column <= x + ratio; column++) {
              const [down, right] = [Math.min(height - 1, Math.max(0, row)), Math.min(width - 1, Math.max(0, column))]
              near.push(source.pixels[(down * width + right) * 3] ?? 0)
            }
          const [least, most] = [Math.min(...near), Math.max(...near)]
          const rings = Math.max(0, least - (codes[i] ?? 0), (codes[i] ?? 0) - most)
          expect(value).toBeGreaterThanOrEqual(least - 4)
          expect(value).toBeLessThanOrEqual(most + 4)
          // Rows and columns are held one after the other: a corner may lose a little that does not ring as a whole.
          if (rings === 0) expect(Math.abs(value - (codes[i] ?? 0))).toBeLessThanOrEqual(6)
        }
      }
    },
  ],
}

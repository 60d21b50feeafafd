import Color from 'colorjs.io'
import { deviation, mean } from 'd3'
import { expect } from 'vitest'
import { transform } from '@/colour/matrix'
import { coneToWorking, labToCone } from '@/colour/oklab'
import { srgbTransfer } from '@/colour/transfer'
import { greyPicture } from '../pictures'
import { renderOne } from '../render'
import type { Checks } from './checks'
import { throughLibvips } from './libraries'

export const effectChecks: Checks = {
  'unsharp-mask': [
    'plane + amount × (plane − Gaussian), the Gaussian by libvips, at a small and a large radius, within 1/255',
    async () => {
      const [width, height] = [160, 120]
      const source = greyPicture(width, height, (x, y) => 110 + 50 * Math.sin(x / 9) + 40 * Math.cos(y / 7) + (x > 80 ? 30 : 0))
      // For greys OKLab lightness is the cube root of linear light.
      const lightness = Float32Array.from({ length: width * height }, (_, i) =>
        Math.cbrt(srgbTransfer.decode((source.pixels[i * 3] ?? 0) / 255)),
      )
      for (const radiusPx of [1.5, 12]) {
        const blurred = await throughLibvips(lightness, width, height, (image) =>
          image.blur({ sigma: radiusPx, precision: 'float', minAmplitude: 0.001 }),
        )
        const settings = { amountPercent: 100, radiusPx, thresholdLevels: 0, haloLimitLevels: 255, lightnessOnly: true }
        const { pixels } = await renderOne(source, 'unsharp-mask', settings)
        lightness.forEach((value, i) => {
          const sharpened = value + (value - (blurred[i] ?? 0))
          const [linear] = transform(
            coneToWorking,
            transform(labToCone, [sharpened, 0, 0]).map((root) => root ** 3) as unknown as [number, number, number],
          )
          const code = Math.min(255, Math.max(0, srgbTransfer.encode(linear) * 255))
          expect(Math.abs((pixels[i * 3] ?? -9) - code)).toBeLessThanOrEqual(1)
        })
      }
    },
  ],
  falloff: [
    'the corner loses exactly the stops asked for and the middle none, in the linear sRGB of colorjs.io',
    async () => {
      const { pixels } = await renderOne(
        greyPicture(301, 201, () => 200),
        'falloff',
        { cornersEv: -1, beginsPercent: 30, circularPercent: 0 },
      )
      const halved = new Color('srgb-linear', [0, 0, 0].map(() => srgbTransfer.decode(200 / 255) / 2) as [number, number, number])
      expect(Math.abs((pixels[0] ?? 0) - 255 * (halved.to('srgb').coords[0] ?? 0))).toBeLessThanOrEqual(1)
      expect(pixels[(100 * 301 + 150) * 3]).toBe(200)
    },
  ],
  grain: [
    'deviation and correlation of Gaussian-filtered white noise: exp(−d²/4σ²) at distance d (Papoulis 1991, chapter 9; from memory), by d3',
    async () => {
      const sizePx = 1.5
      const { pixels } = await renderOne(
        greyPicture(400, 300, () => 128),
        'grain',
        { amountPercent: 30, sizePx, finerPercent: 0 },
      )
      const lightness = Array.from({ length: 400 * 300 }, (_, i) => {
        const code = (pixels[i * 3] ?? 0) / 255
        return new Color('srgb', [code, code, code]).to('oklab').coords[0] ?? 0
      })
      const [middle, spread] = [mean(lightness) ?? 0, deviation(lightness) ?? 0]
      expect(spread).toBeCloseTo(0.3 * 0.12 * 4 * middle * (1 - middle), 2)
      for (const distance of [1, 2, 3]) {
        const products = lightness.flatMap((value, i) =>
          i % 400 < 390 ? [(value - middle) * ((lightness[i + distance] ?? 0) - middle)] : [],
        )
        expect((mean(products) ?? 0) / spread ** 2).toBeCloseTo(Math.exp(-(distance ** 2) / (4 * sizePx ** 2)), 1)
      }
    },
  ],
}

import { extent, mean } from 'd3'
import sharp from 'sharp'
import { expect } from 'vitest'
import { srgbTransfer } from '@/colour/transfer'
import { edgeFigures, lightOf, slantedEdge } from '../edge'
import { busyPicture, greyPicture, seeded } from '../pictures'
import { renderOne, worstDifference } from '../render'
import type { Checks } from './checks'

export const sharpeningChecks: Checks = {
  deconvolve: [
    'a slanted edge (ISO 12233) blurred by libvips’ Gaussian comes back narrower than before, without more overshoot than 12 %',
    async () => {
      const [width, height] = [120, 96]
      const sharpEdge = slantedEdge(width, height, 0.6)
      const linear = Uint16Array.from(lightOf(sharpEdge.pixels), (value) => Math.round(value * 65535))
      const { data } = await sharp(linear, { raw: { width, height, channels: 1 } })
        .blur({ sigma: 1.2, precision: 'float', minAmplitude: 0.001 })
        .toColourspace('grey16')
        .raw({ depth: 'ushort' })
        .toBuffer({ resolveWithObject: true })
      const blurredLight = new Uint16Array(data.buffer, data.byteOffset, data.length / 2)
      const blurred = greyPicture(width, height, (x, y) => srgbTransfer.encode((blurredLight[y * width + x] ?? 0) / 65535) * 255)
      const before = edgeFigures(blurred.pixels, width, height)
      const { pixels } = await renderOne(blurred, 'deconvolve', { radiusPx: 1.2, iterations: 15, guardPercent: 0 })
      const after = edgeFigures(pixels, width, height)
      expect(after.widthPx).toBeLessThan(before.widthPx * 0.75)
      expect(after.overshootPercent).toBeLessThan(12)
    },
  ],
  'detail-bands': [
    'all bands taken away leave libvips’ Gaussian of the coarsest, within 1/255',
    async () => {
      const [width, height] = [80, 60]
      // Bands are split on OKLab lightness, which for greys is the cube root of light (Ottosson 2020): libvips blurs that.
      const source = greyPicture(width, height, (x, y) => 120 + 60 * Math.sin((x * x + y * y) / 300))
      const roots = Uint16Array.from(lightOf(source.pixels), (light) => Math.round(Math.cbrt(light) * 65535))
      const { data } = await sharp(roots, { raw: { width, height, channels: 1 } })
        .blur({ sigma: 5.5, precision: 'float', minAmplitude: 0.001 })
        .toColourspace('grey16')
        .raw({ depth: 'ushort' })
        .toBuffer({ resolveWithObject: true })
      const theirs = new Uint16Array(data.buffer, data.byteOffset, data.length / 2)
      const { pixels } = await renderOne(source, 'detail-bands', {
        finePercent: -100,
        mediumPercent: -100,
        coarsePercent: -100,
        noiseLevels: 0,
      })
      const codes = Array.from(theirs, (root) => srgbTransfer.encode((root / 65535) ** 3) * 255)
      for (let y = 20; y < height - 20; y++)
        for (let x = 20; x < width - 20; x++) {
          const i = y * width + x
          expect(Math.abs((pixels[i * 3] ?? 0) - (codes[i] ?? 0))).toBeLessThan(1)
        }
    },
  ],
  'sharpen-for-size': [
    'a slanted edge (ISO 12233) at a third of its size: within a quarter pixel as narrow as libvips’ own resize and sharpen leaves it, with less than half of its overshoot, and no line of more than 10/255 on either side',
    async () => {
      const [width, height] = [720, 576]
      const source = slantedEdge(width, height, 1.2)
      const [w, h] = [width / 3, height / 3]
      const theirs = await sharp(Buffer.from(source.pixels), { raw: { width, height, channels: 3 } })
        .resize(w, h, { kernel: 'lanczos3' })
        .sharpen({ sigma: 0.8, m1: 1, m2: 2 })
        .raw()
        .toBuffer()
      const { pixels, size } = await renderOne(source, 'sharpen-for-size', { longEdgePx: w })
      expect(size).toEqual({ width: w, height: h })
      const [ours, reference] = [edgeFigures(pixels, w, h), edgeFigures(theirs, w, h)]
      expect(ours.widthPx).toBeLessThanOrEqual(reference.widthPx + 0.25)
      expect(ours.overshootPercent).toBeLessThan(reference.overshootPercent / 2)
      const plateaus = [source.pixels[0] ?? 0, source.pixels[(width - 1) * 3] ?? 0]
      const [darkest = 0, brightest = 0] = extent(Array.from(pixels))
      expect(Math.min(...plateaus) - darkest).toBeLessThanOrEqual(10)
      expect(brightest - Math.max(...plateaus)).toBeLessThanOrEqual(10)
    },
  ],
  despeckle: [
    'single hot pixels on libvips’ own median-filtered picture are gone, to what that median makes of them',
    async () => {
      const [width, height] = [90, 60]
      const calm = await sharp(Buffer.from(busyPicture(width, height).pixels), { raw: { width, height, channels: 3 } })
        .median(7)
        .raw()
        .toBuffer()
      const random = seeded(5)
      const hot = Uint8Array.from(calm)
      const places = Array.from(
        { length: 40 },
        () => [2 + Math.floor(random() * (width - 4)), 2 + Math.floor(random() * (height - 4))] as const,
      )
      for (const [x, y] of places) hot.fill(255, (y * width + x) * 3, (y * width + x) * 3 + 3)
      const source = { ...busyPicture(width, height), pixels: hot }
      const { pixels } = await renderOne(source, 'despeckle', { sizePx: 1, thresholdLevels: 12 })
      const theirs = await sharp(Buffer.from(hot), { raw: { width, height, channels: 3 } })
        .median(3)
        .raw()
        .toBuffer()
      const close = places.filter(([x, y]) => Math.abs((pixels[(y * width + x) * 3] ?? 0) - (theirs[(y * width + x) * 3] ?? 0)) <= 6)
      expect(close.length).toBeGreaterThanOrEqual(38)
      // Everything else is as it was.
      const other = Uint8Array.from(pixels)
      for (const [x, y] of places) for (const c of [0, 1, 2]) other[(y * width + x) * 3 + c] = hot[(y * width + x) * 3 + c] ?? 0
      expect(worstDifference(other, hot)).toBe(0)
    },
  ],
  'smooth-areas': [
    'a(I) + b of the guided filter by its published formula (He, Sun & Tang 2010) on a flat field and on a strong edge',
    async () => {
      const random = seeded(3)
      const source = greyPicture(120, 60, (x) => (x < 60 ? 70 : 190) + (random() - 0.5) * 8)
      const { pixels } = await renderOne(source, 'smooth-areas', { amountPercent: 100, radiusPx: 10, detailPercent: 20 })
      const spread = (from: ArrayLike<number>, x0: number, x1: number) => {
        const values: number[] = []
        for (let y = 10; y < 50; y++) for (let x = x0; x < x1; x++) values.push(from[(y * 120 + x) * 3] ?? 0)
        const middle = mean(values) ?? 0
        return { middle, deviation: Math.sqrt(mean(values, (value) => (value - middle) ** 2) ?? 0) }
      }
      // Noise of variance σ² in a flat field is multiplied by σ²/(σ² + ε), and averaged: hardly anything is left.
      const [before, after] = [spread(source.pixels, 5, 45), spread(pixels, 5, 45)]
      expect(after.deviation).toBeLessThan(before.deviation * 0.35)
      expect(after.middle).toBeCloseTo(before.middle, 0)
      // At the edge the variance is far above ε: a is nearly 1, and both sides stay where they are.
      expect(spread(pixels, 56, 59).middle).toBeLessThan(85)
      expect(spread(pixels, 61, 64).middle).toBeGreaterThan(175)
    },
  ],
}

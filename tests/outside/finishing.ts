import opentype from 'opentype.js'
import sharp from 'sharp'
import { expect } from 'vitest'
import { parseCube } from '@/colour/cube'
import { srgbTransfer } from '@/colour/transfer'
import { newStep } from '@/macros/step'
import { bentCube, testAssets, testFiles } from '../assets'
import { busyPicture, paint } from '../pictures'
import { renderOne } from '../render'
import type { Checks } from './checks'

const [copy = '', mark = ''] = Object.keys(testFiles)

/** A 3D table by the formula of trilinear interpolation, the textbook's other way: equal on the grid and close between. */
function trilinear(text: string, rgb: readonly number[]): number[] {
  const { size, values } = parseCube(text)
  const place = rgb.map((value) => Math.min(1, Math.max(0, value)) * (size - 1))
  const cell = place.map((value) => Math.min(size - 2, Math.floor(value)))
  return [0, 1, 2].map((c) => {
    let sum = 0
    for (let corner = 0; corner < 8; corner++) {
      const bits = [corner & 1, (corner >> 1) & 1, corner >> 2]
      const weight = bits.reduce((product, bit, axis) => {
        const fraction = (place[axis] as number) - (cell[axis] as number)
        return product * (bit ? fraction : 1 - fraction)
      }, 1)
      const [r, g, b] = bits.map((bit, axis) => (cell[axis] as number) + bit) as [number, number, number]
      sum += weight * (values[((b * size + g) * size + r) * 3 + c] as number)
    }
    return sum
  })
}

export const finishingChecks: Checks = {
  'look-table': [
    'entries of the table on its grid, trilinear interpolation (textbook) within 2/255 between them',
    async () => {
      const text = bentCube(9)
      const source = paint(16, 16, (x, y) => [x * 17, y * 17, ((x * 5 + y * 3) % 16) * 17])
      const { pixels } = await renderOne(source, 'look-table', { file: copy, amountPercent: 100 })
      for (let i = 0; i < 256; i++) {
        const rgb = [0, 1, 2].map((c) => (source.pixels[i * 3 + c] ?? 0) / 255)
        trilinear(text, rgb).forEach((value, c) => {
          expect(Math.abs((pixels[i * 3 + c] ?? -9) - value * 255)).toBeLessThan(2)
        })
      }
    },
  ],
  'stamp-image': [
    'laid over by libvips where the mark is opaque or clear; half opacity is the mean of light (Porter & Duff 1984)',
    async () => {
      const source = busyPicture(160, 100)
      const stamped = { file: mark, positionXPercent: 100, positionYPercent: 100, marginPercent: 0, sizePercent: 24, tint: 'own' } as const
      const asset = testAssets.get(mark.slice(0, 64))
      if (asset?.kind !== 'image') throw new Error('The mark is gone')
      const { pixels } = await renderOne(source, 'stamp-image', { ...stamped, opacityPercent: 100 })
      // 24 % of the short edge is the mark's own 24 px: nothing is resampled but for Mitchell's own softness at its rim.
      const theirs = await sharp(Buffer.from(source.pixels), { raw: { width: 160, height: 100, channels: 3 } })
        .composite([{ input: Buffer.from(asset.pixels), raw: { width: 24, height: 16, channels: 4 }, left: 136, top: 84 }])
        .removeAlpha()
        .raw()
        .toBuffer()
      const at = (from: ArrayLike<number>, x: number, y: number) => [0, 1, 2].map((c) => from[(y * 160 + x) * 3 + c] ?? 0)
      for (const [x, y] of [
        [148, 92],
        [144, 90],
        [150, 95],
        [136, 84],
        [20, 20],
        [130, 92],
      ] as const)
        at(theirs, x, y).forEach((code, c) => {
          expect(Math.abs(code - (at(pixels, x, y)[c] ?? -9))).toBeLessThanOrEqual(1)
        })
      const half = (await renderOne(source, 'stamp-image', { ...stamped, opacityPercent: 50 })).pixels
      at(half, 148, 92).forEach((code, c) => {
        const [ground, top] = [at(source.pixels, 148, 92)[c] ?? 0, at(theirs, 148, 92)[c] ?? 0].map((value) =>
          srgbTransfer.decode(value / 255),
        ) as [number, number]
        expect(Math.abs(code - srgbTransfer.encode((ground + top) / 2) * 255)).toBeLessThan(3)
      })
    },
  ],
  'play-macro': [
    'a gain of two by the formulas of IEC 61966-2-1 and a quarter turn by libvips, within 1/255',
    async () => {
      const source = paint(7, 5, (x, y) => [20 + x * 12, 30 + y * 15, 90])
      const steps = [newStep('exposure', 'a', { exposureEv: 1 }), newStep('turn-mirror', 'b', { turn: 'right' })]
      const { pixels } = await renderOne(source, 'play-macro', {
        macro: { macroId: '', name: 'Two', revision: 1, steps: steps.map((step) => ({ ...step })) },
      })
      const turned = await sharp(source.pixels, { raw: { width: 7, height: 5, channels: 3 } })
        .rotate(90)
        .raw()
        .toBuffer()
      for (const [i, code] of turned.entries()) {
        const doubled = srgbTransfer.encode(Math.min(1, 2 * srgbTransfer.decode(code / 255))) * 255
        expect(Math.abs((pixels[i] ?? 0) - doubled)).toBeLessThanOrEqual(1)
      }
    },
  ],
  'stamp-text': [
    'letters cover what libvips’ own drawing of the same outlines as SVG covers, within 2 % of the ink',
    async () => {
      const [width, height] = [400, 200]
      const source = paint(width, height, () => [0, 0, 0])
      const { pixels } = await renderOne(source, 'stamp-text', {
        text: 'Kiln 27',
        font: 'instrument-sans-600',
        sizePercent: 25,
        positionXPercent: 50,
        positionYPercent: 50,
        opacityPercent: 100,
        tint: 'given',
        colour: '#ffffff',
      })
      const face = testAssets.get('font:instrument-sans-600')
      if (face?.kind !== 'font') throw new Error('The face is gone')
      const path = opentype.parse(face.bytes).getPath('Kiln 27', 20, 150, 50).toPathData(4)
      const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}"><rect width="100%" height="100%"/><path fill="#fff" d="${path}"/></svg>`
      const theirs = await sharp(Buffer.from(svg)).removeAlpha().raw().toBuffer()
      // Our coverage is linear light, theirs encoded: compared as coverage.
      const ours = pixels.reduce((sum, code, i) => (i % 3 === 0 ? sum + srgbTransfer.decode(code / 255) : sum), 0)
      const drawn = theirs.reduce((sum, code, i) => (i % 3 === 0 ? sum + code / 255 : sum), 0)
      expect(drawn).toBeGreaterThan(500)
      expect(Math.abs(ours / drawn - 1)).toBeLessThan(0.02)
    },
  ],
}

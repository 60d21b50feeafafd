import Color from 'colorjs.io'
import sharp, { type Sharp } from 'sharp'
import { expect } from 'vitest'
import { paint } from '../pictures'
import { renderOne } from '../render'

/* The other libraries that operations are compared with: libvips, reached through sharp, and colorjs.io. */

/** One channel of values 0–1 through libvips, as 16-bit grey: a 257th of the tolerance. */
export async function throughLibvips(
  values: Float32Array,
  width: number,
  height: number,
  work: (image: Sharp) => Sharp,
): Promise<Float32Array> {
  const codes = Uint16Array.from(values, (value) => Math.round(value * 65535))
  const image = sharp(codes, { raw: { width, height, channels: 1 } })
  const { data } = await work(image).toColourspace('grey16').raw({ depth: 'ushort' }).toBuffer({ resolveWithObject: true })
  return Float32Array.from(new Uint16Array(data.buffer, data.byteOffset, data.length / 2), (code) => code / 65535)
}

export const swatches = [
  [200, 40, 30],
  [30, 120, 200],
  [90, 160, 60],
  [128, 128, 128],
  [240, 220, 40],
  [70, 30, 90],
] as const
export const swatchPicture = () => paint(swatches.length, 1, (x) => swatches[x] ?? [0, 0, 0])

/** Renders the swatches and compares each with what another library makes of it, in codes of 8 bits. */
export async function compareSwatches(
  operation: string,
  settings: Record<string, number>,
  expected: (colour: Color) => Color,
): Promise<void> {
  const { pixels } = await renderOne(swatchPicture(), operation, settings)
  swatches.forEach((rgb, i) => {
    const theirs = expected(new Color('srgb', rgb.map((code) => code / 255) as [number, number, number])).to('srgb').coords
    const codes = theirs.map((value) => Math.min(255, Math.max(0, (value ?? 0) * 255)))
    codes.forEach((code, channel) => {
      expect(Math.abs((pixels[i * 3 + channel] ?? -9) - code)).toBeLessThanOrEqual(0.51)
    })
  })
}

import { readFileSync } from 'node:fs'
import Color from 'colorjs.io'
import exifr from 'exifr'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import type { OutputSpaceId } from '@/colour/spaces'
import { planRender } from '@/engine/plan'
import { renderEncoded, renderEncoded16 } from '@/engine/render'
import { defaultEncoding, type Encoding, type EncodingFormat, formats } from '@/jobs/encoding'
import { testKernels } from '../../tests/kernels'
import { busyPicture, paint } from '../../tests/pictures'
import { worstDifference } from '../../tests/render'
import { decodePicture } from './decode'
import { type EncodedPixels, encodePicture } from './encode'

const swatches = [
  [200, 40, 30],
  [30, 120, 200],
  [90, 160, 60],
  [128, 128, 128],
  [240, 220, 40],
  [250, 250, 250],
] as const
const rgb = (values: EncodedPixels['values']): EncodedPixels => ({ values, channels: 3 })
const swatchPicture = () => paint(swatches.length, 1, (x) => swatches[x] ?? [0, 0, 0])
const encodingOf = (format: EncodingFormat, more: Partial<Encoding> = {}): Encoding => ({
  ...defaultEncoding,
  format,
  qualityPercent: 95,
  ...more,
})

async function deep(space: OutputSpaceId, source = swatchPicture()): Promise<Uint16Array> {
  return renderEncoded16(await testKernels(), planRender(source, [], 'full'), { space })
}

describe('colours of a delivery', () => {
  const names = { srgb: 'srgb', 'display-p3': 'p3', oprgb: 'a98rgb', romm: 'prophoto' } as const
  it.each(Object.entries(names))('%s in 16 bit as colorjs.io has it, within 1e-4', async (space, name) => {
    const codes = await deep(space as OutputSpaceId)
    swatches.forEach((rgb, i) => {
      const theirs = new Color('srgb', rgb.map((code) => code / 255) as [number, number, number]).to(name).coords
      theirs.forEach((value, channel) => {
        expect(Math.abs((codes[i * 3 + channel] ?? 0) / 65535 - (value ?? 0))).toBeLessThan(1e-4)
      })
    })
  })
  it('Rec. 2020 in 16 bit by the formula of ITU-R BT.2020-2, table 4, on the linear values of colorjs.io, within 1e-4', async () => {
    const codes = await deep('rec2020')
    swatches.forEach((rgb, i) => {
      const linear = new Color('srgb', rgb.map((code) => code / 255) as [number, number, number]).to('rec2020-linear').coords
      linear.forEach((value, channel) => {
        const e = value ?? 0
        const encoded = e < 0.0181 ? 4.5 * e : 1.0993 * e ** 0.45 - 0.0993
        expect(Math.abs((codes[i * 3 + channel] ?? 0) / 65535 - encoded)).toBeLessThan(1e-4)
      })
    })
  })
  it('grey is luminance with the transfer of sRGB, as colorjs.io has it', async () => {
    const codes = await deep('grey')
    swatches.forEach((rgb, i) => {
      const y = new Color('srgb', rgb.map((code) => code / 255) as [number, number, number]).to('xyz-d65').coords[1] ?? 0
      const grey = new Color('srgb-linear', [y, y, y]).to('srgb').coords[0] ?? 0
      for (const channel of [0, 1, 2]) expect(Math.abs((codes[i * 3 + channel] ?? 0) / 65535 - grey)).toBeLessThan(2e-4)
    })
  })
  it('a colour that sRGB lacks comes in along its OKLCh hue (colorjs.io), others stay to the bit', async () => {
    const kernels = await testKernels()
    // Pure working primaries and mixtures of them: far outside sRGB.
    const wide = {
      ...paint(
        5,
        1,
        (x) =>
          (
            [
              [0, 255, 0],
              [255, 0, 0],
              [0, 0, 255],
              [0, 255, 200],
              [128, 120, 110],
            ] as const
          )[x] ?? [0, 0, 0],
      ),
    }
    const identity = [1, 0, 0, 0, 1, 0, 0, 0, 1] as const
    const source = { ...wide, colour: { ...wide.colour, toWorking: identity } }
    const render = (gamut: 'hue' | 'clip') =>
      renderEncoded(kernels, planRender(source, [], 'full'), { space: 'srgb', channels: 3, dither: false, gamut })
    const [mapped, clipped] = [render('hue'), render('clip')]
    for (const i of [0, 1, 2, 3]) {
      const before = new Color(
        'rec2020-linear',
        [...wide.pixels.slice(i * 3, i * 3 + 3)].map((code) => new Color('srgb', [code / 255, 0, 0]).to('srgb-linear').coords[0] ?? 0) as [
          number,
          number,
          number,
        ],
      ).to('oklch').coords
      const after = new Color('srgb', [...mapped.slice(i * 3, i * 3 + 3)].map((code) => code / 255) as [number, number, number]).to(
        'oklch',
      ).coords
      const turned = Math.abs((((after[2] ?? 0) - (before[2] ?? 0) + 540) % 360) - 180)
      expect(turned).toBeLessThan(1.5)
      expect(after[1] ?? 9).toBeLessThan(before[1] ?? 0)
    }
    expect([...mapped.slice(12)]).toEqual([...clipped.slice(12)])
  })
  it.each([...Object.keys(names), 'rec2020'] as OutputSpaceId[])(
    '%s: libvips’ colour management reads our profile back to the sRGB picture, within 2/255',
    async (space) => {
      const codes = await deep(space)
      const png = await encodePicture(rgb(codes), { width: swatches.length, height: 1 }, encodingOf('png', { bits: 16, space }), {})
      const back = await sharp(png).withIccProfile('srgb').raw().toBuffer()
      expect(worstDifference(back, swatches.flat())).toBeLessThanOrEqual(2)
    },
  )
})

describe('file formats', () => {
  const source = busyPicture(120, 80)
  const rendered = async () =>
    renderEncoded(await testKernels(), planRender(source, [], 'full'), { space: 'srgb', channels: 3, dither: false })
  const carried = async () => (await decodePicture(readFileSync('demo/pictures/vessels/TLK27_0422.jpg'), 'TLK27_0422.jpg')).carried

  it.each(Object.keys(formats) as EncodingFormat[])('%s holds the pixels, the profile, EXIF and dpi', async (format) => {
    const file = await encodePicture(rgb(await rendered()), source.size, encodingOf(format, { dpi: 300 }), await carried())
    const meta = await sharp(file).metadata()
    expect(meta).toMatchObject({ width: 120, height: 80, channels: 3 })
    expect(meta.format).toBe(format === 'avif' ? 'heif' : format)
    expect(meta.icc?.length).toBeGreaterThan(300)
    const lossless = !formats[format].hasQuality
    const back = await sharp(file, { ignoreIcc: true }).raw().toBuffer()
    const worst = worstDifference(back, source.pixels)
    if (lossless) expect(worst).toBe(0)
    else expect(back.reduce((sum, code, i) => sum + Math.abs(code - (source.pixels[i] ?? 0)), 0) / back.length).toBeLessThan(6)
    expect(meta.xmp?.length).toBeGreaterThan(50)
    // Some containers keep JPEG's header before the block; libvips writes none into TIFF.
    const exif = meta.exif?.subarray(meta.exif.toString('latin1', 0, 4) === 'Exif' ? 6 : 0)
    if (format !== 'tiff') expect(await exifr.parse(exif ?? Buffer.alloc(0))).toHaveProperty('ISO')
    if (format === 'jpeg' || format === 'png' || format === 'tiff') expect(meta.density).toBe(300)
  })
  it.each(['png', 'tiff'] as const)('%s in 16 bit is the very codes, in colour and in grey', async (format) => {
    for (const space of ['srgb', 'grey'] as const) {
      const codes = await deep(space, source)
      const file = await encodePicture(rgb(codes), source.size, encodingOf(format, { bits: 16, space }), {})
      const meta = await sharp(file).metadata()
      expect(meta).toMatchObject({ depth: 'ushort', channels: space === 'grey' ? 1 : 3 })
      const { data } = await sharp(file, { ignoreIcc: true })
        .toColourspace(space === 'grey' ? 'grey16' : 'rgb16')
        .raw({ depth: 'ushort' })
        .toBuffer({ resolveWithObject: true })
      const back = new Uint16Array(data.buffer, data.byteOffset, data.length / 2)
      expect(worstDifference(back, space === 'grey' ? codes.filter((_, i) => i % 3 === 0) : codes)).toBe(0)
    }
  })
  it.each(['jpeg', 'webp', 'avif'] as const)('%s keeps to a largest size by the highest quality that fits', async (format) => {
    const free = await encodePicture(rgb(await rendered()), source.size, encodingOf(format), {})
    const mostKb = Math.max(2, Math.floor((free.length * 0.7) / 1000))
    const held = await encodePicture(rgb(await rendered()), source.size, encodingOf(format, { mostKb }), {})
    expect(held.length).toBeLessThanOrEqual(mostKb * 1000)
    expect(held.length).toBeGreaterThan(mostKb * 1000 * 0.5)
  })
  it('says so when the format can’t hold the sides', async () => {
    await expect(encodePicture(rgb(new Uint8ClampedArray(0)), { width: 20000, height: 1 }, encodingOf('webp'), {})).rejects.toThrow('16383')
  })
  it('holds a file to a size with colour at half resolution where full resolution does not fit, and uses what room there is', async () => {
    const picture = await sharp('demo/pictures/vessels/TLK27_0449.jpg').resize(900).raw().toBuffer({ resolveWithObject: true })
    const size = { width: picture.info.width, height: picture.info.height }
    const pixels = { values: new Uint8ClampedArray(picture.data), channels: 3 as const }
    const held = (mostKb: number) => encodePicture(pixels, size, encodingOf('jpeg', { mostKb, qualityPercent: 92 }), {})
    for (const [mostKb, chroma] of [
      [60, '4:4:4'],
      [12, '4:2:0'],
      [8, '4:2:0'],
    ] as const) {
      const file = await held(mostKb)
      expect(file.length).toBeLessThanOrEqual(mostKb * 1000)
      expect(file.length).toBeGreaterThan(mostKb * 900)
      expect((await sharp(file).metadata()).chromaSubsampling).toBe(chroma)
    }
    await expect(held(2)).rejects.toThrow(/No JPEG of quality 5 or better/)
  })
  it('written as small as it gets is smaller and looks the same', async () => {
    const picture = await sharp('demo/pictures/tiles/TLK27_0429.jpg').resize(600).raw().toBuffer({ resolveWithObject: true })
    const size = { width: picture.info.width, height: picture.info.height }
    const pixels = { values: new Uint8ClampedArray(picture.data), channels: 3 as const }
    const written = async (smallest: boolean): Promise<readonly [bytes: number, error: number]> => {
      const file = await encodePicture(pixels, size, encodingOf('jpeg', { smallest }), {})
      const back = await sharp(file).raw().toBuffer()
      return [file.length, back.reduce((sum, value, i) => sum + (value - (picture.data[i] ?? 0)) ** 2, 0) / back.length]
    }
    const [[usual, error], [small, otherError]] = [await written(false), await written(true)]
    expect(small).toBeLessThan(usual * 0.97)
    expect(otherError).toBeLessThan(error * 1.25)
  })
})

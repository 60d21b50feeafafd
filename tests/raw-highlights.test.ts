import { readFileSync } from 'node:fs'
import exifr from 'exifr'
import { describe, expect, it } from 'vitest'
import { decodePicture } from '@/files/decode'
import { readFacts } from '@/files/facts'
import { carriedByTiff, exifFromMetadata } from '@/files/raw/raw-exif'
import { askRaw } from '@/files/raw/raw-thread'
import { newStep } from '@/macros/step'
import { dng } from './dng'
import { renderSteps } from './render'

/* What a sensor cuts off, through the whole way from the file; and what a raw file tells, carried to what is made of it. */

const neutral = [0.4, 1, 0.56] as const
const size = { width: 400, height: 48 }
/** Grey that rises from left to right to twice what green can hold. */
const bytes = dng({
  size,
  at: (x, _, channel) => Math.min(1, ((2 * x) / size.width) * (neutral[channel] ?? 1)),
  neutral,
  matrices: [[0.742, -0.205, -0.081, -0.437, 1.217, 0.249, -0.061, 0.151, 0.642]],
})

async function drawn(clipped: string): Promise<(x: number) => readonly number[]> {
  const { source } = await decodePicture(bytes, 'grey.dng')
  const step = newStep('base-curve', 'b', { clipped, contrastPercent: 0, roomEv: 2 })
  const subject = { facts: await readFacts(bytes, 'grey.dng'), name: 'grey.dng' }
  const { pixels } = await renderSteps(source, [step], false, 'clip', subject)
  return (x) => [...pixels.subarray((24 * size.width + x) * 3, (24 * size.width + x) * 3 + 3)]
}

describe('highlights of a raw file', () => {
  it.each(['rebuilt', 'cut'])('%s, grey is grey from black to far above where green ends', async (clipped) => {
    const at = await drawn(clipped)
    for (let x = 20; x < 390; x += 6) expect(Math.max(...at(x)) - Math.min(...at(x))).toBeLessThanOrEqual(6)
  })
  it('rebuilt, what is brighter than green’s end is brighter; cut, all of it is as bright as that end', async () => {
    const [rebuilt, cut] = [await drawn('rebuilt'), await drawn('cut')]
    expect(Math.max(...rebuilt(380))).toBeGreaterThan(Math.max(...rebuilt(205)) + 3)
    expect(Math.abs(Math.max(...cut(380)) - Math.max(...cut(215)))).toBeLessThanOrEqual(2)
  })
})

describe('what a raw file tells of how it was taken', () => {
  it('is carried with its place and its words, and without the maker’s notes', async () => {
    const { exif, xmp } = carriedByTiff(readFileSync('demo/raw/TLK27_0410.dng'))
    const tags = await exifr.parse(exif as Buffer, { gps: true })
    expect(tags).toMatchObject({ Make: 'Marram Optical', Model: 'MO-2', ISO: 100, LensModel: 'MO Macro-Zoom 35-85mm F2.8-4' })
    expect([tags.latitude, tags.longitude]).toEqual([expect.closeTo(47.2045, 3), expect.closeTo(-31.418, 3)])
    expect(xmp?.toString()).toContain('Yard and water')
  })
  it('is written anew from what the decoder read, where the file is no TIFF', async () => {
    const { metadata } = await askRaw('head', readFileSync('demo/raw/TLK27_0410.dng'), { path: 'x.dng' })
    const block = (await exifFromMetadata(metadata)) as Buffer
    const tags = await exifr.parse(block.subarray(block.toString('latin1', 0, 4) === 'Exif' ? 6 : 0))
    expect(tags).toMatchObject({ Make: 'Marram Optical', Model: 'MO-2', ISO: 100, FNumber: 8, FocalLength: 38 })
    expect(tags.ExposureTime).toBeCloseTo(1 / 320, 5)
  })
})

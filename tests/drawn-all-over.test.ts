import { readdirSync } from 'node:fs'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import { srgbTransfer } from '@/colour/transfer'
import { withCameraNoise } from './camera-noise'
import { normals } from './pictures'
import { decibels, reduceNoise } from './reduced-noise'
import { soak } from './soak'
import { type Texture, textureSize, textures } from './textures'

const { width, height } = textureSize
const names = Object.keys(textures) as Texture[]
const held = (codes: ArrayLike<number>): Float64Array => Float64Array.from(codes, (code) => Math.min(255, Math.max(0, Math.round(code))))

describe('a picture that is drawn all over, and whose ISO nobody knows', soak, () => {
  it.each(names)('%s without noise is left as it is: 45 dB at least', async (name) => {
    const clean = held(textures[name]())
    const { pixels } = await reduceNoise(clean, textureSize)
    expect(decibels(pixels, clean)).toBeGreaterThan(45)
  })
  it('so are four pictures of the demo, as they were before the camera', async () => {
    for (const file of readdirSync('demo/truth')) {
      const { data, info } = await sharp(`demo/truth/${file}`)
        .toColourspace('rgb16')
        .raw({ depth: 'ushort' })
        .toBuffer({ resolveWithObject: true })
      const linear = new Uint16Array(data.buffer, data.byteOffset, data.length / 2)
      const clean = Float64Array.from(linear, (code) => Math.round(255 * srgbTransfer.encode(Math.min(1, code / 32768))))
      const { pixels } = await reduceNoise(clean, info)
      expect(decibels(pixels, clean)).toBeGreaterThan(45)
    }
  })
  // Plaster is even, of no direction and without colour, as grain is: with noise on top nothing tells them apart.
  it.each(names.filter((name) => name !== 'plaster'))(
    'white noise of 8 codes on %s is taken for what it is, and never does the reduction more harm than good',
    async (name) => {
      const clean = textures[name]()
      const normal = normals(7)
      const noisy = held(clean.map((code) => code + 8 * normal()))
      const { pixels, found } = await reduceNoise(noisy, textureSize)
      expect(found).toBeGreaterThan(0.8 * (8 / Math.sqrt(3)))
      expect(decibels(pixels, clean)).toBeGreaterThan(decibels(noisy, clean) + 1)
    },
  )
  it('grain of a picture without colour is found as it is: there is no colour to tell by', async () => {
    const normal = normals(3)
    const grains = Float64Array.from({ length: width * height }, () => 6 * normal())
    const { found } = await reduceNoise(
      Float64Array.from({ length: width * height * 3 }, (_, i) => 120 + (grains[Math.floor(i / 3)] ?? 0)),
      textureSize,
    )
    expect(Math.abs(found / 6 - 1)).toBeLessThan(0.1)
  })
})

describe('noise that is given', soak, () => {
  it('is of the kind that the picture has: a camera’s own is taken nearly as well as if it were measured', async () => {
    const clean = Float64Array.from({ length: width * height * 3 }, (_, i) => {
      const [x, y] = [Math.floor(i / 3) % width, Math.floor(i / 3 / width)]
      return 110 + 50 * Math.sin(x / 90) * Math.cos(y / 70) + (Math.hypot(x - 300, y - 250) < 120 ? 45 : 0)
    })
    const noisy = held(withCameraNoise(clean, width, height, { sigma: 0.0227, seed: 5 }))
    const real = Math.sqrt(noisy.reduce((sum, code, i) => sum + (code - (clean[i] ?? 0)) ** 2, 0) / noisy.length)
    const decibelsWith = async (settings: Readonly<Record<string, string | number>>): Promise<number> =>
      decibels((await reduceNoise(noisy, textureSize, settings)).pixels, clean)
    const [measured, given, white] = [
      await decibelsWith({}),
      await decibelsWith({ level: 'given', noiseLevels: real }),
      await decibelsWith({ level: 'given', noiseLevels: real, edition: 'first' }),
    ]
    expect(given).toBeGreaterThan(measured - 0.8)
    expect(given).toBeGreaterThan(white + 2)
  })
})

describe('strong noise at the default', soak, () => {
  it('leaves less behind than its share says: at 25 codes as clean as at full strength', async () => {
    const normal = normals(9)
    const clean = new Float64Array(width * height * 3).fill(120)
    const noisy = held(clean.map((code) => code + 25 * normal()))
    const [plain, full] = [await reduceNoise(noisy, textureSize), await reduceNoise(noisy, textureSize, { brightnessNoisePercent: 100 })]
    expect(decibels(plain.pixels, clean)).toBeGreaterThan(decibels(full.pixels, clean) - 0.5)
  })
})

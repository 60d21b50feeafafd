import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import sharp from 'sharp'
import { beforeAll, describe, expect, it } from 'vitest'
import { testKernels } from '../tests/kernels'
import { seeded } from '../tests/pictures'
import type { Kernels } from './binding'
import { isWholeJpeg } from './jpeg-scan'

let kernels: Kernels
beforeAll(async () => {
  kernels = await testKernels()
})

const photo = 'demo/pictures/vessels/TLK27_0418.jpg'

/** Files as other encoders write them: other samplings, optimised tables, grey, CMYK, scans of one component each. */
async function written(): Promise<Record<string, Buffer>> {
  const image = sharp(photo).resize(611, 407)
  return {
    '4:2:0': await image.clone().jpeg({ quality: 88 }).toBuffer(),
    '4:4:4': await image.clone().jpeg({ quality: 95, chromaSubsampling: '4:4:4' }).toBuffer(),
    'standard tables': await image.clone().jpeg({ quality: 70, optimiseCoding: false }).toBuffer(),
    grey: await image.clone().greyscale().toColourspace('b-w').jpeg().toBuffer(),
    cmyk: await image.clone().toColourspace('cmyk').jpeg().toBuffer(),
    'one pixel': await sharp({ create: { width: 1, height: 1, channels: 3, background: '#a54' } })
      .jpeg()
      .toBuffer(),
    white: await sharp({ create: { width: 77, height: 33, channels: 3, background: '#fff' } })
      .jpeg({ quality: 100 })
      .toBuffer(),
    // Blocks that are full to their last coefficient, and such that have only a few far ones.
    noise: await sharp({
      create: { width: 200, height: 150, channels: 3, background: '#888', noise: { type: 'gaussian', mean: 128, sigma: 60 } },
    })
      .jpeg({ quality: 100, chromaSubsampling: '4:4:4' })
      .toBuffer(),
    checks: await sharp(
      Buffer.from(Array.from({ length: 96 * 96 * 3 }, (_, i) => ((Math.floor(i / 3) + Math.floor(i / 288)) % 2) * 40 + (i % 7))),
      { raw: { width: 96, height: 96, channels: 3 } },
    )
      .jpeg({ quality: 75, optimiseCoding: false })
      .toBuffer(),
    progressive: await image.clone().jpeg({ progressive: true }).toBuffer(),
  }
}

describe('the scan of a JPEG', () => {
  it('is found whole in every file that is', async () => {
    for (const [name, bytes] of Object.entries(await written())) expect([name, isWholeJpeg(kernels, bytes)]).toEqual([name, true])
    const folder = 'demo/pictures'
    for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true }))
      if (entry.name.endsWith('.jpg')) {
        const path = join(entry.parentPath, entry.name)
        expect([path, isWholeJpeg(kernels, readFileSync(path))]).toEqual([path, true])
      }
  })

  it('may be padded, and anything may stand behind the end', async () => {
    const bytes = await sharp(photo).resize(300).jpeg().toBuffer()
    const [body, end] = [bytes.subarray(0, -2), bytes.subarray(-2)]
    for (const more of [
      [body, Buffer.from([0, 0, 0]), end],
      [body, Buffer.from([255, 255]), end],
      [bytes, Buffer.alloc(900)],
      [bytes, bytes],
    ])
      expect(isWholeJpeg(kernels, Buffer.concat(more))).toBe(true)
  })

  // Changed as a failing disk or a bad cable changes files. Some changes make another picture that is as sound as the first: no reader can tell.
  it.each([
    [
      '512 zeroed bytes',
      40,
      (bytes: Buffer, random: () => number) => {
        const from = Math.floor(bytes.length * (0.3 + 0.4 * random()))
        bytes.fill(0, from, from + 512)
      },
    ],
    [
      'five flipped bits',
      40,
      (bytes: Buffer, random: () => number) => {
        for (let i = 0; i < 5; i++) {
          const at = Math.floor(bytes.length * (0.3 + 0.4 * random()))
          bytes[at] = (bytes[at] as number) ^ (1 << Math.floor(random() * 8))
        }
      },
    ],
  ] as const)('is found broken after %s', async (_, count, damage) => {
    const random = seeded(11)
    const whole = [readFileSync(photo), await sharp(photo).resize(900).jpeg({ quality: 85 }).toBuffer()]
    let found = 0
    for (let i = 0; i < count; i++) {
      const bytes = Buffer.from(whole[i % 2] as Buffer)
      damage(bytes, random)
      if (!isWholeJpeg(kernels, bytes)) found++
    }
    console.log(`${found} of ${count} found`)
    expect(found).toBeGreaterThanOrEqual(count * 0.9)
  })

  it('that ends too early is broken', async () => {
    const bytes = await sharp(photo).resize(300).jpeg().toBuffer()
    expect(isWholeJpeg(kernels, bytes.subarray(0, bytes.length - 200))).toBe(false)
  })

  it('of any bytes at all ends in an answer', () => {
    const random = seeded(5)
    const head = readFileSync(photo).subarray(0, 700)
    for (let i = 0; i < 200; i++) {
      const bytes = Buffer.concat([head, Buffer.from(Array.from({ length: 400 }, () => Math.floor(random() * 256)))])
      for (let j = 0; j < 20; j++) bytes[Math.floor(random() * bytes.length)] = Math.floor(random() * 256)
      expect(typeof isWholeJpeg(kernels, bytes)).toBe('boolean')
    }
  })
})

import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { Sample } from '@/engine/sample'
import { decodePicture } from '@/files/decode'
import { readFacts } from '@/files/facts'
import { newStep } from '@/macros/step'
import { findOperation, operations, shownBy } from '@/operations'
import { testAssets } from './assets'
import { testKernels } from './kernels'

/* Small pictures that tell what operations do: each has to be seen to be another than the picture. */

const path = 'demo/pictures/tiles/TLK27_0429.jpg'
/** A fiftieth of the picture is another by so many codes: less is not seen at the size of a thumbnail. */
const seen = 8

const bytes = readFileSync(path)
const { source } = await decodePicture(bytes, path)
const subject = { facts: await readFacts(bytes, path), name: 'TLK27_0429.jpg' }
const sample = new Sample(await testKernels(), source, subject, testAssets, 160)
const plain = sample.render([])

describe('small pictures of operations', () => {
  it.each(Object.entries(shownBy))('of %s show what it does', (id, settings) => {
    expect(Object.keys(findOperation(id)?.settings ?? {})).toEqual(expect.arrayContaining(Object.keys(settings)))
    const { size, pixels } = sample.render([newStep(id, 'shown', settings)])
    if (size.width !== plain.size.width || size.height !== plain.size.height) return
    const differences = Array.from(pixels, (value, i) => Math.abs(value - (plain.pixels[i] ?? 0))).sort((a, b) => b - a)
    expect(differences[Math.floor(differences.length / 50)]).toBeGreaterThan(seen)
  })
  it('are there for all that a small picture can tell', () => {
    // Drawing, noise and sharpness are judged at 100 %.
    expect(operations.filter(({ id }) => !(id in shownBy)).map(({ id }) => id)).toEqual([
      // Changes raw files alone.
      'base-curve',
      'local-contrast',
      'look-table',
      'match',
      'even-out',
      'noise-reduction',
      'despeckle',
      'unsharp-mask',
      'deconvolve',
      'detail-bands',
      'sharpen-for-size',
      'resize',
      'stamp-image',
      'play-macro',
      'colour-space',
      'bit-depth',
    ])
  })
})

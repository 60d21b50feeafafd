import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { decodePicture } from '@/files/decode'
import { newStep } from '@/macros/step'
import { testKernels } from './kernels'
import { siblingsApart } from './siblings'

const automatic = [newStep('white-balance', 'w', { by: 'auto' }), newStep('full-range', 'l')]

describe('pictures of one set, each adjusted by itself', () => {
  it.each(['vessels/TLK27_0416.jpg', 'vessels/TLK27_0424.jpg', 'tiles/TLK27_0429.jpg', 'kiln-and-yard/TLK27_0405.jpg'])(
    'come out alike: %s from five slightly other places',
    async (name) => {
      const path = `demo/pictures/${name}`
      const { source } = await decodePicture(readFileSync(path), path)
      const kernels = await testKernels()
      // What a careful eye just sees is 1 (common practice).
      expect(siblingsApart(kernels, source, automatic)).toBeLessThan(1)
      // The measure by itself adds nothing: untouched, they are the same.
      expect(siblingsApart(kernels, source, [])).toBeLessThan(0.01)
    },
  )
  it('are told apart where they do not', async () => {
    const size = { width: 400, height: 300 }
    // A light strip that only some frames show: black and white of each are others.
    const pixels = new Uint8Array(400 * 300 * 3).map((_, i) => (Math.floor(i / 3) % 400 < 20 ? 250 : 90 + ((i * 7) % 30)))
    const { source } = await decodePicture(readFileSync('demo/pictures/tiles/TLK27_0429.jpg'), 'x.jpg')
    expect(siblingsApart(await testKernels(), { ...source, size, pixels }, automatic)).toBeGreaterThan(5)
  })
})

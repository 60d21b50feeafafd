import fc from 'fast-check'
import { expect, it } from 'vitest'
import type { InterleavedSource } from '@/pixels/picture'
import { testKernels } from '../../tests/kernels'
import { srgbColour } from '../../tests/pictures'
import { areaCopy, isEightBit } from './area-copy'
import { renderProxy } from './render'

it('is what the resampling kernel "area" makes of the whole picture in floats', async () => {
  const kernels = await testKernels()
  fc.assert(
    fc.property(
      fc.integer({ min: 2, max: 90 }),
      fc.integer({ min: 2, max: 70 }),
      fc.double({ min: 0.06, max: 0.97, noNaN: true }),
      (width, height, scale) => {
        const pixels = Uint8Array.from({ length: width * height * 3 }, (_, i) => (i * 7919 + (i >> 4) * 31) & 255)
        const source: InterleavedSource = { kind: 'interleaved', size: { width, height }, pixels, colour: srgbColour }
        if (!isEightBit(source)) throw new Error('8 bits')
        const wanted = renderProxy(kernels, source, scale, 'area')
        const made = areaCopy(kernels, source, wanted.size)
        // A sample in the middle between two parts may fall to either, by how numbers are rounded.
        const isUndecided = (length: number, parts: number) =>
          Array.from({ length: parts }, (_, i) => ((2 * i * length) / parts) % 2).some((twice) => Math.abs(twice - 1) < 1e-9)
        fc.pre(!isUndecided(width, wanted.size.width) && !isUndecided(height, wanted.size.height))
        expect(made.planes.length).toBe(wanted.planes.length)
        for (const [i, value] of wanted.planes.entries()) expect(Math.abs((made.planes[i] ?? Number.NaN) - value)).toBeLessThan(2e-6)
      },
    ),
    { numRuns: 60 },
  )
})

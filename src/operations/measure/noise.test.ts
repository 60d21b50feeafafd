import { describe, expect, it } from 'vitest'
import { transform } from '@/colour/matrix'
import { fromOpponent, toOpponent } from '@/colour/opponent'
import { colourSpaces, rgbToRgb, workingSpace } from '@/colour/spaces'
import { srgbTransfer } from '@/colour/transfer'
import { testKernels } from '../../../tests/kernels'
import { normals } from '../../../tests/pictures'
import { deviationCodes, measureNoise, whiteNoise } from './noise'

const kernels = await testKernels()
const toWorking = rgbToRgb(colourSpaces.srgb, workingSpace)

/** Grey pieces with noise of a deviation in codes, over something drawn. */
function pieces(sigma: number, drawn: (x: number, y: number) => number, seed = 3) {
  const normal = normals(seed)
  return Array.from({ length: 16 }, () => {
    const [width, height] = [128, 128]
    const planes = new Float32Array(3 * width * height)
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const code = () => srgbTransfer.decode(Math.min(1, Math.max(0, (drawn(x, y) + sigma * normal()) / 255)))
        const rgb = transform(toWorking, [code(), code(), code()])
        for (const c of [0, 1, 2] as const) planes[(c * height + y) * width + x] = rgb[c]
      }
    return { size: { width, height }, planes, kernels }
  })
}

describe('noise measured on a picture', () => {
  it.each([2, 6, 15])('white noise of %d codes on flat grey is found within 6 %', (sigma) => {
    const found = deviationCodes(measureNoise(pieces(sigma, () => 120)), 120 / 255)
    expect(Math.abs(found / (sigma / Math.sqrt(3)) - 1)).toBeLessThan(0.06)
  })
  it('white noise is known for what it is, also where brightness holds drawing that colour has not', () => {
    const woven = (x: number, y: number) => 110 + 3 * Math.sin(x / 3) * Math.sin(y / 4)
    for (const drawn of [() => 120, woven]) {
      const { deviations, factors } = measureNoise(pieces(9, drawn))
      const [sigma = 0] = deviations[1]?.[0] ?? []
      expect(Math.abs(sigma / (9 / 255) - 1)).toBeLessThan(0.03)
      expect({ deviations, factors }).toEqual(whiteNoise(sigma))
    }
  })
  it.each<[string, (noise: () => number) => () => [number, number, number]]>([
    ['alike in all channels', (noise) => () => [0, 0, 0].fill(noise()) as [number, number, number]],
    ['stronger in red', (noise) => () => [2 * noise(), noise(), noise()]],
  ])('noise %s is not white', (_, of) => {
    const noise = of(normals(5))
    const patches = Array.from({ length: 16 }, () => {
      const planes = new Float32Array(3 * 128 * 128)
      for (let i = 0; i < 128 * 128; i++) {
        const [r, g, b] = noise().map((value) => srgbTransfer.decode((120 + 8 * value) / 255)) as [number, number, number]
        for (const [c, value] of transform(toWorking, [r, g, b]).entries()) planes[c * 128 * 128 + i] = value
      }
      return { size: { width: 128, height: 128 }, planes, kernels }
    })
    const [light, first, second] = measureNoise(patches).deviations.map((levels) => levels[0]?.[4] ?? 0)
    expect((first ?? 0) / ((light ?? 0) * Math.sqrt(3)) < 0.9 || (first ?? 0) / (second ?? 1) > 1.18).toBe(true)
  })
  it('drawing is not taken for noise: a gradient with lines leaves the finding within a quarter', () => {
    const drawn = (x: number, y: number) => 60 + x * 0.8 + (y % 32 === 0 ? 40 : 0)
    const found = deviationCodes(measureNoise(pieces(4, drawn)), 0.45)
    expect(Math.abs(found / (4 / Math.sqrt(3)) - 1)).toBeLessThan(0.25)
  })
  it('a clean picture has next to none, and ISO 100 bounds what texture may look like', () => {
    expect(deviationCodes(measureNoise(pieces(0, (x, y) => 100 + 40 * Math.sin(x / 9) * Math.cos(y / 7))), 0.4)).toBeLessThan(0.4)
    const texture = (x: number, y: number) => 120 + 60 * Math.sin(x * 1.9) * Math.sin(y * 1.7)
    const free = deviationCodes(measureNoise(pieces(0, texture), { believesAll: true }), 0.47)
    const bound = deviationCodes(measureNoise(pieces(0, texture), { iso: 100, believesAll: true }), 0.47)
    expect(bound).toBeLessThan(free)
    expect(bound).toBeLessThan(2.3)
    // Every channel holds the same of it: no sensor's noise.
    expect(deviationCodes(measureNoise(pieces(0, texture)), 0.47)).toBeLessThan(0.4)
  })
  it('is finite for black, white and pieces too small for a block', () => {
    for (const patches of [
      pieces(0, () => 0),
      pieces(0, () => 255),
      [{ size: { width: 3, height: 3 }, planes: new Float32Array(27), kernels }],
    ]) {
      const { deviations, factors } = measureNoise(patches)
      expect([...deviations.flat(2), ...factors].every(Number.isFinite)).toBe(true)
    }
  })
  it('has opponent colours that are the inverse of each other, and white noise that halves from copy to copy', () => {
    for (let row = 0; row < 3; row++)
      for (let column = 0; column < 3; column++) {
        const cell = [0, 1, 2].reduce((sum, k) => sum + (toOpponent[row * 3 + k] as number) * (fromOpponent[k * 3 + column] as number), 0)
        expect(cell).toBeCloseTo(row === column ? 1 : 0, 12)
      }
    const [fine = 0, half = 0] = whiteNoise(0.1).deviations[1]?.map((rings) => rings[4] ?? 0) ?? []
    expect(half / fine).toBeCloseTo(0.5, 12)
  })
})

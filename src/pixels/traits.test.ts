import { describe, expect, it } from 'vitest'
import { srgb8ToLab } from '@/colour/lab'
import type { Vector3 } from '@/colour/matrix'
import { siblingsBand, traitAxes } from './trait-axes'
import { markKinds, marksOfSet, type PictureTraits, traitsOf } from './traits'

const own = (part: Partial<PictureTraits> = {}): PictureTraits => ({
  lightness: 50,
  a: 0,
  b: 0,
  brightPercent: 0,
  darkPercent: 0,
  whitePercent: 0,
  ...part,
})
const marks = (set: readonly PictureTraits[]): string[][] => set.map(marksOfSet(set))

describe('marks on pictures of a set', () => {
  it('tell what is unlike its siblings', () => {
    const set = [own(), own({ lightness: 52 }), own({ lightness: 80 }), own({ b: 20 }), own({ lightness: 20 })]
    expect(marks(set)).toEqual([[], [], ['brighter than the others'], ['another colour than the others'], ['darker than the others']])
  })
  it('tell what is clipped, but not what is usual in the set', () => {
    expect(marksOfSet([])(own({ brightPercent: 3, darkPercent: 4 }))).toEqual(['3 % clipped bright', '4 % clipped dark'])
    const onWhite = [40, 42, 38, 41].map((brightPercent) => own({ brightPercent }))
    expect(marks(onWhite).flat()).toEqual([])
    expect(marks([...onWhite, own({ brightPercent: 60 })]).at(-1)).toEqual(['60 % clipped bright'])
  })
  it('tell what is nearly white where the others are not: one taken too bright, on a white ground', () => {
    const onGrey = [0, 0, 1, 0].map((whitePercent) => own({ whitePercent }))
    expect(marks([...onGrey, own({ whitePercent: 59 })])).toEqual([[], [], [], [], ['59 % nearly white']])
    const onWhite = [55, 60, 48, 63].map((whitePercent) => own({ whitePercent }))
    expect(marks([...onWhite, own({ whitePercent: 59 })]).flat()).toEqual([])
  })
  it('leave a set alone whose pictures do not agree anyway', () => {
    const mixed = [12, 25, 38, 50, 61, 74, 88].map((lightness, i) => own({ lightness, a: 12 * (i % 3), b: 15 * (i % 2) }))
    expect(marks(mixed).flat()).toEqual([])
  })
  it('tell a frame that cuts the subject, in a set of close-ups only one that cuts far more', () => {
    const cut = (...percents: number[]): string[][] => marks(percents.map((cutPercent) => own({ cutPercent })))
    expect(cut(0, 1, 12)).toEqual([[], [], ['the frame cuts off 12 % of the subject']])
    expect(cut(20, 25, 30).flat()).toEqual([])
    expect(cut(20, 25, 60)[2]).toEqual(['the frame cuts off 60 % of the subject'])
  })
  it('tell what is softer, noisier and tilted', () => {
    const set = [70, 80, 75].map((sharpnessPercent) => own({ sharpnessPercent, noiseLevels: 0.5, tiltDegrees: 0 }))
    const marksOf = marksOfSet(set)
    expect(marksOf(own({ sharpnessPercent: 40, noiseLevels: 0.5 }))).toEqual(['softer than the others'])
    expect(marksOf(own({ sharpnessPercent: 70, noiseLevels: 2 }))).toEqual(['noisier than the others'])
    expect(marksOf(own({ sharpnessPercent: 60, noiseLevels: 0.9, tiltDegrees: -1.2 }))).toEqual(['tilted by 1.2°'])
    // What an older run did not measure is not told.
    expect(marksOf(own())).toEqual([])
  })
  it('are told no more of a kind that is switched off', () => {
    const set = [own(), own(), own({ lightness: 90, tiltDegrees: 2 })]
    expect(set.map(marksOfSet(set, new Set(['light'])))[2]).toEqual(['tilted by 2.0°'])
    expect(set.flatMap(marksOfSet(set, new Set(markKinds)))).toEqual([])
  })
  it('need three pictures', () => {
    expect(marks([own(), own({ lightness: 95 })])).toEqual([[], []])
  })
})

describe('the look of finished pixels', () => {
  it('is the Lab of a single colour: sRGB red is 54.3, 80.8, 69.9 (D50, as in the ICC profile’s PCS)', () => {
    const red = Uint8Array.from({ length: 300 }, (_, i) => (i % 3 === 0 ? 255 : 0))
    const { lightness, a, b, brightPercent, darkPercent } = traitsOf(red, 3)
    for (const [found, known] of [
      [lightness, 54.3],
      [a, 80.8],
      [b, 69.9],
    ] as const)
      expect(Math.abs(found - known)).toBeLessThan(0.1)
    expect([brightPercent, darkPercent]).toEqual([100, 0])
  })
  it('is the same in 16 bits, and with an opacity beside it', () => {
    const codes = Array.from({ length: 3000 }, (_, i) => (i * 37) % 256)
    const eight = traitsOf(Uint8Array.from(codes), 3)
    const sixteen = traitsOf(
      Uint16Array.from(codes, (code) => code * 257),
      3,
    )
    const withOpacity = traitsOf(
      Uint8Array.from({ length: 4000 }, (_, i) => (i % 4 === 3 ? 9 : (codes[Math.floor(i / 4) * 3 + (i % 4)] as number))),
      4,
    )
    for (const other of [sixteen, withOpacity])
      for (const key of ['lightness', 'a', 'b', 'brightPercent', 'darkPercent', 'whitePercent'] as const)
        expect(other[key]).toBeCloseTo(eight[key], 9)
  })
  it('is the mean of every pixel’s Lab, within 0.2', () => {
    const values = Uint8Array.from({ length: 3 * 9000 }, (_, i) => (i * 7919 + ((i * i) % 83)) % 256)
    const all = Array.from({ length: 9000 }, (_, i) => srgb8ToLab([...values.subarray(3 * i, 3 * i + 3)] as unknown as Vector3))
    const found = traitsOf(values, 3)
    for (const [c, key] of (['lightness', 'a', 'b'] as const).entries())
      expect(Math.abs(found[key] - all.reduce((sum, lab) => sum + (lab[c] as number), 0) / all.length)).toBeLessThan(0.2)
  })
  it('looks at no more pixels than it needs, all over the picture', () => {
    const half = new Uint8Array(3 * 1_000_000).fill(255, 1_500_000)
    const found = traitsOf(half, 3)
    expect(found.darkPercent).toBeCloseTo(50, 1)
    expect(found.brightPercent).toBeCloseTo(50, 1)
    expect(found.whitePercent).toBe(found.brightPercent)
  })
})

describe('the band of siblings', () => {
  it('is as wide as they differ anyway, or four and a half times what half of them are off', () => {
    expect(siblingsBand([50, 51, 52], traitAxes.lightness)).toEqual([51 - 14, 51 + 14])
    expect(siblingsBand([10, 40, 50, 60, 90], traitAxes.lightness)).toEqual([50 - 45, 50 + 45])
    expect(siblingsBand([1, 2], traitAxes.noise)).toBeUndefined()
  })
})

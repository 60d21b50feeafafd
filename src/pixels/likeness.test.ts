import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { srgbTransfer } from '@/colour/transfer'
import { normals } from '../../tests/pictures'
import { cloudOf, distanceTo, likenessTo } from './likeness'

type Light = readonly [red: number, green: number, blue: number]

/** Surfaces of a series: a pale ground, a wall, wood, a glaze. Linear light. */
const surfaces: readonly Light[] = [
  [0.5, 0.48, 0.45],
  [0.2, 0.2, 0.21],
  [0.16, 0.1, 0.06],
  [0.08, 0.12, 0.1],
]

/** A picture that shows the surfaces in shares, lit by `ev` stops more and with a cast of red and blue, as codes. */
function picture(shares: readonly number[], { ev = 0, red = 0, blue = 0 } = {}, seed = 1) {
  const normal = normals(seed)
  const values = new Uint8Array(3 * 20_000)
  let at = 0
  for (const [i, share] of shares.entries()) {
    const [r, g, b] = surfaces[i] as Light
    for (let n = 0; n < 20_000 * share && at < values.length; n++) {
      // Shading: a surface is never lit evenly.
      const light = 2 ** (ev + 0.15 * normal())
      for (const value of [r * 2 ** red, g, b * 2 ** blue]) values[at++] = Math.round(255 * srgbTransfer.encode(Math.min(1, value * light)))
    }
  }
  return cloudOf({ values: values.subarray(0, at), channels: 3 })
}

const siblings = [picture([0.4, 0.2, 0.3, 0.1], {}, 2), picture([0.3, 0.4, 0.2, 0.1], {}, 3), picture([0.5, 0.1, 0.2, 0.2], {}, 4)]

describe('a picture beside its siblings', () => {
  it.each([-1.5, -1, -0.7, 0.7])('that was taken %d EV otherwise is brought back, whatever the shares of what it shows', (ev) => {
    const { shift } = likenessTo(picture([0.45, 0.25, 0.2, 0.1], { ev }, 5), siblings)
    expect(Math.abs(shift.ev + ev)).toBeLessThan(0.12)
  })
  it('that lies among them stays, though it shows more of the dark or of the pale', () => {
    for (const shares of [
      [0.1, 0.2, 0.6, 0.1],
      [0.8, 0.1, 0.05, 0.05],
      [0.25, 0.25, 0.25, 0.25],
    ])
      expect(likenessTo(picture(shares, {}, 6), siblings).shift).toEqual({ ev: 0, red: 0, blue: 0 })
  })
  it('is told the cast that it has and they have not', () => {
    const { shift } = likenessTo(picture([0.4, 0.3, 0.2, 0.1], { red: 0.3, blue: -0.3 }, 7), siblings)
    expect(Math.abs(shift.red + 0.3)).toBeLessThan(0.08)
    expect(Math.abs(shift.blue - 0.3)).toBeLessThan(0.08)
  })
  it('that shows nothing of theirs, or has but one of them, stays', () => {
    const other = cloudOf({ values: new Uint8Array(3000).map((_, i) => [20, 200, 30][i % 3] ?? 0), channels: 3 })
    expect(likenessTo(other, siblings).shift.ev).toBe(0)
    expect(likenessTo(picture([0.4, 0.3, 0.2, 0.1], { ev: -1 }), siblings.slice(0, 1)).shift.ev).toBe(0)
    expect(distanceTo(other, [], 'colours')).toBe(0)
  })
  it('of any codes at all is told finite numbers', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 0, maxLength: 600 }), (values) => {
        const { shift } = likenessTo(cloudOf({ values, channels: 3 }), [...siblings, cloudOf({ values, channels: 4 })])
        expect(Object.values(shift).every(Number.isFinite)).toBe(true)
      }),
      { numRuns: 30 },
    )
  })
})

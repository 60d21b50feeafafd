import { describe, expect, it } from 'vitest'
import type { Settings } from '@/operations'
import { greyPicture, normals } from './pictures'
import { renderOne } from './render'
import { soak } from './soak'

/* Dark edges under noise must stay straight: blocks that lie too far apart bring them out in steps of a block. */

const edge = 240
/** What is compared lies clear of the picture's ends. */
const margin = 30

interface DrawnEdge {
  /** Codes of 8 bits on either side. */
  readonly from: number
  readonly to: number
  /** Of the noise, in codes; and how soft the edge is, in pixels. */
  readonly sigma: number
  readonly softness: number
}

/** How far the edge, halfway between its sides, comes to lie from where it was drawn, line by line: the most, in pixels. */
async function strays({ from, to, sigma, softness }: DrawnEdge, degrees: number, settings: Settings): Promise<number> {
  const angle = (degrees * Math.PI) / 180
  const distance = (x: number, y: number): number => (x - edge / 2) * Math.cos(angle) + (y - edge / 2) * Math.sin(angle)
  const normal = normals(degrees + sigma)
  const source = greyPicture(edge, edge, (x, y) => from + (to - from) / (1 + Math.exp((-1.7 * distance(x, y)) / softness)))
  for (const [i, value] of source.pixels.entries()) source.pixels[i] = Math.max(0, Math.round(value + sigma * normal()))
  const { pixels } = await renderOne(source, 'noise-reduction', { brightnessNoisePercent: 100, ...settings })
  const isUpright = Math.abs(Math.cos(angle)) > Math.SQRT1_2
  const at = (line: number, place: number): number => pixels[(isUpright ? line * edge + place : place * edge + line) * 3 + 1] ?? 0
  const middle = (from + to) / 2
  let most = 0
  for (let line = margin; line < edge - margin; line++) {
    let nearest = Number.POSITIVE_INFINITY
    for (let place = 8; place < edge - 8; place++) {
      const [before, behind] = [at(line, place), at(line, place + 1)]
      if (before >= middle || behind < middle) continue
      const crossing = place + (middle - before) / (behind - before)
      nearest = Math.min(nearest, Math.abs(isUpright ? distance(crossing, line) : distance(line, crossing)))
    }
    if (Number.isFinite(nearest)) most = Math.max(most, nearest)
  }
  return most
}

describe('a dark edge under noise', soak, () => {
  it.each([
    ['as of ISO 1600, sharp', { from: 40, to: 62, sigma: 3, softness: 0.8 }, 1],
    ['as of ISO 1600, soft', { from: 24, to: 40, sigma: 3, softness: 2 }, 1],
    ['as of ISO 6400, sharp', { from: 30, to: 60, sigma: 8, softness: 0.8 }, 1],
  ] as const)('%s, at four angles comes out within a pixel of where it is', async (_, drawn, limitPx) => {
    for (const degrees of [8, 27, 45, 75])
      for (const care of ['quick', 'thorough']) {
        const most = await strays(drawn, degrees, { care })
        expect(most).toBeGreaterThan(0)
        expect(most).toBeLessThan(limitPx)
      }
  })
})

import { srgbTransfer } from '@/colour/transfer'
import { normals } from './pictures'

/*
 * Noise as a camera leaves it, computed: photosites under a 2 × 2 pattern of red, green, green and blue, each with photon noise and that of
 * reading (Poisson and Gaussian, after Foi et al. 2008: variance a·v + b); amplified for daylight; the missing colours in between.
 */

/** Gains of red and blue for daylight (common practice: 2 and 1.5). */
const gains = [2, 1, 1.5] as const
/** Share of the variance at 18 % grey that is there without light. */
const readShare = 0.15

export interface CameraNoise {
  /** Deviation of a green photosite at 18 % grey, in linear light 0–1. */
  readonly sigma: number
  readonly seed: number
}

const siteOf = (x: number, y: number): 0 | 1 | 2 => ((y & 1) === 0 ? ((x & 1) === 0 ? 0 : 1) : (x & 1) === 0 ? 1 : 2)

/** @param codes RGB, sRGB codes 0–255, not rounded; @returns the same with noise, held to 0–255, not rounded */
export function withCameraNoise(codes: ArrayLike<number>, width: number, height: number, { sigma, seed }: CameraNoise): Float64Array {
  const normal = normals(seed)
  const light = Float64Array.from(codes, (code) => srgbTransfer.decode(code / 255))
  const noise = new Float64Array(width * height)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const site = siteOf(x, y)
      const seen = (light[(y * width + x) * 3 + site] ?? 0) / gains[site]
      noise[y * width + x] = gains[site] * sigma * Math.sqrt(readShare + ((1 - readShare) * seen) / 0.18) * normal()
    }
  const inside = (value: number, count: number): number => (value < 0 ? value + 2 : value >= count ? value - 2 : value)
  const at = (x: number, y: number): number => noise[inside(y, height) * width + inside(x, width)] ?? 0
  return Float64Array.from(light, (value, i) => {
    const channel = i % 3
    const [x, y] = [Math.floor(i / 3) % width, Math.floor(i / 3 / width)]
    const sites: (readonly [number, number])[] = []
    const distance = channel === siteOf(x, y) ? 0 : channel === 1 || siteOf(x, y) === 1 ? 1 : 2
    for (let dy = -1; dy <= 1; dy++)
      for (let dx = -1; dx <= 1; dx++)
        if (Math.abs(dx) + Math.abs(dy) === distance && siteOf(x + dx + 2, y + dy + 2) === channel) sites.push([x + dx, y + dy])
    const mean = sites.reduce((sum, [column, row]) => sum + at(column, row), 0) / sites.length
    return 255 * srgbTransfer.encode(Math.min(1, Math.max(0, value + mean)))
  })
}

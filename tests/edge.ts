import { extent, mean } from 'd3'
import { srgbTransfer } from '@/colour/transfer'
import { greyPicture } from './pictures'

/** Light of a grey render, row by row. */
export const lightOf = (pixels: ArrayLike<number>): Float64Array =>
  Float64Array.from({ length: pixels.length / 3 }, (_, i) => srgbTransfer.decode((pixels[i * 3] ?? 0) / 255))

/** A dark-to-bright edge tilted by five degrees, as in ISO 12233, softened by a Gaussian of `sigma` px. Codes of 8 bits. */
export const slantedEdge = (width: number, height: number, sigma: number) =>
  greyPicture(width, height, (x, y) => {
    const distance = (x - width / 2 + (y - height / 2) * Math.tan((5 * Math.PI) / 180)) * Math.cos((5 * Math.PI) / 180)
    const t = distance / Math.max(sigma, 0.01)
    const light = 0.1 + 0.4 / (1 + Math.exp(-1.702 * t))
    return srgbTransfer.encode(light) * 255
  })

/** Edge width from 10 to 90 % in pixels, and overshoot in percent of the step, over the projected edge (ISO 12233). */
export function edgeFigures(pixels: ArrayLike<number>, width: number, height: number): { widthPx: number; overshootPercent: number } {
  const light = lightOf(pixels)
  const bins = new Map<number, number[]>()
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const distance = (x - width / 2 + (y - height / 2) * Math.tan((5 * Math.PI) / 180)) * Math.cos((5 * Math.PI) / 180)
      const bin = Math.round(distance * 4)
      if (Math.abs(bin) <= 60) bins.set(bin, [...(bins.get(bin) ?? []), light[y * width + x] ?? 0])
    }
  const profile = [...bins.entries()].sort(([a], [b]) => a - b).map(([bin, values]) => [bin / 4, mean(values) ?? 0] as const)
  const level = (share: number) => 0.1 + 0.4 * share
  const crossing = (share: number): number => {
    const at = profile.findIndex(([, value]) => value >= level(share))
    const [before, after] = [profile[at - 1], profile[at]]
    if (!before || !after) return Number.NaN
    return before[0] + ((after[0] - before[0]) * (level(share) - before[1])) / (after[1] - before[1])
  }
  return { widthPx: crossing(0.9) - crossing(0.1), overshootPercent: ((Math.max(...profile.map(([, value]) => value)) - 0.5) / 0.4) * 100 }
}

/** How far a render goes beyond the darkest and the brightest of its source. */
export function linesBeside(pixels: ArrayLike<number>, source: ArrayLike<number>): { readonly over: number; readonly under: number } {
  const [least = 0, most = 0] = extent(Array.from(source))
  const [dark = 0, bright = 0] = extent(Array.from(pixels))
  return { over: bright - most, under: least - dark }
}

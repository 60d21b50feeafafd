import type { Kernels } from '@kernels/binding'
import { deltaE00 } from '@/colour/delta-e'
import { srgb8ToLab } from '@/colour/lab'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import type { Step } from '@/macros/step'
import type { InterleavedSource } from '@/pixels/picture'

/** Where the frames lie in the picture, as shares of the room that is left. */
const places = [
  [0, 0],
  [1, 0],
  [0, 1],
  [1, 1],
  [0.5, 0.5],
] as const
/** What a frame shows of each side. */
const share = 0.92

function framed({ size, pixels, ...rest }: InterleavedSource, left: number, top: number): InterleavedSource {
  const [width, height] = [Math.round(size.width * share), Math.round(size.height * share)]
  const cut = pixels.slice(0, width * height * 3)
  for (let y = 0; y < height; y++) {
    const at = ((y + top) * size.width + left) * 3
    cut.set(pixels.subarray(at, at + width * 3), y * width * 3)
  }
  return { ...rest, size: { width, height }, pixels: cut, alpha: undefined }
}

/**
 * Frames of one picture, as if it had been taken five times from a slightly other place, each put through the steps by itself.
 * @returns how far apart what all of them show comes out at most: ΔE00 of its mean colour
 */
export function siblingsApart(kernels: Kernels, source: InterleavedSource, steps: readonly Step[]): number {
  const { width, height } = source.size
  const colours = places.map(([across, down]) => {
    const [left, top] = [Math.round(width * (1 - share) * across), Math.round(height * (1 - share) * down)]
    const frame = framed(source, left, top)
    const resolved = resolveSteps(steps, frame.size, { sampler: createSampler(kernels, frame) })
    const shared = {
      x: Math.round(width * 0.3) - left,
      y: Math.round(height * 0.3) - top,
      width: Math.round(width * 0.4),
      height: Math.round(height * 0.4),
    }
    const pixels = renderEncoded(kernels, planRender(frame, resolved, 'full'), { space: 'srgb', channels: 3, dither: false }, shared)
    const sums: [number, number, number] = [0, 0, 0]
    for (const [i, code] of pixels.entries()) sums[i % 3] = (sums[i % 3] as number) + code
    const [r, g, b] = sums
    const count = pixels.length / 3
    return srgb8ToLab([r / count, g / count, b / count])
  })
  return Math.max(...colours.flatMap((one) => colours.map((other) => deltaE00(one, other))))
}

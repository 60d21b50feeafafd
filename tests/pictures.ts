import { srgbCurve } from '@/colour/curve'
import { colourSpaces, rgbToRgb, workingSpace } from '@/colour/spaces'
import type { InterleavedSource, PixelColour } from '@/pixels/picture'

export const srgbColour: PixelColour = { curves: [srgbCurve, srgbCurve, srgbCurve], toWorking: rgbToRgb(colourSpaces.srgb, workingSpace) }

/** A generator that gives the same numbers every time, a linear congruential one (constants from memory). 0–1. */
export function seeded(seed: number): () => number {
  let state = seed >>> 0
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return state / 4294967296
  }
}

/** An sRGB picture from a function of place; values 0–255. */
export function paint(
  width: number,
  height: number,
  colour: (x: number, y: number) => readonly [number, number, number],
): InterleavedSource {
  const pixels = new Uint8Array(width * height * 3)
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) pixels.set(colour(x, y).map(Math.round), (y * width + x) * 3)
  return { kind: 'interleaved', size: { width, height }, pixels, colour: srgbColour }
}

/** Edges, gradients and noise: something for every operation to get wrong. */
export function busyPicture(width = 96, height = 64, seed = 7): InterleavedSource {
  const random = seeded(seed)
  return paint(width, height, (x, y) => {
    const edge = Math.hypot(x - width / 2, y - height / 2) < height / 3 ? 120 : 0
    const noise = random() * 24
    return [40 + (x / width) * 80 + edge * 0.8 + noise, 30 + (y / height) * 90 + edge * 0.5 + noise, 60 + edge + noise]
  })
}

/** The same grey in all channels. */
export const greyPicture = (width: number, height: number, grey: (x: number, y: number) => number): InterleavedSource =>
  paint(width, height, (x, y) => {
    const value = grey(x, y)
    return [value, value, value]
  })

/** Normal deviates of variance 1 (Box & Muller 1958), the same every time. */
export function normals(seed: number): () => number {
  const uniform = seeded(seed)
  return () => Math.sqrt(-2 * Math.log(1 - uniform())) * Math.cos(2 * Math.PI * uniform())
}

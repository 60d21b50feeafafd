import type { Size } from '@/base/geometry'
import { codeAt, floatAt, valueAt } from '@/base/numbers'

type Samples = Uint8Array | Uint16Array

interface Split {
  readonly pixels: Samples
  /** Absent where everything is opaque. */
  readonly alpha?: Samples
}

/**
 * RGBA to colours and opacity, each by itself. What is wholly transparent has no colour of its own, only whatever a program left
 * there (black, as a rule), which sharpening and resampling would draw into the edges: it takes the colour of its surroundings.
 */
export function splitOpacity(samples: Samples, size: Size): Split {
  const count = size.width * size.height
  const like = (length: number): Samples => (samples instanceof Uint16Array ? new Uint16Array(length) : new Uint8Array(length))
  const max = samples instanceof Uint16Array ? 65535 : 255
  const [pixels, alpha] = [like(count * 3), like(count)]
  let [opaque, hidden] = [true, false]
  for (let i = 0; i < count; i++) {
    for (let channel = 0; channel < 3; channel++) pixels[i * 3 + channel] = codeAt(samples, i * 4 + channel)
    const value = codeAt(samples, i * 4 + 3)
    alpha[i] = value
    opaque &&= value === max
    hidden ||= value === 0
  }
  if (opaque) return { pixels }
  if (hidden) fillHidden(pixels, alpha, size)
  return { pixels, alpha }
}

/** Colours of one level: three values a place, and how many seen pixels they are the mean of. */
interface Level {
  readonly size: Size
  readonly colours: Float32Array
  readonly seen: Float32Array
}

/** Hidden places take the mean colour of the smallest square around them, of edges 2, 4, 8 …, in which something is seen. */
function fillHidden(pixels: Samples, alpha: Samples, size: Size): void {
  const levels: Level[] = []
  let below = halve(size, (at) => (alpha[at] === 0 ? 0 : 1), pixels)
  levels.push(below)
  while (below.size.width * below.size.height > 1) {
    const { seen, colours } = below
    below = halve(below.size, (at) => floatAt(seen, at), colours)
    levels.push(below)
  }
  for (let y = 0; y < size.height; y++)
    for (let x = 0; x < size.width; x++) {
      const at = y * size.width + x
      if (alpha[at] !== 0) continue
      for (const [i, { size: coarse, seen, colours }] of levels.entries()) {
        const from = (y >> (i + 1)) * coarse.width + (x >> (i + 1))
        if (seen[from] === 0) continue
        for (let channel = 0; channel < 3; channel++) pixels[at * 3 + channel] = Math.round(floatAt(colours, from * 3 + channel))
        break
      }
    }
}

function halve(size: Size, seenAt: (index: number) => number, from: ArrayLike<number>): Level {
  const half = { width: (size.width + 1) >> 1, height: (size.height + 1) >> 1 }
  const colours = new Float32Array(half.width * half.height * 3)
  const seen = new Float32Array(half.width * half.height)
  for (let y = 0; y < size.height; y++)
    for (let x = 0; x < size.width; x++) {
      const weight = seenAt(y * size.width + x)
      const to = (y >> 1) * half.width + (x >> 1)
      seen[to] = floatAt(seen, to) + weight
      if (weight > 0)
        for (let channel = 0; channel < 3; channel++)
          colours[to * 3 + channel] = floatAt(colours, to * 3 + channel) + weight * valueAt(from, (y * size.width + x) * 3 + channel)
    }
  for (let i = 0; i < colours.length; i++) {
    const weight = floatAt(seen, Math.trunc(i / 3))
    if (weight > 0) colours[i] = floatAt(colours, i) / weight
  }
  return { size: half, colours, seen }
}

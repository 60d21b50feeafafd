import type { Vector3 } from '@/colour/matrix'

/** From this share of a channel's end on it may be cut off: noise and demosaicing move values about. */
const cutOffFrom = 0.92

/** Below this share of the end that the file names, a pile is no end: things are as bright as they are. */
const leastEnd = 0.75
/** So many of all pixels lie within so much of the brightest green where the sensor ended there. */
const pile = { within: 0.99, share: 0.0005, least: 20 } as const

/**
 * Where the sensor really ended, as a share of the end that the file names: cameras end a little earlier than they say. Told by green, which
 * ends first in most light, and by a pile at its brightest; 1 where there is none.
 */
export function trueEnd(pixels: Uint16Array, [, endG]: Vector3): number {
  let brightest = 0
  for (let i = 1; i < pixels.length; i += 3) if ((pixels[i] as number) > brightest) brightest = pixels[i] as number
  const share = brightest / (65535 * endG)
  if (share < leastEnd || share >= 1) return 1
  let count = 0
  for (let i = 1; i < pixels.length; i += 3) if ((pixels[i] as number) >= brightest * pile.within) count++
  return count >= Math.max(pile.least, (pixels.length / 3) * pile.share) ? share : 1
}

/**
 * What is cut off in some channels gets it from the others, in place. Behind the gains of the white balance channels end at different
 * heights; left so, white would be magenta. Most of what is so bright has little colour of its own: a channel at its end is at
 * least what the others are on average, and so goes over into neutral as they end, too.
 * @param pixels interleaved RGB, linear, balanced
 * @param ends where each channel ends, 1 for code 65535
 */
export function rebuildClipped(pixels: Uint16Array, ends: Vector3): void {
  const [endR, endG, endB] = [65535 * ends[0], 65535 * ends[1], 65535 * ends[2]]
  const [fromR, fromG, fromB] = [endR * cutOffFrom, endG * cutOffFrom, endB * cutOffFrom]
  const highest = Math.max(endR, endG, endB)
  for (let i = 0; i < pixels.length; i += 3) {
    const r = pixels[i] as number
    const g = pixels[i + 1] as number
    const b = pixels[i + 2] as number
    if (r < fromR && g < fromG && b < fromB) continue
    const [cutR, cutG, cutB] = [share(r, fromR, endR), share(g, fromG, endG), share(b, fromB, endB)]
    const known = 3 - cutR - cutG - cutB
    const sum = r * (1 - cutR) + g * (1 - cutG) + b * (1 - cutB)
    // Where all are cut off, nothing is known but that it was at least as bright as the highest end.
    const all = cutR * cutG * cutB
    const others = (known > 0 ? sum / known : 0) * (1 - all) + highest * all
    pixels[i] = held(r, others, cutR)
    pixels[i + 1] = held(g, others, cutG)
    pixels[i + 2] = held(b, others, cutB)
  }
}

/** 0 below where a channel may be cut off, 1 at its end; smooth between. */
function share(value: number, from: number, end: number): number {
  const t = Math.min(1, Math.max(0, (value - from) / (end - from)))
  return t * t * (3 - 2 * t)
}

const held = (value: number, others: number, cut: number): number => Math.min(65535, Math.round(value + Math.max(0, others - value) * cut))

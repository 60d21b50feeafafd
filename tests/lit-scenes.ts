import { clamp } from '@/base/scale'
import { whiteOfTemperature } from '@/colour/illuminant'
import { invert, transform, type Vector3 } from '@/colour/matrix'
import { oklabToWorking } from '@/colour/oklab'
import { colourSpaces, rgbToRgb, rgbToXyz, workingSpace, xyzOfChromaticity } from '@/colour/spaces'
import { srgbTransfer } from '@/colour/transfer'
import { seeded } from './pictures'

/*
 * Invented scenes in plain light, to learn from and to test on: patches of surfaces that surround us, some with something neutral, some
 * without, and fires, which have a colour of their own.
 */

type Random = () => number
const between = (random: Random, low: number, high: number): number => low + (high - low) * random()

/** OKLCh ranges of surfaces in plain light: hue in degrees, chroma, lightness. Chosen by eye, from memory. */
const surfaces = {
  neutral: [0, 360, 0, 0.012, 0.3, 0.93],
  wood: [45, 75, 0.03, 0.1, 0.35, 0.78],
  clay: [30, 55, 0.04, 0.12, 0.35, 0.65],
  sand: [70, 95, 0.015, 0.06, 0.55, 0.88],
  leaves: [112, 142, 0.04, 0.13, 0.3, 0.62],
  sky: [230, 258, 0.03, 0.1, 0.6, 0.85],
  blue: [225, 270, 0.03, 0.13, 0.3, 0.65],
  red: [15, 32, 0.1, 0.19, 0.3, 0.55],
  amber: [62, 85, 0.08, 0.14, 0.5, 0.75],
  celadon: [145, 190, 0.02, 0.07, 0.55, 0.8],
  violet: [300, 345, 0.03, 0.12, 0.3, 0.6],
  black: [0, 360, 0, 0.015, 0.14, 0.3],
} as const
type Surface = keyof typeof surfaces
const names = Object.keys(surfaces) as Surface[]
const pick = <T>(random: Random, all: readonly T[]): T => all[Math.floor(random() * all.length)] as T

interface Patch {
  readonly x: number
  readonly y: number
  readonly size: number
  readonly lightness: number
  readonly hue: number
  readonly chroma: number
  /** How much its lightness and, the darker the more, its chroma vary from place to place. */
  readonly grain: number
}

function patchOf(random: Random, surface: Surface): Patch {
  const [h0, h1, c0, c1, l0, l1] = surfaces[surface]
  return {
    x: random(),
    y: random(),
    size: between(random, 0.3, 1.6),
    hue: (between(random, h0, h1) * Math.PI) / 180,
    chroma: between(random, c0, c1),
    lightness: between(random, l0, l1),
    grain: surface === 'neutral' ? between(random, 0, 0.03) : between(random, 0, 0.14),
  }
}

const toSrgb = rgbToRgb(workingSpace, colourSpaces.srgb)
const linearSrgb = (lightness: number, chroma: number, hue: number): Vector3 =>
  transform(toSrgb, oklabToWorking([lightness, chroma * Math.cos(hue), chroma * Math.sin(hue)]))

export interface LitScene {
  /** Linear sRGB in plain light, interleaved; may be over 1. */
  readonly light: Float64Array
  readonly size: { readonly width: number; readonly height: number }
  /** Whether something in it is neutral, and fills a tenth or more. */
  readonly hasNeutral: boolean
  readonly isFire: boolean
}

const size = { width: 96, height: 64 } as const

function fire(random: Random): LitScene {
  const light = new Float64Array(size.width * size.height * 3)
  const toXyz = invert(rgbToXyz(colourSpaces.srgb))
  const [hot, cool, exposure] = [between(random, 2000, 2350), between(random, 0.25, 0.8), between(random, 0.3, 1.6)]
  const bars = Array.from({ length: 6 }, () => [random(), random(), between(random, 0.02, 0.2), between(random, 0.02, 0.25)] as const)
  const wall = between(random, 0.0, 0.04)
  for (let y = 0; y < size.height; y++)
    for (let x = 0; x < size.width; x++) {
      const [u, v] = [x / size.width, y / size.height]
      const isBar = bars.some(([bx, by, w, h]) => Math.abs(u - bx) < w && Math.abs(v - by) < h)
      const heat = 1 - cool * Math.hypot(u - 0.5, v - 0.5) * 1.4
      // Below 2000 K the locus is followed by its end: redder and darker.
      const white = transform(toXyz, xyzOfChromaticity(whiteOfTemperature(Math.max(2000, hot * Math.sqrt(Math.max(heat, 0.1))))))
      const glow = (isBar ? 0.06 : 1) * exposure * Math.max(heat, 0.05) ** 3
      const redder = Math.max(0.35, Math.min(1, heat))
      const glowing: Vector3 = [white[0], white[1] * redder, white[2] * redder ** 2]
      for (const [c, value] of glowing.entries())
        light[3 * (y * size.width + x) + c] = Math.max(0, value * glow + (isBar ? wall : 0)) + 0.001
    }
  return { light, size, hasNeutral: false, isFire: true }
}

/** A scene of the given number; the same for ever. */
export function litScene(number: number): LitScene {
  const random = seeded(number * 7919 + 13)
  for (let i = 0; i < 8; i++) random()
  const kind = random()
  if (kind < 0.12) return fire(random)
  const hasNeutral = kind < 0.78
  const kinds = Array.from({ length: 1 + Math.floor(random() * 5) }, () =>
    pick(
      random,
      names.filter((name) => name !== 'neutral' && name !== 'black'),
    ),
  )
  const count = hasNeutral ? 4 + Math.floor(random() * 26) : 1 + Math.floor(random() * 10)
  const patches = Array.from({ length: count }, () => patchOf(random, random() < 0.1 ? 'black' : pick(random, kinds)))
  if (hasNeutral)
    for (let i = 0; i < Math.max(1, Math.round(count * between(random, 0.12, 0.6))); i++) patches.push(patchOf(random, 'neutral'))
  const light = new Float64Array(size.width * size.height * 3)
  const [exposure, slope, turn] = [2 ** between(random, -1, 0.5), between(random, 0, 0.6), random() * 6.28]
  let neutral = 0
  for (let y = 0; y < size.height; y++)
    for (let x = 0; x < size.width; x++) {
      const [u, v] = [x / size.width, y / size.height]
      let [best, nearest] = [patches[0] as Patch, Number.POSITIVE_INFINITY]
      for (const patch of patches) {
        const away = Math.hypot(u - patch.x, v - patch.y) / patch.size
        if (away < nearest) [best, nearest] = [patch, away]
      }
      if (best.chroma <= 0.012) neutral++
      const vary = best.grain * (random() + random() - 1)
      const lightness = clamp(best.lightness + vary, 0.05, 0.98)
      const colour = linearSrgb(lightness, Math.max(0, best.chroma * (1 - 1.5 * vary)), best.hue)
      const shade = exposure * (1 + slope * ((u - 0.5) * Math.cos(turn) + (v - 0.5) * Math.sin(turn)))
      for (const [c, value] of colour.entries()) light[3 * (y * size.width + x) + c] = Math.max(0, value * shade)
    }
  return { light, size, hasNeutral: neutral >= 0.1 * size.width * size.height, isFire: false }
}

/** Codes of sRGB as a camera would write them. */
export const codesOf = ({ light }: LitScene): Uint8Array =>
  Uint8Array.from(light, (value) => Math.round(255 * srgbTransfer.encode(clamp(value, 0, 1))))

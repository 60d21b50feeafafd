import type { Size } from '@/base/geometry'
import { floatAt, integerAt, numberAt, realAt } from '@/base/numbers'
import { present } from '@/base/present'
import { mapPair } from '@/base/tuples'
import { toOpponent, workingToFile } from '@/colour/opponent'
import { srgbTransfer } from '@/colour/transfer'
import type { LinearPicture } from '@/pixels/linear-picture'
import { brightnessBins, ringOf } from '../support/noise-profile'

/*
 * The blocks that noise is measured on: 8 × 8 pixels of brightness and two colour differences, as cosine transforms; and the flattest of
 * them, which hold noise rather than drawing.
 */

const halfCosine = (n: number): number => 0.5 * Math.cos((n * Math.PI) / 16)
const [c1, c2, c3, c4] = [halfCosine(1), halfCosine(2), halfCosine(3), halfCosine(4)]
const [c5, c6, c7] = [halfCosine(5), halfCosine(6), halfCosine(7)]

/** Blocks of one channel: their brightness, their 64 coefficients each (index 8·across + down), and how busy they are. */
export interface Blocks {
  readonly count: number
  readonly brightness: Float32Array
  readonly coefficients: Float32Array
  /** Energy of the low frequencies where drawing shows, those of even and those of odd index sum. */
  readonly activity: readonly [even: Float32Array, odd: Float32Array]
}

/** A block on its way: its lines done, its columns not. */
const half = new Float64Array(64)

/** Cosine transform of the block at `at`, written to `target` from `to`. Sums and differences of mirrored pixels need half the products. */
function transformBlock(plane: Float32Array, width: number, at: number, target: Float32Array, to: number): void {
  for (let y = 0; y < 8; y++) transformLine(plane, at + y * width, half, y, 8)
  for (let u = 0; u < 8; u++) transformLine(half, u * 8, target, to + u * 8, 1)
}

/** One line of eight, orthonormal: even frequencies from the sums of mirrored values, odd ones from their differences. */
function transformLine(
  from: Float32Array | Float64Array,
  at: number,
  target: Float32Array | Float64Array,
  to: number,
  toStep: number,
): void {
  const [a, b, c, d] = [realAt(from, at), realAt(from, at + 1), realAt(from, at + 2), realAt(from, at + 3)]
  const [e, f, g, h] = [realAt(from, at + 4), realAt(from, at + 5), realAt(from, at + 6), realAt(from, at + 7)]
  const [outer, inner] = [a + h + (d + e), b + g + (c + f)]
  const [outerRest, innerRest] = [a + h - (d + e), b + g - (c + f)]
  target[to] = c4 * (outer + inner)
  target[to + 4 * toStep] = c4 * (outer - inner)
  target[to + 2 * toStep] = c2 * outerRest + c6 * innerRest
  target[to + 6 * toStep] = c6 * outerRest - c2 * innerRest
  const [p, q, r, s] = [a - h, b - g, c - f, d - e]
  target[to + toStep] = c1 * p + c3 * q + c5 * r + c7 * s
  target[to + 3 * toStep] = c3 * p - c7 * q - c1 * r - c5 * s
  target[to + 5 * toStep] = c5 * p - c1 * q + c7 * r + c3 * s
  target[to + 7 * toStep] = c7 * p - c5 * q + c3 * r - c1 * s
}

export const parityOf = Uint8Array.from({ length: 64 }, (_, i) => ((i >> 3) + (i & 7)) & 1)
/** The low frequencies of even and of odd index sum. */
const low = mapPair([0, 1], (parity) =>
  Int32Array.from(Array.from(parityOf.keys()).filter((i) => i > 0 && (i >> 3) + (i & 7) <= 5 && parityOf[i] === parity)),
)

export interface Planes3 {
  readonly size: Size
  readonly planes: readonly Float32Array[]
  /** 1 where a channel is at its end and noise is cut off. */
  readonly clipped: Float32Array
}

/** Encoded values nearer to the ends than this are taken for cut off. */
const clipMargin = 0.004

const tableSteps = 1 << 15
const encodedSteps = Float32Array.from({ length: tableSteps + 2 }, (_, i) => srgbTransfer.encode(i / tableSteps))

/** The transfer of sRGB from a table, to a tenth of an 8-bit code; held to 0–1. */
function quickEncode(linear: number): number {
  const place = linear > 0 ? (linear < 1 ? linear * tableSteps : tableSteps) : 0
  const index = place | 0
  const low = floatAt(encodedSteps, index)
  return low + (floatAt(encodedSteps, index + 1) - low) * (place - index)
}

const isCutOff = (value: number): boolean => value < clipMargin || value > 1 - clipMargin

export function opponentOf({ size, planes }: LinearPicture): Planes3 {
  const length = size.width * size.height
  const [light, first, second] = [new Float32Array(length), new Float32Array(length), new Float32Array(length)]
  const clipped = new Float32Array(length)
  const [rr, rg, rb, gr, gg, gb, br, bg, bb] = workingToFile
  for (let i = 0; i < length; i++) {
    const x = floatAt(planes, i)
    const y = floatAt(planes, length + i)
    const z = floatAt(planes, 2 * length + i)
    const red = quickEncode(rr * x + rg * y + rb * z)
    const green = quickEncode(gr * x + gg * y + gb * z)
    const blue = quickEncode(br * x + bg * y + bb * z)
    if (isCutOff(red) || isCutOff(green) || isCutOff(blue)) clipped[i] = 1
    light[i] = toOpponent[0] * red + toOpponent[1] * green + toOpponent[2] * blue
    first[i] = toOpponent[3] * red + toOpponent[4] * green + toOpponent[5] * blue
    second[i] = toOpponent[6] * red + toOpponent[7] * green + toOpponent[8] * blue
  }
  return { size, planes: [light, first, second], clipped }
}

export function halved(picture: Planes3): Planes3 {
  const { size, planes, clipped } = picture
  return {
    size: { width: size.width >> 1, height: size.height >> 1 },
    planes: planes.map((plane) => halvedPlane(plane, size)),
    clipped: halvedPlane(clipped, size),
  }
}

function halvedPlane(plane: Float32Array, size: Size): Float32Array {
  const [width, height] = [size.width >> 1, size.height >> 1]
  const result = new Float32Array(width * height)
  for (let y = 0, to = 0; y < height; y++)
    for (let x = 0, at = 2 * y * size.width; x < width; x++, at += 2, to++) {
      const below = at + size.width
      result[to] = (floatAt(plane, at) + floatAt(plane, at + 1) + floatAt(plane, below) + floatAt(plane, below + 1)) / 4
    }
  return result
}

export interface Place {
  readonly picture: Planes3
  readonly at: number
  readonly brightness: number
  /** Pixels at the ends of the scale, where noise is cut off. */
  readonly ends: number
}

/** Places of blocks `step` apart. */
export function placesOf(picture: Planes3, step: number): Place[] {
  const { size, planes, clipped } = picture
  const light = present(planes[0])
  const places: Place[] = []
  for (let y = 0; y + 8 <= size.height; y += step)
    for (let x = 0; x + 8 <= size.width; x += step) {
      const at = y * size.width + x
      let [sum, ends] = [0, 0]
      for (let row = 0; row < 8; row++)
        for (let i = at + row * size.width, end = i + 8; i < end; i++) {
          sum += floatAt(light, i)
          ends += floatAt(clipped, i)
        }
      places.push({ picture, at, brightness: sum / 64, ends })
    }
  return places
}

/** Very strong noise leaves hardly a block without a value at the ends: the better ones are taken then, up to half of their pixels. */
const maxEnds = 32
const betterShare = 0.3

export function unclipped(places: readonly Place[]): Place[] {
  const ends = Float64Array.from(places, (place) => place.ends).sort()
  const allowed = Math.min(maxEnds, ends[Math.floor(ends.length * betterShare)] ?? 0)
  return places.filter((place) => place.ends <= allowed)
}

export function blocksAt(places: readonly Place[], channel: number): Blocks {
  const count = places.length
  const coefficients = new Float32Array(count * 64)
  const activity = [new Float32Array(count), new Float32Array(count)] as const
  for (const [n, { picture, at }] of places.entries()) {
    const start = n * 64
    transformBlock(present(picture.planes[channel]), picture.size.width, at, coefficients, start)
    activity[0][n] = energyOf(coefficients, start, low[0])
    activity[1][n] = energyOf(coefficients, start, low[1])
  }
  return { count, brightness: Float32Array.from(places, (place) => place.brightness), coefficients, activity }
}

function energyOf(coefficients: Float32Array, start: number, frequencies: Int32Array): number {
  let sum = 0
  for (let i = 0; i < frequencies.length; i++) {
    const value = floatAt(coefficients, start + integerAt(frequencies, i))
    sum += value * value
  }
  return sum
}

/** This share of the blocks, the flattest ones, is taken to hold noise alone. */
const flatShare = 0.05
const minFlat = 10

export const binOf = (brightness: number): number => Math.min(brightnessBins - 1, Math.max(0, Math.floor(brightness * brightnessBins)))

/** Blocks and the numbers of those chosen by even and by odd frequencies. */
export interface Flat {
  readonly blocks: Blocks
  readonly chosen: readonly [byEven: readonly number[], byOdd: readonly number[]]
}

/** The flattest blocks of each brightness. */
export function flattest(blocks: Blocks): Flat {
  const choose = (activity: Float32Array): number[] => {
    const bins = Array.from({ length: brightnessBins }, (): number[] => [])
    for (let n = 0; n < blocks.count; n++) bins[binOf(floatAt(blocks.brightness, n))]?.push(n)
    return bins.flatMap((bin) => {
      const sorted = Float32Array.from(bin, (n) => floatAt(activity, n)).sort()
      const max = sorted[Math.max(minFlat, Math.ceil(bin.length * flatShare)) - 1] ?? Number.POSITIVE_INFINITY
      return bin.filter((n) => floatAt(activity, n) <= max)
    })
  }
  return { blocks, chosen: [choose(blocks.activity[0]), choose(blocks.activity[1])] }
}

/** Frequencies of one parity are measured on the blocks that the other parity has chosen: choosing does not bias them. */
export function eachCoefficient({ blocks, chosen }: Flat, visit: (ring: number, coefficient: number, brightness: number) => void): void {
  for (const parity of [0, 1] as const)
    for (const n of present(chosen[1 - parity]))
      for (let i = 1; i < 64; i++)
        if (parityOf[i] === parity) visit(numberAt(ringOf, i), floatAt(blocks.coefficients, n * 64 + i), floatAt(blocks.brightness, n))
}

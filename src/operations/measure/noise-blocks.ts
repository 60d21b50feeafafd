import type { Size } from '@/base/geometry'
import { byteAt, doubleAt, floatAt, numberAt, realAt } from '@/base/numbers'
import { present } from '@/base/present'
import { toOpponent, workingToFile } from '@/colour/opponent'
import { srgbTransfer } from '@/colour/transfer'
import type { LinearPicture } from '@/pixels/linear-picture'
import { brightnessBins, ringOf } from '../support/noise-profile'

/*
 * The blocks that noise is measured on: 8 × 8 pixels of brightness and two colour differences, as cosine transforms; and the flattest of
 * them, which hold noise rather than drawing.
 */

const cosines = Float64Array.from({ length: 64 }, (_, i) => {
  const [k, x] = [i >> 3, i & 7]
  return (k === 0 ? Math.sqrt(1 / 8) : 0.5) * Math.cos(((2 * x + 1) * k * Math.PI) / 16)
})

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

/** One line of eight: even frequencies from the sums of mirrored values, odd ones from their differences. */
function transformLine(
  from: Float32Array | Float64Array,
  at: number,
  target: Float32Array | Float64Array,
  to: number,
  toStep: number,
): void {
  const [a, b, c, d] = [realAt(from, at), realAt(from, at + 1), realAt(from, at + 2), realAt(from, at + 3)]
  const [e, f, g, h] = [realAt(from, at + 4), realAt(from, at + 5), realAt(from, at + 6), realAt(from, at + 7)]
  for (let k = 0; k < 8; k += 2) {
    target[to + k * toStep] = product(k, a + h, b + g, c + f, d + e)
    target[to + (k + 1) * toStep] = product(k + 1, a - h, b - g, c - f, d - e)
  }
}

/** What four values contribute to a frequency. */
const product = (k: number, a: number, b: number, c: number, d: number): number =>
  doubleAt(cosines, k * 8) * a + doubleAt(cosines, k * 8 + 1) * b + doubleAt(cosines, k * 8 + 2) * c + doubleAt(cosines, k * 8 + 3) * d

export const parityOf = Uint8Array.from({ length: 64 }, (_, i) => ((i >> 3) + (i & 7)) & 1)
const isLow = Uint8Array.from({ length: 64 }, (_, i) => (i > 0 && (i >> 3) + (i & 7) <= 5 ? 1 : 0))

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
    const [x, y, z] = [floatAt(planes, i), floatAt(planes, length + i), floatAt(planes, 2 * length + i)]
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
  const size = { width: picture.size.width >> 1, height: picture.size.height >> 1 }
  const reduce = (plane: Float32Array): Float32Array => {
    const result = new Float32Array(size.width * size.height)
    for (let y = 0; y < size.height; y++)
      for (let x = 0; x < size.width; x++) {
        const at = 2 * y * picture.size.width + 2 * x
        const below = at + picture.size.width
        result[y * size.width + x] = (floatAt(plane, at) + floatAt(plane, at + 1) + floatAt(plane, below) + floatAt(plane, below + 1)) / 4
      }
    return result
  }
  return { size, planes: picture.planes.map(reduce), clipped: reduce(picture.clipped) }
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
    const energy = [0, 0]
    for (let i = 1; i < 64; i++)
      if (isLow[i]) energy[byteAt(parityOf, i)] = numberAt(energy, byteAt(parityOf, i)) + floatAt(coefficients, start + i) ** 2
    activity[0][n] = numberAt(energy, 0)
    activity[1][n] = numberAt(energy, 1)
  }
  return { count, brightness: Float32Array.from(places, (place) => place.brightness), coefficients, activity }
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

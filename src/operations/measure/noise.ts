import type { Size } from '@/base/geometry'
import { memoised } from '@/base/lru-cache'
import { byteAt, doubleAt, floatAt, numberAt, realAt } from '@/base/numbers'
import { present } from '@/base/present'
import { toOpponent, workingToFile } from '@/colour/opponent'
import { srgbTransfer } from '@/colour/transfer'
import type { LinearPicture } from '@/pixels/linear-picture'
import { factorNodes, frequencyRings, type NoiseProfile, noiseLevels, ringOf } from '../support/noise-profile'

/** White noise of one deviation (0–1) in each encoded channel. */
export function whiteNoise(sigma: number): NoiseProfile {
  const shares = [1 / Math.sqrt(3), 1, 1]
  const levels = (share: number) =>
    Array.from({ length: noiseLevels }, (_, level) => Array.from({ length: frequencyRings }, () => (sigma * share) / 2 ** level))
  return { deviations: shares.map(levels), factors: Array.from({ length: factorNodes }, () => 1) }
}

const cosines = Float64Array.from({ length: 64 }, (_, i) => {
  const [k, x] = [i >> 3, i & 7]
  return (k === 0 ? Math.sqrt(1 / 8) : 0.5) * Math.cos(((2 * x + 1) * k * Math.PI) / 16)
})

/** Blocks of one channel: their brightness, their 64 coefficients each (index 8·across + down), and how busy they are. */
interface Blocks {
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

const parityOf = Uint8Array.from({ length: 64 }, (_, i) => ((i >> 3) + (i & 7)) & 1)
const isLow = Uint8Array.from({ length: 64 }, (_, i) => (i > 0 && (i >> 3) + (i & 7) <= 5 ? 1 : 0))

interface Planes3 {
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

function opponentOf({ size, planes }: LinearPicture): Planes3 {
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

function halved(picture: Planes3): Planes3 {
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

interface Place {
  readonly picture: Planes3
  readonly at: number
  readonly brightness: number
  /** Pixels at the ends of the scale, where noise is cut off. */
  readonly ends: number
}

/** Places of blocks `step` apart. */
function placesOf(picture: Planes3, step: number): Place[] {
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

function unclipped(places: readonly Place[]): Place[] {
  const ends = Float64Array.from(places, (place) => place.ends).sort()
  const allowed = Math.min(maxEnds, ends[Math.floor(ends.length * betterShare)] ?? 0)
  return places.filter((place) => place.ends <= allowed)
}

function blocksAt(places: readonly Place[], channel: number): Blocks {
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
const brightnessBins = factorNodes - 1
const minBlocks = 8
/** Median of a squared normal deviate. */
const medianSquare = 0.45494

function deviationOf(squares: number[]): number {
  const sorted = Float64Array.from(squares).sort()
  return Math.sqrt((sorted[sorted.length >> 1] ?? 0) / medianSquare)
}

const binOf = (brightness: number): number => Math.min(brightnessBins - 1, Math.max(0, Math.floor(brightness * brightnessBins)))

/** Blocks and the numbers of those chosen by even and by odd frequencies. */
interface Flat {
  readonly blocks: Blocks
  readonly chosen: readonly [byEven: readonly number[], byOdd: readonly number[]]
}

/** The flattest blocks of each brightness. */
function flattest(blocks: Blocks): Flat {
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

const factorAt = (factors: readonly number[], brightness: number): number => {
  const place = Math.min(1, Math.max(0, brightness)) * (factors.length - 1)
  const index = Math.min(Math.floor(place), factors.length - 2)
  const [low = 1, high = 1] = [factors[index], factors[index + 1]]
  return low + (high - low) * (place - index)
}

/** Frequencies of one parity are measured on the blocks that the other parity has chosen: choosing does not bias them. */
function eachCoefficient({ blocks, chosen }: Flat, visit: (ring: number, coefficient: number, brightness: number) => void): void {
  for (const parity of [0, 1] as const)
    for (const n of present(chosen[1 - parity]))
      for (let i = 1; i < 64; i++)
        if (parityOf[i] === parity) visit(numberAt(ringOf, i), floatAt(blocks.coefficients, n * 64 + i), floatAt(blocks.brightness, n))
}

/** Deviation in each ring once the influence of brightness is taken out. */
function ringDeviations(flat: Flat, factors: readonly number[]): number[] {
  const squares = Array.from({ length: frequencyRings }, (): number[] => [])
  eachCoefficient(flat, (ring, coefficient, brightness) => squares[ring]?.push((coefficient / factorAt(factors, brightness)) ** 2))
  return squares.map(deviationOf)
}

/** Rings that hold little drawing: what the influence of brightness is measured on. */
const fineRings = { first: 3, last: 8 } as const

function brightnessFactors(flat: Flat, deviations: readonly number[]): number[] {
  const bins = Array.from({ length: brightnessBins }, (): number[] => [])
  eachCoefficient(flat, (ring, coefficient, brightness) => {
    const expected = numberAt(deviations, ring)
    if (ring >= fineRings.first && ring <= fineRings.last && expected > 0) bins[binOf(brightness)]?.push((coefficient / expected) ** 2)
  })
  const perBlock = 25
  const known = bins.map((bin) => (bin.length >= minBlocks * perBlock ? deviationOf(bin) : Number.NaN))
  return smoothed(filled(known))
}

/** Unknown values take their nearest known neighbour's. */
function filled(values: readonly number[]): number[] {
  const known = values.flatMap((value, i) => (Number.isNaN(value) ? [] : [i]))
  if (known.length === 0) return values.map(() => 1)
  return values.map((value, i) => {
    if (!Number.isNaN(value)) return value
    const nearest = known.reduce((best, k) => (Math.abs(k - i) < Math.abs(best - i) ? k : best))
    return numberAt(values, nearest)
  })
}

/** From the middles of the bins to their borders, held to a sane range. */
function smoothed(bins: readonly number[]): number[] {
  return Array.from({ length: factorNodes }, (_, i) => {
    const [left, right] = [numberAt(bins, Math.max(0, i - 1)), numberAt(bins, Math.min(bins.length - 1, i))]
    return Math.min(5, Math.max(0.2, (left + right) / 2))
  })
}

/** Codes of 8 bits in each channel that a sensor may be expected to stay below at ISO 100, growing with the root of ISO (common practice). */
const maxAtIso100 = 2.7
/** Low frequencies may carry more than white noise does. */
const lowHeadroom = [2, 1.5] as const
const headroom = 1.25

/** What a camera can have made at this ISO. Colour blotches come with high ISO and fade more slowly from copy to copy. */
function isoLimit(iso: number, channel: number, level: number, ring: number): number {
  const share = channel === 0 ? 1 / Math.sqrt(3) : 1
  const fading = channel === 0 ? 1 : Math.min(1, Math.max(0.3, 1 - 0.25 * Math.log2(iso / 400)))
  return (maxAtIso100 / 255) * Math.sqrt(iso / 100) * share * 2 ** (-level * fading) * (lowHeadroom[ring] ?? headroom)
}

/**
 * How much more the lower of two neighbouring frequencies may carry: for white noise, and for noise whose spectrum falls, as cameras and
 * JPEG leave it. Rings 1 to 3 relative to ring 4; what halving a copy leaves; the lowest ring of a copy relative to its next.
 */
const climbs = {
  white: { rings: [1.05, 1.05, 1.05], kept: 0.52, lowest: 1.1 },
  falling: { rings: [1.9, 1.6, 1.3], kept: 0.6, lowest: 1.7 },
} as const

/** 0 for a flat spectrum, 1 for one that loses more than half from ring 4 to ring 7. */
const fallOf = (rings: readonly number[]): number => {
  const ratio = numberAt(rings, 3) / Math.max(numberAt(rings, 6), 1e-6)
  return Math.min(1, Math.max(0, (ratio - 1.05) / 1.2))
}

/** Brightness noise that can't be: what is drawn all over a picture is not taken for noise. */
function plausible(levels: readonly (readonly number[])[]): number[][] {
  const result: number[][] = []
  const fall = fallOf(levels[0] ?? [])
  const between = (white: number, falling: number): number => white + (falling - white) * fall
  const steepest = climbs.white.rings.map((white, ring) => between(white, numberAt(climbs.falling.rings, ring)))
  const kept = between(climbs.white.kept, climbs.falling.kept)
  for (const [level, measured] of levels.entries()) {
    const above = result[level - 1]
    const limited = measured.map((value, ring) => {
      const steep = steepest[ring]
      if (!above) return steep === undefined ? value : Math.min(value, numberAt(measured, 3) * steep)
      if (ring === 0) return value
      // Ring number r + 1 of this copy is (r + 1) / 2 of the one above: between two of its rings, or one.
      const place = (ring + 1) / 2 - 1
      const [low, high] = [numberAt(above, Math.floor(place)), numberAt(above, Math.ceil(place))]
      return Math.min(value, kept * (low + (high - low) * (place - Math.floor(place))))
    })
    if (above) limited[0] = Math.min(numberAt(limited, 0), between(climbs.white.lowest, climbs.falling.lowest) * numberAt(limited, 1))
    result.push(limited)
  }
  return result
}

const rounded = (value: number): number => Number(value.toPrecision(4))

interface Measured {
  /** [channel][level][ring] */
  readonly deviations: readonly (readonly (readonly number[])[])[]
  readonly factors: readonly number[]
}

/** The dear part, the same for every setting. */
const measure = memoised((patches: readonly LinearPicture[]): Measured => {
  let pictures = patches.map(opponentOf)
  const flats: Flat[][] = [[], [], []]
  for (let level = 0; level < noiseLevels; level++) {
    const places = unclipped(pictures.flatMap((picture) => placesOf(picture, Math.max(2, 8 >> Math.max(0, level - 1)))))
    for (const [channel, levels] of flats.entries()) levels.push(flattest(blocksAt(places, channel)))
    pictures = pictures.map(halved)
  }
  const brightness = present(flats[0]?.[0])
  const even = Array.from({ length: factorNodes }, () => 1)
  const factors = brightnessFactors(brightness, ringDeviations(brightness, even))
  return { factors, deviations: flats.map((levels) => levels.map((flat) => ringDeviations(flat, factors))) }
})

/**
 * Noise measured on pieces of a picture at full size: medians over the flattest blocks (after Donoho & Johnstone 1994, for every
 * frequency instead of the finest wavelet alone, since cameras and JPEG leave noise that is not white), held to what noise can be.
 */
export function measureNoise(patches: readonly LinearPicture[], iso?: number): NoiseProfile {
  const measured = measure(patches)
  const limited = measured.deviations.map((levels, channel) => (channel === 0 ? plausible(levels) : levels))
  const deviations = limited.map((levels, channel) =>
    levels.map((rings, level) =>
      rings.map((value, ring) => rounded(iso === undefined ? value : Math.min(value, isoLimit(iso, channel, level, ring)))),
    ),
  )
  return { deviations, factors: measured.factors.map(rounded) }
}

/** Standard deviation of brightness noise at full size, in codes of 8 bits, at a brightness. */
export function deviationCodes({ deviations, factors }: NoiseProfile, brightness: number): number {
  const rings = deviations[0]?.[0] ?? []
  const mean = ringOf.slice(1).reduce((sum, ring) => sum + (rings[ring] ?? 0) ** 2, 0) / 63
  return Math.sqrt(mean) * factorAt(factors, brightness) * 255
}

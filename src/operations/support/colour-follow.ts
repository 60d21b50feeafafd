import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import type { Rect } from '@/base/geometry'
import { numberAt } from '@/base/numbers'
import { ringOf } from './noise-profile'
import { newSheet, onGrid, placeOn, rectOf, type Sheet, type Span, scaled, unionOfSpans, widened } from './sheets'

/*
 * Clean colour, of half size or whole, laid over brightness. Around every place colour is told from brightness by a regression (guided
 * filter, He, Sun & Tang 2013, solved at an eighth of the size, after He & Sun 2015). Where that fits as well as the noise lets it, colour
 * follows brightness, sharp and without noise; elsewhere it is the clean copy and, where that is of half size, what is finer as far as it
 * stands out of the noise.
 */

/** Half of the window that moments go through, the middle first. */
const momentWindow = [0.5, 0.25]
const windowReach = momentWindow.length - 1

/** How much a misfit beyond the noise counts against following. */
const misfitWeight = 1
/** Fine colour stays as far as it stands out of so much of the noise: in shadows colour is noisier than brightness tells. */
const fineCaution = 1.5
/** Added to the variance of brightness, in squares of 8-bit codes: what is nearly even tells nothing about colour. */
const steadierCodes = 2

/** What must be there for a tile along one side, in pixels of the picture, of its half-size copies or of quarter-size ones. */
export interface FollowNeeded {
  /** The result. */
  readonly corrected: Span
  /** At half size, what is laid together. */
  readonly half: Span
  /** What is laid together with what, at a quarter of the size and, where it is solved, at an eighth. */
  readonly shares: Span
  readonly solved: Span
  readonly moments: Span
  /** What must be there at half size, as it was and clean. */
  readonly halfRead: Span
}

export function followNeeded(wanted: Span): FollowNeeded {
  const corrected = onGrid(wanted, 2)
  const half = onGrid(widened(scaled(corrected, 0.5), 1), 2)
  const shares = onGrid(widened(scaled(half, 0.5), 1), 2)
  const solved = widened(scaled(shares, 0.5), 1)
  const moments = widened(solved, windowReach)
  return { corrected, half, shares, solved, moments, halfRead: unionOfSpans(half, scaled(moments, 4)) }
}

export type FollowAreas = Readonly<Record<keyof FollowNeeded, Rect>>

export function followAreas(across: FollowNeeded, down: FollowNeeded): FollowAreas {
  const area = (part: keyof FollowNeeded): Rect => rectOf(across[part], down[part])
  return {
    corrected: area('corrected'),
    half: area('half'),
    shares: area('shares'),
    solved: area('solved'),
    moments: area('moments'),
    halfRead: area('halfRead'),
  }
}

/** What averages of two by two leave of a frequency's variance; k sixteenths of a cycle across and down. */
const leftByHalving = (k: number): number => Math.cos((Math.PI * k) / 16) ** 2

/** Share of each frequency's variance that halving loses. */
const lostShares = Array.from({ length: 64 }, (_, i) => 1 - leftByHalving(i >> 3) * leftByHalving(i & 7))

/** Variance of a pixel, from deviations by frequency ring; of all frequencies or weighted. */
const varianceOf = (rings: readonly number[], shares?: readonly number[]): number =>
  ringOf.reduce((sum, ring, i) => sum + numberAt(rings, Math.max(0, ring)) ** 2 * (shares ? numberAt(shares, i) : 1), 0) / 64

export interface FollowNoise {
  readonly lightHalf: number
  readonly colourHalf: number
  readonly colourLost: number
}

/** Of brightness and one colour difference: deviations by ring, at full and at half size. */
export const followNoise = (lightHalf: readonly number[], colour: readonly number[], colourHalf: readonly number[]): FollowNoise => ({
  lightHalf: varianceOf(lightHalf),
  colourHalf: varianceOf(colourHalf),
  colourLost: fineCaution * varianceOf(colour, lostShares),
})

export interface FollowJob {
  readonly kernels: Kernels
  readonly areas: FollowAreas
  /** Brightness at half size, as it was. */
  readonly lightHalf: Sheet
  /** Brightness as it comes out, over what is corrected. */
  readonly light: Sheet
  /** As it was; or clean. */
  readonly colour: Sheet
  /** At half size, as it was. */
  readonly colourHalf: Sheet
  /** What halving lost of colour, as variance: lies as the half-size copy does. */
  readonly lost: Sheet
  /** Clean, at half size. */
  readonly cleanHalf: Sheet
  /** Colour at full size is clean, too. */
  readonly isCleanWhole: boolean
  readonly noise: FollowNoise
  /** Noise by brightness: 17 floats on the heap. */
  readonly factors: Pointer
}

/** What the moments are means of, in the order of `solveFollow`; the last because clean colour has no blotches. */
const products = [
  ['lightHalf'],
  ['lightHalf', 'lightHalf'],
  ['colourHalf'],
  ['lightHalf', 'colourHalf'],
  ['colourHalf', 'colourHalf'],
  ['lost'],
  ['cleanHalf'],
] as const

/** Kernels may write a little behind a plane. */
const slackFloats = 16

interface Stack {
  readonly at: Pointer
  readonly area: Rect
  readonly planes: number
  /** From plane to plane. */
  readonly planeBytes: number
}

/** Colour that follows brightness, on a sheet of its own or, if it lies as it must, on `wanted`. */
export function followBrightness(job: FollowJob, wanted?: Sheet): Sheet {
  const { areas, kernels, light, colour, colourHalf } = job
  // Half-size copies that are alike cancel each other out: what is left of colour is then that at full size.
  const cleanHalf = job.isCleanWhole ? colourHalf : job.cleanHalf
  const { heap, run } = kernels
  const target = wanted ?? newSheet(heap, areas.corrected)
  heap.scope(() => {
    const shares = doubled(solved(smoothed(momentsOf())))
    const { half, corrected } = areas
    const parts = newStack(half, 3)
    const from = shares.at + ((half.y / 2 - shares.area.y) * shares.area.width + half.x / 2 - shares.area.x) * 4
    const [stride, clean, noisy] = [shares.area.width, placeOn(cleanHalf, half), placeOn(colourHalf, half)]
    const [toStride, toPlane] = [half.width, parts.planeBytes]
    run.shareHalf(
      from,
      stride,
      shares.planeBytes,
      clean,
      cleanHalf.stride,
      noisy,
      colourHalf.stride,
      parts.at,
      toStride,
      toPlane,
      half.width,
      half.height,
    )
    const first = parts.at + ((corrected.y / 2 - half.y) * half.width + corrected.x / 2 - half.x) * 4
    const [lightAt, colourAt, to] = [light, colour, target].map((sheet) => placeOn(sheet, corrected)) as [Pointer, Pointer, Pointer]
    const { width, height } = corrected
    run.layColour(first, toStride, toPlane, lightAt, light.stride, colourAt, colour.stride, to, target.stride, width, height)
  })
  return target

  function newStack(area: Rect, planes: number): Stack {
    const planeBytes = (area.width * area.height + slackFloats) * 4
    return { at: heap.allocate(planes * planeBytes + slackFloats * 4), area, planes, planeBytes }
  }

  /** Means of the products, at an eighth of the size. */
  function momentsOf(): Stack {
    const stack = newStack(areas.moments, products.length)
    const { x, y, width, height } = areas.moments
    const place = { x: 4 * x, y: 4 * y }
    const lines = newStack({ x: 0, y: 0, width: 2 * width, height: 2 * height }, 1)
    for (const [plane, [one, other]] of products.entries()) {
      const [first, second] = [job[one], other && job[other]]
      const [at, stride] = [placeOn(first, place), first.stride]
      if (second) run.meanProducts(at, stride, placeOn(second, place), second.stride, lines.at, 2 * width, 2 * width, 2 * height)
      else run.halvePlane(at, stride, lines.at, 2 * width, 2 * width, 2 * height)
      run.halvePlane(lines.at, 2 * width, stack.at + plane * stack.planeBytes, width, width, height)
    }
    return stack
  }

  /** All planes of a stack, through a symmetric window across and down. */
  function smoothed({ at, area, planes, planeBytes }: Stack): Stack {
    const inner = areas.solved
    const stack = newStack(inner, planes)
    heap.scope(() => {
      const weights = heap.floats(Float32Array.from(momentWindow))
      const lines = newSheet(heap, { ...inner, height: area.height })
      for (let plane = 0; plane < planes; plane++) {
        const to = stack.at + plane * stack.planeBytes
        run.convolveRows(at + plane * planeBytes, area.width, lines.at, inner.width, inner.width, area.height, weights, windowReach)
        run.convolveColumns(lines.at, inner.width, to, inner.width, inner.width, inner.height, weights, windowReach)
      }
    })
    return stack
  }

  function doubled({ at, area, planes, planeBytes }: Stack): Stack {
    const stack = newStack(areas.shares, planes)
    const { x, y, width, height } = stack.area
    const first = at + ((y / 2 - area.y) * area.width + x / 2 - area.x) * 4
    for (let plane = 0; plane < planes; plane++)
      run.doublePlane(first + plane * planeBytes, area.width, stack.at + plane * stack.planeBytes, width, width, height)
    return stack
  }

  function solved(moments: Stack): Stack {
    const stack = newStack(moments.area, 4)
    const { lightHalf, colourHalf: colourVariance, colourLost } = job.noise
    const parameters = heap.floats([lightHalf, colourVariance, colourLost, steadierCodes / 255 ** 2, misfitWeight])
    const count = (moments.area.width * moments.area.height + 3) & ~3
    run.solveFollow(moments.at, stack.at, stack.planeBytes, count, parameters, job.factors)
    if (job.isCleanWhole) heap.f32(stack.at + 3 * stack.planeBytes, count).set(heap.f32(stack.at, count))
    return stack
  }
}

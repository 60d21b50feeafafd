import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import { allocatePlane, allocatePlanes, copyPlane, type Planes, strideOf } from '@kernels/planes'
import type { Size } from '@/base/geometry'
import { numberAt } from '@/base/numbers'
import type { Limit } from '@/macros/limit'
import { conversion, type Domain, expandGrid, gaussianBlur, gaussianReach } from '@/operations'
import { brushGrid } from './brush'
import { readyPasses } from './passes'

/** The tile that a mask is painted for: the picture before the step, with `reach` more on every side than the mask. */
export interface MaskJob {
  readonly kernels: Kernels
  readonly input: Planes
  readonly domain: Domain
  readonly reach: number
  readonly width: number
  readonly height: number
  readonly x: number
  readonly y: number
  readonly scale: number
  readonly frame: Size
}

/** Narrower blurs change nothing. */
const minSigma = 0.3
/** The strongest chroma of OKLab that sRGB reaches, rounded: what 100 % means. */
const fullChroma = 0.32

const setting = (limit: Limit, key: string): number => limit.settings[key] ?? 0
const featherSigma = (limit: Limit, scale: number): number => (setting(limit, 'featherPx') / 2) * scale
const edgeSigma = (limit: Limit, scale: number): number => Math.max(setting(limit, 'radiusPx') * scale, minSigma)
const readsEdges = ({ kind }: Limit): boolean => kind === 'edges' || kind === 'smooth'

const featherReach = (limit: Limit, scale: number): number => {
  const sigma = featherSigma(limit, scale)
  return sigma < minSigma ? 0 : gaussianReach(sigma)
}
const ownReach = (limit: Limit, scale: number): number => (readsEdges(limit) ? 2 * gaussianReach(edgeSigma(limit, scale)) : 0)

/** Pixels that painting a step's limits needs on every side. */
export const limitReach = (limits: readonly Limit[], scale: number): number =>
  Math.max(0, ...limits.map((limit) => featherReach(limit, scale) + ownReach(limit, scale)))

/** The step's mask over the tile: one plane, stride `strideOf(width)`, on the heap. Where several groups of limits hold, all of them must. */
export function paintLimits(job: MaskJob, limits: readonly Limit[]): Pointer {
  const { heap, run } = job.kernels
  const begins = limits.findLastIndex((limit) => limit.begins)
  if (begins <= 0) return paintGroup(job, limits)
  const mask = paintLimits(job, limits.slice(0, begins))
  heap.scope(() => run.joinMasks(mask, paintGroup(job, limits.slice(begins)), strideOf(job.width) * job.height, 0, 0))
  return mask
}

function paintGroup(job: MaskJob, limits: readonly Limit[]): Pointer {
  const { heap, run } = job.kernels
  const mask = allocatePlane(heap, job.width, job.height)
  const count = strideOf(job.width) * job.height
  heap.f32(mask, count).fill(limits[0]?.join === 'or' ? 0 : 1)
  heap.scope(() => {
    const needsColour = limits.some(({ kind }) => kind === 'tone' || kind === 'colour' || kind === 'edges' || kind === 'smooth')
    const lab = needsColour ? toOklab(job) : job.input
    for (const [index, limit] of limits.entries())
      heap.scope(() => {
        const painted = feathered(job, lab, limit)
        // The first limit has nothing to join: it limits everything.
        const how = index === 0 ? 0 : ({ and: 0, or: 1, without: 2 } as const)[limit.join]
        run.joinMasks(mask, painted, count, how, limit.inverted ? 1 : 0)
      })
  })
  return mask
}

function toOklab({ kernels, input, domain }: MaskJob): Planes {
  const copy = allocatePlanes(kernels.heap, input.width, input.height)
  for (const [i, target] of copy.channels.entries()) copyPlane(kernels.heap, numberAt(input.channels, i), input.stride, 0, 0, target, copy)
  for (const pass of readyPasses(kernels, conversion(domain, 'oklab'))) pass.run(...copy.channels, copy.stride * copy.height)
  return copy
}

/** The tile with `around` more on every side. */
interface Area {
  readonly around: number
  readonly width: number
  readonly height: number
  readonly stride: number
}

function feathered(job: MaskJob, lab: Planes, limit: Limit): Pointer {
  const around = featherReach(limit, job.scale)
  const [width, height] = [job.width + 2 * around, job.height + 2 * around]
  const area: Area = { around, width, height, stride: strideOf(width) }
  const painted = paint(job, lab, limit, area)
  if (around === 0) return painted
  const window = { source: painted, stride: area.stride, reach: around, width: job.width, height: job.height, x: job.x, y: job.y }
  return gaussianBlur(job.kernels, window, featherSigma(limit, job.scale))
}

/** A channel of the input, the part under `area`, rows without gaps beyond the stride. */
function channelUnder({ kernels, reach }: MaskJob, lab: Planes, channel: 0 | 1 | 2, area: Area): Pointer {
  const part = allocatePlane(kernels.heap, area.width, area.height)
  const inset = reach - area.around
  copyPlane(kernels.heap, lab.channels[channel], lab.stride, inset, inset, part, area)
  return part
}

function paint(job: MaskJob, lab: Planes, limit: Limit, area: Area): Pointer {
  const { kernels, frame } = job
  const { heap, run } = kernels
  const mask = allocatePlane(heap, area.width, area.height)
  const count = area.stride * area.height
  const [x, y] = [job.x - area.around, job.y - area.around]
  const percent = (key: string): number => setting(limit, key) / 100
  switch (limit.kind) {
    case 'tone':
      run.limitRange(channelUnder(job, lab, 0, area), mask, count, percent('fromPercent'), percent('toPercent'), percent('softPercent'))
      break
    case 'colour': {
      const [hue, half, soft] = [setting(limit, 'hueDegrees'), setting(limit, 'widthDegrees') / 2, setting(limit, 'softDegrees')]
      const cosine = (degrees: number): number => Math.cos((Math.min(degrees, 180) * Math.PI) / 180)
      const direction = (hue * Math.PI) / 180
      const [a, b] = [channelUnder(job, lab, 1, area), channelUnder(job, lab, 2, area)]
      const min = percent('leastChromaPercent') * fullChroma
      run.limitColour(a, b, mask, count, Math.cos(direction), Math.sin(direction), cosine(half), cosine(half + soft), min)
      break
    }
    case 'edges':
    case 'smooth': {
      const threshold = setting(limit, 'thresholdLevels') / 255
      run.limitEnergy(edgeEnergy(job, lab, limit, area), mask, count, threshold * 0.5, threshold * 1.5)
      if (limit.kind === 'smooth') turnOver(kernels, mask, count)
      break
    }
    case 'linear': {
      const [sx, sy] = [percent('startXPercent') * frame.width, percent('startYPercent') * frame.height]
      const [dx, dy] = [percent('endXPercent') * frame.width - sx, percent('endYPercent') * frame.height - sy]
      const squared = Math.max(dx * dx + dy * dy, 1)
      const [alongX, alongY] = [dx / squared, dy / squared]
      run.limitLinear(mask, area.stride, area.width, area.height, x, y, alongX, alongY, -(sx * alongX + sy * alongY))
      break
    }
    case 'radial': {
      const [cx, cy] = [percent('centreXPercent') * frame.width, percent('centreYPercent') * frame.height]
      const [rx, ry] = [percent('radiusXPercent') * frame.width, percent('radiusYPercent') * frame.height]
      run.limitRadial(mask, area.stride, area.width, area.height, x, y, cx, cy, 1 / rx, 1 / ry, 1 - percent('softPercent'))
      break
    }
    case 'brush': {
      const grid = brushGrid(limit.strokes, frame)
      const planes = { width: area.width, height: area.height, stride: area.stride, channels: [mask, mask, mask] } as const
      const [spread] = expandGrid({ kernels, frame, x, y }, grid, planes)
      copyPlane(heap, spread as Pointer, area.stride, 0, 0, mask, area)
    }
  }
  return mask
}

/** 1 − mask, in place. */
function turnOver({ heap, run }: Kernels, mask: Pointer, count: number): void {
  heap.scope(() => {
    const all = heap.allocate(count * 4)
    heap.f32(all, count).fill(1)
    run.joinMasks(all, mask, count, 0, 1)
    new Uint8Array(heap.memory.buffer).copyWithin(mask, all, all + count * 4)
  })
}

/** Local variance of lightness around its own blur: high along edges and in texture. */
function edgeEnergy(job: MaskJob, lab: Planes, limit: Limit, area: Area): Pointer {
  const { kernels } = job
  const sigma = edgeSigma(limit, job.scale)
  const reach = gaussianReach(sigma)
  const [width, height] = [area.width + 2 * reach, area.height + 2 * reach]
  const around = area.around + reach
  const wide: Area = { around, width, height, stride: strideOf(width) }
  const inset = job.reach - around
  const source = lab.channels[0] + ((inset - reach) * lab.stride + inset - reach) * 4
  const [x, y] = [job.x - around, job.y - around]
  const blurred = gaussianBlur(kernels, { source, stride: lab.stride, reach, width, height, x, y }, sigma)
  const light = channelUnder(job, lab, 0, wide)
  kernels.run.squareDifference(light, blurred, blurred, wide.stride * height)
  const inner = { source: blurred, stride: wide.stride, reach, width: area.width, height: area.height }
  return gaussianBlur(kernels, { ...inner, x: job.x - area.around, y: job.y - area.around }, sigma)
}

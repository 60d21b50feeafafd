import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import { allocatePlanes, copyPlane, type Planes } from '@kernels/planes'
import { type Rect, wholeRect } from '@/base/geometry'
import { numberAt } from '@/base/numbers'
import type { OutputSpaceId } from '@/colour/spaces'
import { conversion, type Domain, type PointPass } from '@/operations'
import type { LinearPicture } from '@/pixels/linear-picture'
import type { ResamplingKernelId } from '@/pixels/resampling'
import { type GamutMapping, outputPasses } from './domains'
import { evaluate, newWalk, runPoints } from './evaluate'
import { allOf, isInPlace, lastFrame, type Plan, planProxy, type Stage, scaleOf } from './plan'
import type { HeldSource, PlaneSource, Source } from './source'

/** Point functions alone: strips of this many pixels, about 400 kB, stay in a second-level cache. */
const pointStripPixels = 1 << 15
/** With neighbours: strips high enough that their margins cost little, small enough to bound memory (about 18 MB a frame). */
const neighbourStripPixels = 3 << 19
/** Far neighbours: a strip is this many times as high as they are far, if it does not grow beyond 16 MB a plane. */
const rowsPerReach = 14
const maxStripPixels = 1 << 22
/** Strips end where the blocks and the halved copies of neighbourhood work do. */
const blockRows = 8

/** How far beyond a strip a stage looks. A slanted map looks as far as its rows climb. */
function reachOf({ work, frame }: Stage): number {
  if (work.kind === 'neighbourhood') return work.effect.reach(scaleOf(frame))
  return work.kind === 'warp' ? Math.abs(work.toSource[3] / work.toSource[8]) * frame.size.width * 0.5 : 0
}

/** Whole rows of the wanted rectangle that one strip covers, so that no frame on the way grows beyond its budget. */
export function stripRows(plan: Plan, rect: Rect): number {
  const last = lastFrame(plan).size
  const pointsOnly = plan.stages.every(
    ({ work }) =>
      work.kind === 'points' || work.kind === 'crop' || isInPlace(work) || (work.kind === 'turn' && work.effect.degrees % 180 === 0),
  )
  const budget = pointsOnly ? pointStripPixels : neighbourStripPixels
  const widest = Math.max(plan.start.size.width, ...plan.stages.map(({ frame }) => frame.size.width))
  const tallest = Math.max(plan.start.size.height, ...plan.stages.map(({ frame }) => frame.size.height))
  const down = tallest / last.height
  const growth = (widest / last.width) * down
  const farthest = Math.max(0, ...plan.stages.map(reachOf))
  const worthwhile = Math.min((rowsPerReach * farthest) / down, maxStripPixels / (rect.width * growth))
  const rows = Math.max(budget / (rect.width * growth), worthwhile)
  if (pointsOnly) return Math.max(1, Math.min(rect.height, Math.floor(rows)))
  return Math.min(rect.height, Math.max(16, Math.floor(rows / blockRows) * blockRows))
}

/** Walks a rectangle in strips; `sink` sees each one while it is on the heap. */
export function walk(kernels: Kernels, plan: Plan, rect: Rect, sink: (planes: Planes, y: number) => void): void {
  const rows = stripRows(plan, rect)
  const strips = newWalk(kernels, plan)
  for (let y = 0; y < rect.height; y += rows) {
    const strip = { ...rect, y: rect.y + y, height: Math.min(rows, rect.height - y) }
    kernels.heap.scope(() => sink(evaluate(strips, plan.stages.length - 1, strip), y))
  }
}

export interface EncodeOptions {
  readonly space: OutputSpaceId
  /** hue, if not given. */
  readonly gamut?: GamutMapping
  /** 3: RGB for files. 4: RGBA for canvases, opaque. */
  readonly channels: 3 | 4
  /** Rounds by a threshold that depends on the pixel's place, so that gradients do not band. */
  readonly dither: boolean
}

/** What makes interleaved 8-bit values of a walk's strips; `bytes`: of the whole rectangle, which the strips are rows of. */
export function stripEncoder(
  kernels: Kernels,
  plan: Plan,
  options: EncodeOptions,
  rect: Rect,
  bytes: Uint8ClampedArray<ArrayBuffer>,
): (planes: Planes, y: number) => void {
  const rowBytes = rect.width * options.channels
  const passes = outputPasses(lastFrame(plan).domain, options.space, options.gamut ?? 'hue')
  const { heap, run } = kernels
  return (planes, y) => {
    runPoints(kernels, planes, [{ passes, mix: allOf('encoded') }])
    const target = heap.allocate(rowBytes * planes.height + 64)
    const [r, g, b] = planes.channels
    for (let row = 0; row < planes.height; row++) {
      const at = row * planes.stride * 4
      run.encodeRow8(
        r + at,
        g + at,
        b + at,
        rect.width,
        target + row * rowBytes,
        options.channels,
        rect.x,
        rect.y + y + row,
        options.dither ? 1 : 0,
      )
    }
    bytes.set(heap.u8(target, rowBytes * planes.height), y * rowBytes)
  }
}

/**
 * Renders a rectangle of the finished picture to interleaved 8-bit values.
 * @param into where they go, if there is a place already: new memory costs time
 * @returns `rect.width × rect.height × channels` bytes.
 */
export function renderEncoded(
  kernels: Kernels,
  plan: Plan,
  options: EncodeOptions,
  rect: Rect = wholeRect(lastFrame(plan).size),
  into?: Uint8ClampedArray<ArrayBuffer>,
): Uint8ClampedArray<ArrayBuffer> {
  const bytes = into ?? new Uint8ClampedArray(rect.width * rect.height * options.channels)
  walk(kernels, plan, rect, stripEncoder(kernels, plan, options, rect, bytes))
  return bytes
}

/**
 * The same to interleaved 16-bit RGB, without dither.
 * @returns `width × height × 3` codes.
 */
export function renderEncoded16(kernels: Kernels, plan: Plan, options: Pick<EncodeOptions, 'space' | 'gamut'>): Uint16Array<ArrayBuffer> {
  const rect = wholeRect(lastFrame(plan).size)
  const codes = new Uint16Array(rect.width * rect.height * 3)
  const passes = outputPasses(lastFrame(plan).domain, options.space, options.gamut ?? 'hue')
  const { heap, run } = kernels
  walk(kernels, plan, rect, (planes, y) => {
    runPoints(kernels, planes, [{ passes, mix: allOf('encoded') }])
    const rowCodes = rect.width * 3
    const target = heap.allocate(rowCodes * planes.height * 2 + 64)
    const [r, g, b] = planes.channels
    for (let row = 0; row < planes.height; row++) {
      const at = row * planes.stride * 4
      run.encodeRow16(r + at, g + at, b + at, rect.width, target + row * rowCodes * 2)
    }
    codes.set(new Uint16Array(heap.memory.buffer, target, rowCodes * planes.height), y * rowCodes)
  })
  return codes
}

/** Renders the whole frame and keeps it as floats outside the kernels' memory: a source for later steps. `domain`: as in `holdFrame`. */
export function renderFrame(kernels: Kernels, plan: Plan, domain: Domain = lastFrame(plan).domain): PlaneSource {
  const { size, fullSize, domain: from } = lastFrame(plan)
  return { kind: 'planes', size, fullSize, domain, planes: renderPlanes(kernels, plan, wholeRect(size), conversion(from, domain)) }
}

/**
 * Renders the whole frame and holds it in the kernels' memory, until what was allocated there is given back. `domain`: another than it
 * comes out in, where all that goes on from it would go there first.
 */
export function holdFrame(kernels: Kernels, plan: Plan, domain: Domain = lastFrame(plan).domain): HeldSource {
  const { size, fullSize, domain: from } = lastFrame(plan)
  const planes = allocatePlanes(kernels.heap, size.width, size.height)
  const passes = conversion(from, domain)
  walk(kernels, plan, wholeRect(size), (strip, y) => {
    runPoints(kernels, strip, [{ passes, mix: allOf(domain) }])
    for (const [i, channel] of planes.channels.entries())
      copyPlane(kernels.heap, numberAt(strip.channels, i), strip.stride, 0, 0, channel + y * planes.stride * 4, {
        ...strip,
        stride: planes.stride,
      })
  })
  return { kind: 'held', size, fullSize, domain, planes }
}

/** Three planes of a rectangle of the last frame, in its own domain, one behind the other, rows without gaps. */
function renderPlanes(kernels: Kernels, plan: Plan, rect: Rect, passes: readonly PointPass[] = []): Float32Array {
  const { width, height } = rect
  const planes = new Float32Array(3 * width * height)
  walk(kernels, plan, rect, (strip, y) => {
    runPoints(kernels, strip, [{ passes, mix: allOf('linear') }])
    strip.channels.forEach((channel: Pointer, i) => {
      const floats = kernels.heap.f32(channel, strip.stride * strip.height)
      const to = (i * height + y) * width
      if (strip.stride === width) planes.set(floats, to)
      else
        for (let row = 0; row < strip.height; row++)
          planes.set(floats.subarray(row * strip.stride, row * strip.stride + width), to + row * width)
    })
  })
  return planes
}

/** A rectangle of the last frame in linear light, to measure. */
export function renderPatch(kernels: Kernels, plan: Plan, rect: Rect): LinearPicture {
  const passes = conversion(lastFrame(plan).domain, 'linear')
  return { size: { width: rect.width, height: rect.height }, planes: renderPlanes(kernels, plan, rect, passes), kernels }
}

/** A smaller copy of a source, for previews. */
export const renderProxy = (kernels: Kernels, source: Source, scale: number, kernel?: ResamplingKernelId): PlaneSource =>
  renderFrame(kernels, planProxy(source, scale, kernel))

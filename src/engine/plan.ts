import { copyPlane } from '@kernels/planes'
import { longEdge, type Rect, type Size, sameRect, scaleSize, wholeRect } from '@/base/geometry'
import { numberAt } from '@/base/numbers'
import { type Matrix3, multiply } from '@/colour/matrix'
import type { Limit } from '@/macros/limit'
import type { Blend } from '@/macros/step'
import { conversion, type Domain, type Effect, type Ground, joined, type PointPass } from '@/operations'
import { type ResamplingKernelId, resamplingKernels, type WeightTable, weightTable } from '@/pixels/resampling'
import { readyPasses } from './passes'
import { playedOut, type ResolvedStep } from './resolve'
import { domainOfCodes, fullSizeOf, type Source } from './source'

/** Point functions that run together on one block of pixels, then are mixed with the block before them. */
export interface PassGroup {
  readonly passes: readonly PointPass[]
  readonly mix: Mix
}

/** How a result is mixed with what was there before it, in the given domain. */
export interface Mix {
  readonly strength: number
  readonly blend: Blend
  readonly domain: Domain
  /** Where in the picture it is taken; none: everywhere. */
  readonly limit: readonly Limit[]
}

/** Nothing of what was before stays. */
export const takesAll = ({ strength, blend, limit }: Mix): boolean => strength === 1 && blend === 'normal' && limit.length === 0

export const allOf = (domain: Domain): Mix => ({ strength: 1, blend: 'normal', domain, limit: [] })

/** Works on the very planes it is given: neither neighbours nor the picture before are needed. */
export const isInPlace = (work: Work): boolean => work.kind === 'neighbourhood' && work.effect.inPlace === true && takesAll(work.mix)

/** What happens between one frame and the next. */
export type Work =
  | { readonly kind: 'points'; readonly groups: readonly PassGroup[] }
  | { readonly kind: 'neighbourhood'; readonly effect: Extract<Effect, { kind: 'neighbourhood' }>; readonly mix: Mix }
  | { readonly kind: 'crop'; readonly rect: Rect }
  | { readonly kind: 'turn'; readonly effect: Extract<Effect, { kind: 'turn' }>; readonly before: Size }
  | { readonly kind: 'resample'; readonly columns: WeightTable; readonly rows: WeightTable; readonly held?: boolean }
  /** `toSource`: pixels of this frame to pixels of the frame before, which has the size `before`. */
  | { readonly kind: 'warp'; readonly toSource: Matrix3; readonly before: Size }
  | { readonly kind: 'pad'; readonly inner: Rect; readonly ground: Ground }

/** A frame on the way: its pixels, and what they stand for. */
export interface Frame {
  readonly size: Size
  readonly fullSize: Size
  readonly domain: Domain
}

export interface Stage {
  readonly work: Work
  readonly frame: Frame
}

export interface Plan {
  readonly source: Source
  readonly start: Frame
  readonly stages: readonly Stage[]
}

/** Pixels of a frame per full-size pixel. */
export const scaleOf = (frame: Frame): number => longEdge(frame.size) / longEdge(frame.fullSize)

export const lastFrame = (plan: Plan): Frame => plan.stages.at(-1)?.frame ?? plan.start

/**
 * full: resampling makes every full-size pixel. preview: a resize only makes pixels when there are more than
 * needed; otherwise it merely changes what the present pixels stand for.
 */
export type Purpose = 'full' | 'preview'

/**
 * Second half of every render, planned: neighbouring point functions are fused, and values change domain
 * only where two steps disagree.
 */
export function planRender(source: Source, steps: readonly ResolvedStep[], purpose: Purpose): Plan {
  const played = playedOut(steps)
  const start = startOf(source, firstDomain(played.map(({ effect }) => effect)))
  const stages: Stage[] = []
  let frame = start
  const push = (work: Work, next: Partial<Frame>): void => {
    frame = { ...frame, ...next }
    stages.push({ work, frame })
  }
  const points = (group: PassGroup, domain: Domain): void => {
    const previous = stages.at(-1)
    if (group.passes.length === 0) return
    if (previous?.work.kind === 'points') {
      stages.pop()
      push({ kind: 'points', groups: withGroup(previous.work.groups, group) }, { domain })
    } else push({ kind: 'points', groups: [group] }, { domain })
  }
  const enter = (domain: Domain): void => points({ passes: conversion(frame.domain, domain), mix: allOf(domain) }, domain)

  for (const { effect, strength, blend, limit } of played) add(effect, { strength, blend, limit })
  // Encoded values go back to light in any case: together with the last point functions, that may be one table.
  if (frame.domain === 'encoded' && stages.at(-1)?.work.kind === 'points') enter('linear')
  return { source, start, stages }

  function add(effect: Effect, taken: Omit<Mix, 'domain'>): void {
    if (effect.kind === 'chain') for (const part of effect.effects) add(part, taken)
    else if (effect.kind === 'point' && taken.limit.length > 0) add(placedPoints(effect), taken)
    else if (effect.kind === 'point') {
      enter(effect.domain)
      points({ passes: effect.passes, mix: { ...taken, domain: effect.domain } }, effect.domain)
    } else if (effect.kind === 'neighbourhood') {
      enter(effect.domain)
      push({ kind: 'neighbourhood', effect, mix: { ...taken, domain: effect.domain } }, {})
    } else if (effect.kind === 'crop') {
      const rect = scaledRect(effect.rect, frame)
      const fullSize = { width: effect.rect.width, height: effect.rect.height }
      if (sameRect(rect, wholeRect(frame.size))) relabel(fullSize)
      else push({ kind: 'crop', rect }, { size: { width: rect.width, height: rect.height }, fullSize })
    } else if (effect.kind === 'turn') {
      const lies = effect.degrees % 180 === 0
      push({ kind: 'turn', effect, before: frame.size }, lies ? {} : { size: swapped(frame.size), fullSize: swapped(frame.fullSize) })
    } else if (effect.kind === 'warp') warp(effect.toSource, effect.size)
    else if (effect.kind === 'pad') pad(effect)
    else if (effect.kind === 'resample') {
      const size = purpose === 'full' || longEdge(frame.size) > longEdge(effect.size) ? effect.size : frame.size
      if (size !== frame.size) {
        enter('linear')
        const kernel = resamplingKernels[effect.kernel]
        const rows = weightTable(kernel, frame.size.width, size.width)
        const columns = weightTable(kernel, frame.size.height, size.height)
        push({ kind: 'resample', columns, rows, held: effect.held }, { size, fullSize: effect.size })
      } else relabel(effect.size)
    }
  }

  /** Maps in a row become one: the picture is resampled once. */
  function warp(toSource: Matrix3, fullSize: Size): void {
    const [across, down] = [frame.size.width / frame.fullSize.width, frame.size.height / frame.fullSize.height]
    const previous = stages.at(-1)
    const joined = previous?.work.kind === 'warp' ? previous.work : undefined
    const size = { width: Math.max(1, Math.round(fullSize.width * across)), height: Math.max(1, Math.round(fullSize.height * down)) }
    const here = multiply(multiply([across, 0, 0, 0, down, 0, 0, 0, 1], toSource), [
      fullSize.width / size.width,
      0,
      0,
      0,
      fullSize.height / size.height,
      0,
      0,
      0,
      1,
    ])
    if (joined) stages.pop()
    else enter('linear')
    const before = joined?.before ?? frame.size
    push({ kind: 'warp', toSource: joined ? multiply(joined.toSource, here) : here, before }, { size, fullSize })
  }

  function pad({ size: fullSize, at, ground }: Extract<Effect, { kind: 'pad' }>): void {
    const [across, down] = [frame.size.width / frame.fullSize.width, frame.size.height / frame.fullSize.height]
    const [x, y] = [Math.round(at.x * across), Math.round(at.y * down)]
    const size = {
      width: frame.size.width + x + Math.round((fullSize.width - frame.fullSize.width - at.x) * across),
      height: frame.size.height + y + Math.round((fullSize.height - frame.fullSize.height - at.y) * down),
    }
    enter('linear')
    push({ kind: 'pad', inner: { x, y, ...frame.size }, ground }, { size, fullSize })
  }

  /** The same pixels now stand for a picture of another full size. */
  function relabel(fullSize: Size): void {
    push({ kind: 'points', groups: [] }, { fullSize })
  }
}

/**
 * Steps up to the last one behind which a frame can be kept so that all that is made of it comes out the same to the bit: point functions
 * are joined with those beside them, and maps with maps.
 */
export const keepable = (steps: readonly ResolvedStep[]): readonly ResolvedStep[] => steps.slice(0, steps.findLastIndex(standsApart) + 1)

function standsApart(step: ResolvedStep): boolean {
  const effects = playedOut([step]).flatMap(({ effect }) => (effect.kind === 'chain' ? effect.effects : [effect]))
  const last = effects.findLast(({ kind }) => kind !== 'none')?.kind
  return last === 'neighbourhood' || last === 'resample' || last === 'pad'
}

/** Groups that take all run as one. */
function withGroup(groups: readonly PassGroup[], group: PassGroup): readonly PassGroup[] {
  const last = groups.at(-1)
  if (!last || !takesAll(last.mix) || !takesAll(group.mix)) return [...groups, group]
  return [...groups.slice(0, -1), { passes: joined([...last.passes, ...group.passes]), mix: group.mix }]
}

/** The domain of the first effect that has one. */
export function firstDomain(effects: readonly Effect[]): Domain {
  for (const effect of effects) {
    if (effect.kind === 'chain') return firstDomain(effect.effects)
    if (effect.kind === 'point' || effect.kind === 'neighbourhood') return effect.domain
    if (effect.kind === 'resample' || effect.kind === 'warp' || effect.kind === 'pad') return 'linear'
  }
  return 'linear'
}

/** A point function whose mixing needs to know places or neighbours. */
const placedPoints = ({ domain, passes }: Extract<Effect, { kind: 'point' }>): Effect => ({
  kind: 'neighbourhood',
  domain,
  reach: () => 0,
  apply: ({ kernels, input, output, reach }) => {
    for (const [i, target] of output.channels.entries())
      copyPlane(kernels.heap, numberAt(input.channels, i), input.stride, reach, reach, target, output)
    for (const pass of readyPasses(kernels, passes)) pass.run(...output.channels, output.stride * output.height)
  },
})

const swapped = ({ width, height }: Size): Size => ({ width: height, height: width })

/** A rectangle in full-size pixels, in the pixels of a frame that may be a reduced copy. */
function scaledRect(rect: Rect, frame: Frame): Rect {
  const across = frame.size.width / frame.fullSize.width
  const down = frame.size.height / frame.fullSize.height
  const { width, height } = {
    width: Math.min(Math.max(1, Math.round(rect.width * across)), frame.size.width),
    height: Math.min(Math.max(1, Math.round(rect.height * down)), frame.size.height),
  }
  return {
    x: Math.min(Math.round(rect.x * across), frame.size.width - width),
    y: Math.min(Math.round(rect.y * down), frame.size.height - height),
    width,
    height,
  }
}

/** A plan that only makes a smaller copy of the source, in linear light, for previews. Never enlarges. */
export function planProxy(source: Source, scale: number, kernelId: ResamplingKernelId = 'lanczos3'): Plan {
  const start = startOf(source)
  const linear: Frame = { ...start, domain: 'linear' }
  const passes = conversion(start.domain, 'linear')
  const stages: Stage[] = passes.length > 0 ? [{ work: { kind: 'points', groups: [{ passes, mix: allOf('linear') }] }, frame: linear }] : []
  const size = scaleSize(source.size, Math.min(1, scale))
  if (size.width !== source.size.width || size.height !== source.size.height) {
    const kernel = resamplingKernels[kernelId]
    const rows = weightTable(kernel, source.size.width, size.width)
    const columns = weightTable(kernel, source.size.height, size.height)
    stages.push({ work: { kind: 'resample', rows, columns }, frame: { ...linear, size } })
  }
  return { source, start, stages }
}

/** `wanted`: codes of a file are read straight into it, if they can be. */
const startOf = (source: Source, wanted: Domain = 'linear'): Frame => ({
  size: source.size,
  fullSize: fullSizeOf(source),
  domain: source.kind === 'interleaved' ? domainOfCodes(source.colour, wanted) : source.domain,
})

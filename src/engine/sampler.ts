import type { Kernels } from '@kernels/binding'
import { clipRect, longEdge, type Rect, type Size } from '@/base/geometry'
import { lruCached } from '@/base/lru-cache'
import type { LinearPicture } from '@/pixels/linear-picture'
import { planRender } from './plan'
import { renderFrame, renderPatch, renderProxy } from './render'
import { keyOf, playedOut, type ResolvedStep, type Sampler } from './resolve'
import type { PlaneSource, Source } from './source'

/** Long edge of the copy that pictures are measured on: the same for preview and run, so both find the same. */
const analysisEdge = 512

/** Full-size pieces lie on a grid of this many by this many, each this long an edge. */
const patchesAcross = 4
const patchEdge = 128

/** Evenly spread squares, the same for every picture of a size. */
function patchRects(size: Size): Rect[] {
  const place = (index: number, whole: number): number => Math.max(0, Math.round(((index + 0.5) / patchesAcross) * whole - patchEdge / 2))
  return Array.from({ length: patchesAcross ** 2 }, (_, i) =>
    clipRect(
      {
        x: place(i % patchesAcross, size.width),
        y: place(Math.floor(i / patchesAcross), size.height),
        width: patchEdge,
        height: patchEdge,
      },
      size,
    ),
  )
}

/** Views kept: going back and forth between a few beads measures nothing twice. */
const keptViews = 8

/**
 * Looks at a picture after some of its steps, on a small copy, area-averaged, in linear light. Asked twice for the same, it gives the
 * same objects.
 */
export function createSampler(kernels: Kernels, source: Source): Sampler {
  const frames = new Map<string, PlaneSource>()
  const copies = new Map<string, LinearPicture>()
  const pieces = new Map<string, readonly LinearPicture[]>()
  const analysisCopy = (): PlaneSource => renderProxy(kernels, source, analysisEdge / longEdge(source.size), 'area')

  /** The longest run of steps that has been seen is gone on from. */
  function frameAfter(steps: readonly ResolvedStep[]): PlaneSource {
    return lruCached(frames, keyOf(steps), keptViews, () => {
      if (steps.length === 0) return analysisCopy()
      const rest = steps.slice(-1)
      const before = frameAfter(steps.slice(0, -1))
      return playedOut(rest).every((step) => step.effect.kind === 'none')
        ? before
        : renderFrame(kernels, planRender(before, rest, 'preview'))
    })
  }

  return {
    copy: (steps) =>
      lruCached(copies, keyOf(steps), keptViews, () => {
        const { size, planes } = renderProxy(kernels, frameAfter(steps), 1)
        return { size, planes }
      }),
    patches: (steps, size) =>
      lruCached(pieces, keyOf(steps), keptViews, () => {
        const plan = planRender(source, steps, 'full')
        return patchRects(size).map((rect) => renderPatch(kernels, plan, rect))
      }),
  }
}

import type { Kernels } from '@kernels/binding'
import { clipRect, longEdge, type Rect, type Size, scaleSize } from '@/base/geometry'
import { lruCached } from '@/base/lru-cache'
import { numberAt } from '@/base/numbers'
import type { LinearPicture } from '@/pixels/linear-picture'
import { areaCopy, isEightBit } from './area-copy'
import { planRender } from './plan'
import { renderFrame, renderPatch, renderProxy } from './render'
import { keyOf, playedOut, type ResolvedStep, type Sampler } from './resolve'
import { fullSizeOf, type PlaneSource, type Source } from './source'

/** Long edge of the copy that pictures are measured on: the same for preview and run, so both find the same. */
const analysisEdge = 512

/** Full-size pieces lie on a grid of this many by this many, each this long an edge. */
const patchesAcross = 4
const patchEdge = 128

/** Edge of the blocks that JPEG transforms (ITU-T T.81). */
const jpegBlock = 8
/**
 * Pieces begin so many pixels behind an even place, in turn: blocks that coincide with JPEG's hold zeros where noise was rounded away. On
 * copies of half and a quarter of the size they begin at other places of its blocks, too.
 */
const phases = [3, 13, 21, 29, 5, 27, 11, 19] as const

/** Evenly spread squares, the same for every picture of a size. `onGrid`: as at first, wherever they come to lie. */
function patchRects(size: Size, onGrid: boolean): Rect[] {
  const place = (index: number, whole: number, phase: number): number => {
    const middle = Math.max(0, Math.round(((index + 0.5) / patchesAcross) * whole - patchEdge / 2))
    if (onGrid) return middle
    const wanted = Math.floor(middle / jpegBlock) * jpegBlock + phase
    // Whole blocks back where it would reach over the end.
    const over = Math.max(0, Math.ceil((wanted + patchEdge - whole) / jpegBlock))
    return Math.max(0, wanted - over * jpegBlock)
  }
  return Array.from({ length: patchesAcross ** 2 }, (_, i) => {
    const [column, row] = [i % patchesAcross, Math.floor(i / patchesAcross)]
    const phase = (turn: number): number => numberAt(phases, (column + turn * row) % phases.length)
    return clipRect(
      {
        x: place(column, size.width, phase(3)),
        y: place(row, size.height, phase(5)),
        width: patchEdge,
        height: patchEdge,
      },
      size,
    )
  })
}

/** Views kept: going back and forth between a few beads measures nothing twice. */
const keptViews = 8

/**
 * A place among the steps: the last frame that took neighbours or another size, and the steps since, which treat every pixel by itself. They
 * run together, as they do when the picture is rendered, from that frame on: so a copy depends on its steps alone, whatever was asked before.
 */
interface Place {
  readonly frame: PlaneSource
  readonly since: readonly ResolvedStep[]
}

/**
 * Looks at a picture after some of its steps, on a small copy, area-averaged, in linear light. Asked twice for the same, it gives the
 * same objects.
 */
export function createSampler(kernels: Kernels, source: Source): Sampler {
  const places = new Map<string, Place>()
  const copies = new Map<string, LinearPicture>()
  const pieces = new Map<string, readonly LinearPicture[]>()
  const analysisCopy = (): PlaneSource => {
    const scale = analysisEdge / longEdge(source.size)
    if (scale < 1 && isEightBit(source)) return areaCopy(kernels, source, scaleSize(source.size, scale))
    return renderProxy(kernels, source, scale, 'area')
  }

  /** The longest run of steps that has been seen is gone on from. */
  function placeAfter(steps: readonly ResolvedStep[]): Place {
    return lruCached(places, keyOf(steps), keptViews, () => {
      const last = steps.at(-1)
      if (!last) return { frame: analysisCopy(), since: [] }
      const before = placeAfter(steps.slice(0, -1))
      if (playedOut([last]).every((step) => step.effect.kind === 'none')) return before
      const since = [...before.since, last]
      const plan = planRender(before.frame, since, 'preview')
      const treatsPixelsApart = plan.stages.every(({ work }) => work.kind === 'points')
      return treatsPixelsApart ? { ...before, since } : { frame: renderFrame(kernels, plan), since: [] }
    })
  }

  const copy: Sampler['copy'] = (steps) =>
    lruCached(copies, keyOf(steps), keptViews, () => {
      const { frame, since } = placeAfter(steps)
      const isThere = since.length === 0 && frame.domain === 'linear'
      const { size, planes } = isThere ? frame : renderFrame(kernels, planRender(frame, since, 'preview'), 'linear')
      return { size, planes, kernels }
    })
  // A smaller copy has no noise left to measure.
  if (longEdge(source.size) < longEdge(fullSizeOf(source))) return { copy }
  return {
    copy,
    patches: (steps, size, { onGrid = false } = {}) =>
      lruCached(pieces, `${onGrid} ${keyOf(steps)}`, keptViews, () => {
        const plan = planRender(source, steps, 'full')
        return patchRects(size, onGrid).map((rect) => renderPatch(kernels, plan, rect))
      }),
  }
}

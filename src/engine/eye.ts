import type { Kernels } from '@kernels/binding'
import { clipRect, longEdge, type Rect, type Size } from '@/core/geometry'
import type { LinearPicture } from '@/core/linear-picture'
import { planRender } from './plan'
import { renderFrame, renderPatch, renderProxy } from './render'
import type { Eye, ResolvedStep } from './resolve'
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

/** Measured once a source, whatever is asked of it later. */
const copies = new WeakMap<Source, PlaneSource>()

function analysisCopy(kernels: Kernels, source: Source): PlaneSource {
  const known = copies.get(source) ?? renderProxy(kernels, source, analysisEdge / longEdge(source.size), 'area')
  copies.set(source, known)
  return known
}

/** Looks at a picture after some of its steps, on a small copy, area-averaged, in linear light. */
export function createEye(kernels: Kernels, source: Source): Eye {
  let seen = { count: 0, frame: undefined as PlaneSource | undefined }
  return {
    patches: (steps, size) => {
      const plan = planRender(source, steps, 'full')
      return patchRects(size).map((rect) => renderPatch(kernels, plan, rect))
    },
    look(steps: readonly ResolvedStep[]): LinearPicture {
      const from = seen.frame ?? analysisCopy(kernels, source)
      const next = steps.slice(seen.count)
      const frame = next.some((step) => step.effect.kind !== 'none') ? renderFrame(kernels, planRender(from, next, 'preview')) : from
      seen = { count: steps.length, frame }
      const { size, planes } = renderProxy(kernels, frame, 1)
      return { size, planes }
    },
  }
}

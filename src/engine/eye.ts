import type { Kernels } from '@kernels/binding'
import { longEdge } from '@/core/geometry'
import type { LinearPicture } from '@/core/linear-picture'
import { planRender } from './plan'
import { renderFrame, renderProxy } from './render'
import type { Eye, ResolvedStep } from './resolve'
import type { PlaneSource, Source } from './source'

/** Long edge of the copy that pictures are measured on: the same for preview and run, so both find the same. */
const analysisEdge = 512

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

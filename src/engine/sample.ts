import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import { longEdge, type Size } from '@/base/geometry'
import type { Subject } from '@/macros/condition'
import type { Step } from '@/macros/step'
import type { Standing } from '@/operations'
import type { Asset } from '@/pixels/kept-file'
import type { InterleavedSource } from '@/pixels/picture'
import { type PictureTraits, traitsOf } from '@/pixels/traits'
import { layOnWhite, opacitySource, planOpacity, renderOpacity } from './opacity'
import { lastFrame, type Plan, planRender } from './plan'
import { holdFrame, renderEncoded, renderProxy } from './render'
import { type Found, keyOf, type ResolvedStep, resolveSteps } from './resolve'
import { createSampler } from './sampler'
import type { HeldSource, PlaneSource } from './source'
import { subjectCutPercent } from './subject-cut'

/** Long edge of the copy that a sample is worked on: what the operations measure pictures on, too. */
export const sampleEdge = 512

export interface StandingStep extends Standing {
  readonly stepId: string
}

export interface SamplePicture {
  readonly size: Size
  /** RGBA, opaque, sRGB. */
  readonly pixels: Uint8ClampedArray<ArrayBuffer>
  readonly steps: readonly StandingStep[]
  /** Where they were asked for. */
  readonly traits: PictureTraits | null
}

/** The frame that is held in some kernels' memory, below everything that a render needs for itself. */
interface Slot {
  readonly owner: Sample
  readonly mark: Pointer
  readonly key: string
  readonly frame: HeldSource
}
const slots = new WeakMap<Kernels, Slot>()

/** A picture reduced, to be put through steps again and again: good to judge tone, colour and crop by, not noise or sharpness. */
export class Sample {
  private readonly source: PlaneSource
  private readonly opacity: PlaneSource | undefined
  private readonly found = new Map<string, Found>()
  private before: readonly ResolvedStep[] = []

  /** @param edge the copy's long edge; pictures that are smaller stay as they are */
  constructor(
    private readonly kernels: Kernels,
    source: InterleavedSource,
    private readonly subject: Subject,
    private readonly assets: ReadonlyMap<string, Asset>,
    edge = sampleEdge,
  ) {
    const scale = Math.min(1, edge / longEdge(source.size))
    const reduced = (picture: InterleavedSource): PlaneSource => ({
      ...renderProxy(kernels, picture, scale),
      fullSize: subject.facts.size,
    })
    this.source = reduced(source)
    const opacity = opacitySource(source)
    this.opacity = opacity && reduced(opacity)
  }

  render(steps: readonly Step[], { wantsTraits = false } = {}): SamplePicture {
    const { kernels, source } = this
    const resolved = this.resolve(steps)
    const plan = this.planFromHeld(resolved)
    const pixels = renderEncoded(kernels, plan, { space: 'srgb', channels: 4, dither: false })
    if (this.opacity) layOnWhite(pixels, 4, renderOpacity(kernels, planOpacity(this.opacity, resolved, 'preview')))
    const standing = resolved.map(({ stepId, constants }, i) => ({
      stepId,
      constants,
      sizeBefore: resolved[i - 1]?.sizeAfter ?? source.fullSize,
    }))
    return { size: lastFrame(plan).size, pixels, steps: standing, traits: wantsTraits ? traitsOf(pixels, 4) : null }
  }

  /**
   * Steps that were the same the time before are not rendered again: whoever changes one step, changes it again and again. The picture
   * before it is held in the kernels' memory, where there is room for one.
   */
  private planFromHeld(resolved: readonly ResolvedStep[]): Plan {
    const { kernels, source, before } = this
    const changed = resolved.findIndex((step, i) => !before[i] || keyOf([step]) !== keyOf([before[i]]))
    this.before = resolved
    if (changed <= 0) return planRender(source, resolved, 'preview')
    const [held, rest] = [resolved.slice(0, changed), resolved.slice(changed)]
    const key = keyOf(held)
    const slot = slots.get(kernels)
    if (slot?.owner === this && slot.key === key) return planRender(slot.frame, rest, 'preview')
    if (slot) {
      // First: what fails below must not leave a frame behind that is no more.
      slots.delete(kernels)
      kernels.heap.release(slot.mark)
    }
    const mark = kernels.heap.mark()
    const frame = holdFrame(kernels, planRender(source, held, 'preview'))
    slots.set(kernels, { owner: this, mark, key, frame })
    return planRender(frame, rest, 'preview')
  }

  /** How much of the subject the steps leave outside the frame, in per cent. */
  cutPercent(steps: readonly Step[]): number {
    const copy = createSampler(this.kernels, this.source).copy([])
    return subjectCutPercent(this.kernels, copy, this.source.fullSize, this.resolve(steps))
  }

  private resolve(steps: readonly Step[]): ResolvedStep[] {
    // A reduced copy has no noise left to measure: no patches.
    const { copy } = createSampler(this.kernels, this.source)
    const { subject, assets, found } = this
    return resolveSteps(steps, this.source.fullSize, { sampler: { copy }, subject, assets, found })
  }
}

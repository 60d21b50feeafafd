import type { Kernels } from '@kernels/binding'
import { longEdge, type Size } from '@/base/geometry'
import type { Subject } from '@/macros/condition'
import type { Step } from '@/macros/step'
import type { Standing } from '@/operations'
import type { Asset } from '@/pixels/kept-file'
import type { InterleavedSource } from '@/pixels/picture'
import { type PictureTraits, traitsOf } from '@/pixels/traits'
import { layOnWhite, opacitySource, planOpacity, renderOpacity } from './opacity'
import { lastFrame, planRender } from './plan'
import { renderEncoded, renderProxy } from './render'
import { type Found, type ResolvedStep, resolveSteps } from './resolve'
import { createSampler } from './sampler'
import type { PlaneSource } from './source'
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
  readonly traits: PictureTraits
  readonly steps: readonly StandingStep[]
}

/** A picture reduced, to be put through steps again and again: good to judge tone, colour and crop by, not noise or sharpness. */
export class Sample {
  private readonly source: PlaneSource
  private readonly opacity: PlaneSource | undefined
  private readonly found = new Map<string, Found>()

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

  render(steps: readonly Step[]): SamplePicture {
    const { kernels, source } = this
    const resolved = this.resolve(steps)
    const plan = planRender(source, resolved, 'preview')
    const pixels = renderEncoded(kernels, plan, { space: 'srgb', channels: 4, dither: false })
    if (this.opacity) layOnWhite(pixels, 4, renderOpacity(kernels, planOpacity(this.opacity, resolved, 'preview')))
    const standing = resolved.map(({ stepId, constants }, i) => ({
      stepId,
      constants,
      sizeBefore: resolved[i - 1]?.sizeAfter ?? source.fullSize,
    }))
    return { size: lastFrame(plan).size, pixels, traits: traitsOf(pixels, 4), steps: standing }
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

import type { Kernels } from '@kernels/binding'
import type { Size } from '@/base/geometry'
import { layOnWhite, opacitySource, planOpacity, renderOpacity } from '@/engine/opacity'
import { lastFrame, planRender } from '@/engine/plan'
import { renderEncoded, renderProxy } from '@/engine/render'
import { type Found, resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import type { PlaneSource } from '@/engine/source'
import type { Step } from '@/macros/step'
import type { Asset } from '@/pixels/kept-file'
import { type PictureTraits, traitsOf } from '@/pixels/traits'
import type { FetchedPicture } from './loading'

/** Long edge of the copy that a sample is worked on: what the operations measure pictures on, too. */
export const sampleEdge = 512

export interface SamplePicture {
  readonly size: Size
  /** RGBA, opaque, sRGB. */
  readonly pixels: Uint8ClampedArray<ArrayBuffer>
  readonly traits: PictureTraits
}

/** One picture of the tray, reduced: good to judge tone, colour and crop by, not noise or sharpness. */
export class Sample {
  private readonly source: PlaneSource
  private readonly opacity: PlaneSource | undefined
  private readonly found = new Map<string, Found>()

  constructor(
    private readonly kernels: Kernels,
    { source, facts }: FetchedPicture,
    private readonly subject: { readonly facts: FetchedPicture['facts']; readonly name: string },
    private readonly assets: ReadonlyMap<string, Asset>,
  ) {
    const reduced = (picture: FetchedPicture['source']): PlaneSource => ({ ...renderProxy(kernels, picture, 1), fullSize: facts.size })
    this.source = reduced(source)
    const opacity = opacitySource(source)
    this.opacity = opacity && reduced(opacity)
  }

  render(steps: readonly Step[]): SamplePicture {
    const { kernels, source } = this
    // A reduced copy has no noise left to measure: no patches.
    const { copy } = createSampler(kernels, source)
    const resolved = resolveSteps(steps, source.fullSize, {
      sampler: { copy },
      subject: this.subject,
      assets: this.assets,
      found: this.found,
    })
    const plan = planRender(source, resolved, 'preview')
    const pixels = renderEncoded(kernels, plan, { space: 'srgb', channels: 4, dither: false })
    if (this.opacity) layOnWhite(pixels, 4, renderOpacity(kernels, planOpacity(this.opacity, resolved, 'preview')))
    return { size: lastFrame(plan).size, pixels, traits: traitsOf(pixels, 4) }
  }
}

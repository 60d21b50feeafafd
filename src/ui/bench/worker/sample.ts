import type { Kernels } from '@kernels/binding'
import { srgb8ToLab } from '@/core/colour/lab'
import type { Size } from '@/core/geometry'
import type { Asset } from '@/core/kept-file'
import { createEye } from '@/engine/eye'
import { layOnWhite, opacitySource, planOpacity, renderOpacity } from '@/engine/opacity'
import { lastFrame, planRender } from '@/engine/plan'
import { renderEncoded, renderProxy } from '@/engine/render'
import { type Found, resolveSteps } from '@/engine/resolve'
import type { PlaneSource } from '@/engine/source'
import type { Step } from '@/macro/step'
import type { FetchedPicture } from './loading'

/** Long edge of the copy that a sample is worked on: what the operations measure pictures on, too. */
export const sampleEdge = 512

/** What a finished sample looks like as a whole. */
export interface SampleLook {
  /** Means in CIE Lab. */
  readonly lightness: number
  readonly a: number
  readonly b: number
  readonly brightPercent: number
  readonly darkPercent: number
}

export interface SamplePicture {
  readonly size: Size
  /** RGBA, opaque, sRGB. */
  readonly pixels: Uint8ClampedArray<ArrayBuffer>
  readonly look: SampleLook
}

/** Every so manieth pixel is looked at. */
const lookStep = 5

/** Means and clipped shares of encoded sRGB pixels. */
export function lookOf(pixels: Uint8ClampedArray): SampleLook {
  const sums = [0, 0, 0]
  let [bright, dark, count] = [0, 0, 0]
  for (let i = 0; i < pixels.length; i += 4 * lookStep) {
    const rgb = [pixels[i] as number, pixels[i + 1] as number, pixels[i + 2] as number] as const
    const lab = srgb8ToLab([...rgb])
    for (const c of [0, 1, 2]) sums[c] = (sums[c] as number) + (lab[c] as number)
    if (Math.max(...rgb) === 255) bright++
    if (Math.max(...rgb) === 0) dark++
    count++
  }
  const [lightness = 0, a = 0, b = 0] = sums.map((sum) => sum / Math.max(1, count))
  const share = (part: number): number => (part / Math.max(1, count)) * 100
  return { lightness, a, b, brightPercent: share(bright), darkPercent: share(dark) }
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
    const { look } = createEye(kernels, source)
    const resolved = resolveSteps(steps, source.fullSize, { eye: { look }, subject: this.subject, assets: this.assets, found: this.found })
    const plan = planRender(source, resolved, 'preview')
    const pixels = renderEncoded(kernels, plan, { space: 'srgb', channels: 4, dither: false })
    if (this.opacity) layOnWhite(pixels, 4, renderOpacity(kernels, planOpacity(this.opacity, resolved, 'preview')))
    return { size: lastFrame(plan).size, pixels, look: lookOf(pixels) }
  }
}

import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import { longEdge, type Size } from '@/base/geometry'
import type { Subject } from '@/macros/condition'
import type { Step } from '@/macros/step'
import type { Operation, Standing } from '@/operations'
import type { Asset } from '@/pixels/kept-file'
import type { InterleavedSource } from '@/pixels/picture'
import { type PictureTraits, traitsOf } from '@/pixels/traits'
import { layOnWhite, opacitySource, planOpacity, renderOpacity } from './opacity'
import { lastFrame, type Plan, planRender } from './plan'
import { drawQuickly, inPalette, isByColourAlone, type PalettePicture } from './quick-colours'
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
  /** How many times larger it is to be shown: made in haste, it is smaller than it will be. */
  readonly enlarged?: number
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
  /** Of the steps that it is behind. */
  readonly count: number
  readonly frame: HeldSource
  palette?: PalettePicture
}
const slots = new WeakMap<Kernels, Slot>()

/** A picture reduced, to be put through steps again and again: good to judge tone, colour and crop by, not noise or sharpness. */
export class Sample {
  /** Long edge of the copy that it is worked on. */
  readonly edge: number
  private readonly source: PlaneSource
  private readonly opacity: PlaneSource | undefined
  private before: readonly ResolvedStep[] = []
  /** Steps that were the same in the last two renders that differed. */
  private same = 0

  /**
   * @param maxEdge the copy's long edge; pictures that are smaller stay as they are
   * @param found what steps found on the picture, where another sample of it knows that already
   */
  constructor(
    private readonly kernels: Kernels,
    source: InterleavedSource,
    private readonly subject: Subject,
    private readonly assets: ReadonlyMap<string, Asset>,
    maxEdge = sampleEdge,
    readonly found = new Map<string, Found>(),
  ) {
    const scale = Math.min(1, maxEdge / longEdge(source.size))
    const reduced = (picture: InterleavedSource): PlaneSource => ({
      ...renderProxy(kernels, picture, scale),
      fullSize: subject.facts.size,
    })
    this.source = reduced(source)
    this.edge = longEdge(this.source.size)
    const opacity = opacitySource(source)
    this.opacity = opacity && reduced(opacity)
  }

  render(steps: readonly Step[], { wantsTraits = false } = {}): SamplePicture {
    const { kernels } = this
    const resolved = this.resolve(steps)
    const plan = this.planFromHeld(resolved)
    const pixels = renderEncoded(kernels, plan, { space: 'srgb', channels: 4, dither: false })
    return { ...this.finished(resolved, plan, pixels), traits: wantsTraits ? traitsOf(pixels, 4) : null }
  }

  /**
   * Nearly the same in a fraction of the time, where all that has changed since the time before is what each colour becomes. For moments
   * in which one change follows another: `render` gives the true picture.
   */
  renderQuickly(steps: readonly Step[]): SamplePicture | undefined {
    const { kernels, source } = this
    const resolved = this.resolve(steps)
    this.compare(resolved)
    if (this.same === 0 || !isByColourAlone(planRender(source, resolved.slice(this.same), 'preview'))) return undefined
    const slot = this.heldFor(resolved) ?? this.held(resolved.slice(0, this.same))
    const rest = resolved.slice(slot.count)
    slot.palette ??= inPalette(kernels, slot.frame)
    const pixels = drawQuickly(kernels, slot.palette, rest)
    return { ...this.finished(resolved, planRender(slot.frame, rest, 'preview'), pixels), traits: null }
  }

  /** Holds the picture as it is before what only changes colours at the end, so that changing that is quick the first time, too. */
  prepare(steps: readonly Step[]): void {
    // What was changed last stays held: it is likely to be changed again.
    if (slots.get(this.kernels)?.owner === this) return
    const resolved = this.resolve(steps)
    const count = resolved.findLastIndex((step) => !isByColourAlone(planRender(this.source, [step], 'preview'))) + 1
    if (count === 0) return
    const slot = this.held(resolved.slice(0, count))
    slot.palette ??= inPalette(this.kernels, slot.frame)
  }

  private finished(resolved: readonly ResolvedStep[], plan: Plan, pixels: Uint8ClampedArray<ArrayBuffer>): Omit<SamplePicture, 'traits'> {
    const { kernels, source } = this
    if (this.opacity) layOnWhite(pixels, 4, renderOpacity(kernels, planOpacity(this.opacity, resolved, 'preview')))
    const steps = resolved.map(({ stepId, constants }, i) => ({
      stepId,
      constants,
      sizeBefore: resolved[i - 1]?.sizeAfter ?? source.fullSize,
    }))
    return { size: lastFrame(plan).size, pixels, steps }
  }

  private compare(resolved: readonly ResolvedStep[]): void {
    const key = (step: ResolvedStep | undefined): string => (step ? keyOf([step]) : '')
    const { before } = this
    const longer = resolved.length > before.length ? resolved : before
    const changed = longer.findIndex((_, i) => key(resolved[i]) !== key(before[i]))
    if (changed >= 0) this.same = changed
    this.before = resolved
  }

  /** Steps that were the same the time before are not rendered again: whoever changes one step, changes it again and again. */
  private planFromHeld(resolved: readonly ResolvedStep[]): Plan {
    this.compare(resolved)
    if (this.same === 0) return planRender(this.source, resolved, 'preview')
    const slot = this.heldFor(resolved) ?? this.held(resolved.slice(0, this.same))
    return planRender(slot.frame, resolved.slice(slot.count), 'preview')
  }

  /** What is held already, if it comes before all that changed, and no more than colours are to be changed behind it. */
  private heldFor(resolved: readonly ResolvedStep[]): Slot | undefined {
    const slot = slots.get(this.kernels)
    if (slot?.owner !== this || slot.count > this.same || slot.key !== keyOf(resolved.slice(0, slot.count))) return undefined
    return isByColourAlone(planRender(slot.frame, resolved.slice(slot.count), 'preview')) ? slot : undefined
  }

  /** The picture after the steps, held in the kernels' memory, where there is room for one. */
  private held(steps: readonly ResolvedStep[]): Slot {
    const { kernels, source } = this
    const key = keyOf(steps)
    const known = slots.get(kernels)
    if (known?.owner === this && known.key === key) return known
    if (known) {
      // First: what fails below must not leave a frame behind that is no more.
      slots.delete(kernels)
      kernels.heap.release(known.mark)
    }
    const mark = kernels.heap.mark()
    const frame = holdFrame(kernels, planRender(source, steps, 'preview'))
    const slot: Slot = { owner: this, mark, key, count: steps.length, frame }
    slots.set(kernels, slot)
    return slot
  }

  /** What an operation that stood behind the steps would measure on the picture. */
  measure(steps: readonly Step[], operation: Operation): readonly number[] | undefined {
    return operation.measure?.(createSampler(this.kernels, this.source).copy(this.resolve(steps)))
  }

  /** How much of the subject the steps leave outside the frame, in per cent. */
  cutPercent(steps: readonly Step[]): number {
    const copy = () => createSampler(this.kernels, this.source).copy([])
    return subjectCutPercent(this.kernels, copy, this.source.fullSize, this.resolve(steps))
  }

  private resolve(steps: readonly Step[]): ResolvedStep[] {
    // A reduced copy has no noise left to measure: no patches.
    const { copy } = createSampler(this.kernels, this.source)
    const { subject, assets, found } = this
    return resolveSteps(steps, this.source.fullSize, { sampler: { copy }, subject, assets, found })
  }
}

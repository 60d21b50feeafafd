import type { Kernels } from '@kernels/binding'
import { formatSize } from '@/base/format'
import { areaOf, longEdge, type Rect, type Size, wholeRect } from '@/base/geometry'
import { lruCached } from '@/base/lru-cache'
import { renderLimit } from '@/engine/limit-view'
import { layOnWhite, opacitySource, planOpacity, renderOpacity } from '@/engine/opacity'
import { firstDomain, keepable, lastFrame, type Plan, planRender } from '@/engine/plan'
import { drawQuickly, inPalette, isByColourAlone, type PalettePicture } from '@/engine/quick-colours'
import { renderEncoded, renderFrame, renderProxy } from '@/engine/render'
import {
  constantsOf,
  type Found,
  finalSize,
  keyOf,
  playedOut,
  type ResolvedStep,
  resolveSteps,
  type Sampler,
  type Sight,
} from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { fullSizeOf, type PlaneSource } from '@/engine/source'
import type { Subject } from '@/macros/condition'
import type { Step } from '@/macros/step'
import { findOperation } from '@/operations'
import type { Asset } from '@/pixels/kept-file'
import type { InterleavedSource } from '@/pixels/picture'
import { BufferPool } from './buffer-pool'
import { countPixels } from './count-pixels'
import { partBefore, takesLimit } from './limit-mask'
import { type LowerPart, screen } from './lower-part'
import type { BeadPicture, Histogram, LimitMask, RenderedView, RenderRequest, StripPicture, StripRequest, View } from './protocol'
import { StepTimes } from './step-times'

/** The most pixels a preview computes; more would not keep up with the pointer. */
const maxProxyPixels = 2.5e6
/** A reduced picture no larger than this is kept as floats for the 100 % view: 96 MB. */
const maxKeptPixels = 8e6
/** Frames kept before the step in focus: going back and forth between a few beads stays quick. */
const keptFrames = 4
const beadEdge = 176
const countedEdge = 400
/** Smaller pictures are drawn in one piece: two take longer. */
const minShared = 4e5

/** The picture before a step, and what was made of it. */
interface KeptFrame {
  frame: PlaneSource
  histogram: Histogram | null
  palette?: PalettePicture
}

type Drawn = Pick<RenderedView, 'pixels' | 'size' | 'mask' | 'rect' | 'histogram' | 'clipped' | 'isQuick'>
/** What was counted of a picture, and for which steps. */
type CountedFor = Pick<RenderedView, 'histogram' | 'clipped'> & { readonly key: string }
/** A view before it is known whether a step is missing from it. */
export type SoundView = Omit<RenderedView, 'problems'>

/**
 * One open picture: its full source, its reduced copies, and frames in front of the step being edited. Of a smaller copy it draws fitted
 * pictures and beads alone.
 */
export class PictureSession {
  private readonly proxies = new Map<string, PlaneSource>()
  private readonly frames = new Map<string, KeptFrame>()
  private lookedAt = ''
  private lastCounted: CountedFor | undefined
  /** What the render under way spent on the frame before the step in focus: the next one with the same focus does not. */
  private preparedMs = 0
  private readonly fullFrames = new Map<string, PlaneSource>()
  private readonly beads = new Map<string, { frame: PlaneSource; picture: BeadPicture }>()

  private readonly sampler: Sampler
  private readonly found = new Map<string, Found>()
  /** A picture of the opacity, if the source is not opaque: the bench shows it on white. */
  private readonly opacity: InterleavedSource | undefined
  private readonly pool = new BufferPool()
  readonly times: StepTimes
  private readonly fullSize: Size

  constructor(
    private readonly kernels: Kernels,
    private readonly source: InterleavedSource,
    private readonly subject?: Subject,
    /** Files kept with macros, by hash; filled as they are fetched. */
    private readonly assets: ReadonlyMap<string, Asset> = new Map(),
    private readonly lowerPart?: LowerPart,
  ) {
    this.fullSize = fullSizeOf(source)
    this.sampler = createSampler(kernels, source)
    this.opacity = opacitySource(source)
    this.times = new StepTimes(kernels, source, { subject, assets })
  }

  /** Takes back the pixels of a view that is not needed any more. */
  giveBack(buffer: ArrayBuffer): void {
    this.pool.keep(buffer)
  }

  private sight(): Sight {
    return { sampler: this.sampler, subject: this.subject, assets: this.assets, found: this.found }
  }

  async render(request: RenderRequest): Promise<SoundView> {
    const started = performance.now()
    this.preparedMs = 0
    const steps = resolveSteps(request.steps, this.fullSize, this.sight())
    const fullSize = finalSize(steps, this.fullSize)
    const { view } = request
    const drawn = await (view.kind === 'fit' ? this.fit(steps, request, fullSize, view) : this.region(steps, request, fullSize, view))
    return {
      id: request.id,
      path: request.path,
      fullSize,
      sizeBeforeFocus: finalSize(steps.slice(0, request.focus), this.fullSize),
      found: foundWords(steps, this.fullSize),
      measured: this.measured(steps, request.focus),
      place: placeOf(steps[request.focus]),
      ...drawn,
      milliseconds: performance.now() - started - this.preparedMs,
    }
  }

  private measured(steps: readonly ResolvedStep[], focus: number): readonly number[] | null {
    const measure = findOperation(steps[focus]?.operation ?? '')?.measure
    return measure ? measure(this.sampler.copy(steps.slice(0, focus))) : null
  }

  private async fit(
    steps: readonly ResolvedStep[],
    request: RenderRequest,
    fullSize: Size,
    view: Extract<View, { kind: 'fit' }>,
  ): Promise<Drawn> {
    const { heldDensity } = request
    const scale = this.proxyScale(steps, fullSize, view)
    const focus = Math.min(Math.max(request.focus, 0), steps.length)
    const kept = this.frameBefore(steps.slice(0, focus), scale, request.histogram)
    const rest = steps.slice(focus)
    if (heldDensity !== undefined) this.readyFor(kept, rest)
    const plan = planRender(kept.frame, rest, 'preview')
    const isQuick = heldDensity !== undefined && isByColourAlone(plan)
    if (heldDensity !== undefined && heldDensity < 1 && !isQuick) {
      const [widthPx, heightPx] = [view.widthPx * heldDensity, view.heightPx * heldDensity]
      return this.fit(steps, { ...request, heldDensity: 1 }, fullSize, { ...view, widthPx, heightPx })
    }
    const { size } = lastFrame(plan)
    const pixels = this.pool.take(size.width * size.height * screen.channels)
    if (isQuick) drawQuickly(this.kernels, this.palette(kept), rest, pixels)
    else await this.draw(plan, kept.frame, request, steps, focus, pixels)
    if (this.opacity) this.showOpacity(pixels, planOpacity(this.proxy(scale, this.opacity), steps, 'preview'))
    const counted = countPixels(pixels, size)
    return {
      pixels,
      size,
      mask: this.mask(request, planRender(kept.frame, [], 'preview'), steps),
      rect: wholeRect(fullSize),
      histogram: kept.histogram && { before: kept.histogram, after: counted.histogram },
      clipped: counted.clipped,
      isQuick,
    }
  }

  /** In two halves at the same time. */
  private async draw(
    plan: Plan,
    frame: PlaneSource,
    request: RenderRequest,
    steps: readonly ResolvedStep[],
    focus: number,
    pixels: Uint8ClampedArray<ArrayBuffer>,
  ): Promise<void> {
    const { width, height } = lastFrame(plan).size
    const { lowerPart } = this
    if (!lowerPart || width * height < minShared) {
      renderEncoded(this.kernels, plan, screen, wholeRect({ width, height }), pixels)
      return
    }
    const top = Math.ceil(height / 2)
    const below: Rect = { x: 0, y: top, width, height: height - top }
    const lower = lowerPart
      .draw(frame, {
        steps: request.steps.slice(focus),
        size: finalSize(steps.slice(0, focus), this.fullSize),
        subject: this.subject,
        constants: constantsOf(steps.slice(focus)),
        rect: below,
      })
      .catch(() => undefined)
    const cut = width * top * screen.channels
    renderEncoded(this.kernels, plan, screen, { x: 0, y: 0, width, height: top }, pixels.subarray(0, cut))
    const drawn = await lower
    if (!drawn) renderEncoded(this.kernels, plan, screen, below, pixels.subarray(cut))
    else {
      pixels.set(drawn, cut)
      lowerPart.giveBack(drawn)
    }
  }

  /** Keeps the frame in the domain that the step in focus works in: a held control does not take it there with every picture. */
  private readyFor(kept: KeptFrame, rest: readonly ResolvedStep[]): void {
    const domain = firstDomain(playedOut(rest).map(({ effect }) => effect))
    if (domain === kept.frame.domain) return
    const started = performance.now()
    kept.frame = renderFrame(this.kernels, planRender(kept.frame, [], 'preview'), domain)
    this.preparedMs += performance.now() - started
  }

  /** The frame before the step in focus in a palette of its own. */
  private palette(kept: KeptFrame): PalettePicture {
    const started = performance.now()
    kept.palette ??= inPalette(this.kernels, kept.frame)
    this.preparedMs += performance.now() - started
    return kept.palette
  }

  private async region(
    steps: readonly ResolvedStep[],
    request: RenderRequest,
    fullSize: Size,
    view: Extract<View, { kind: 'region' }>,
  ): Promise<Drawn> {
    const rect = regionRect(fullSize, view)
    const pixels = renderEncoded(this.kernels, this.truePlan(steps, request.focus), screen, rect)
    if (this.opacity) this.showOpacity(pixels, planOpacity(this.opacity, steps, 'full'), rect)
    const { histogram, clipped } = await this.counted(steps, request, fullSize)
    const before = steps.slice(0, request.focus)
    const from = partBefore(rect, fullSize, finalSize(before, this.fullSize))
    const mask = request.mask ? this.mask(request, planRender(this.source, before, 'full'), steps, from) : null
    return { pixels, size: { width: rect.width, height: rect.height }, mask, rect, histogram, clipped, isQuick: false }
  }

  /** What is counted is always the whole picture; a small copy has the same shape. It stays while a person only looks elsewhere in it. */
  private async counted(steps: readonly ResolvedStep[], request: RenderRequest, fullSize: Size): Promise<CountedFor> {
    const key = `${request.focus} ${request.histogram} ${keyOf(steps)}`
    if (this.lastCounted?.key === key) return this.lastCounted
    const view = { kind: 'fit', widthPx: countedEdge, heightPx: countedEdge } as const
    const { histogram, clipped } = await this.fit(steps, { ...request, mask: false, heldDensity: undefined }, fullSize, view)
    const counted = { key, histogram, clipped }
    this.lastCounted = counted
    return counted
  }

  /** Where the step in focus applies, drawn on the picture before it; of a step that can take a limit. */
  private mask(request: RenderRequest, before: Plan, steps: readonly ResolvedStep[], rect?: Rect): LimitMask | null {
    const step = request.mask ? steps[request.focus] : undefined
    if (!step || step.limit.length === 0 || !(step.inner || takesLimit(step.effect))) return null
    const { width, height } = rect ?? wholeRect(lastFrame(before).size)
    return { values: renderLimit(this.kernels, before, step.limit, rect), size: { width, height } }
  }

  /** The finished picture at its full size. Behind a reduction, a picture before the step in focus is kept whole: it is small. */
  private truePlan(steps: readonly ResolvedStep[], focus: number): Plan {
    const before = keepable(steps.slice(0, focus))
    const { width, height } = finalSize(before, this.fullSize)
    const isReduced = playedOut(before).some(({ effect }) => effect.kind === 'resample')
    const key = keyOf(before)
    // A first look computes its own part alone; whoever looks again will look on.
    const looksAgain = this.lookedAt === key
    this.lookedAt = key
    if (!isReduced || !looksAgain || width * height > maxKeptPixels) return planRender(this.source, steps, 'full')
    const frame = lruCached(this.fullFrames, key, 1, () => renderFrame(this.kernels, planRender(this.source, before, 'full')))
    return planRender(frame, steps.slice(before.length), 'full')
  }

  /** How far the source may be reduced so that the finished picture still fills the view. */
  private proxyScale(steps: readonly ResolvedStep[], fullSize: Size, view: { widthPx: number; heightPx: number }): number {
    const shown = Math.min(1, view.widthPx / fullSize.width, view.heightPx / fullSize.height)
    let density = 1
    const played = playedOut(steps)
    for (const [index, step] of played.entries()) {
      const before = played[index - 1]?.sizeAfter ?? this.fullSize
      if (step.effect.kind === 'resample') density *= longEdge(step.sizeAfter) / longEdge(before)
    }
    const max = Math.sqrt(maxProxyPixels / areaOf(this.fullSize))
    return Math.min(1, max, shown * density)
  }

  /**
   * @param scale its pixels per full-size pixel
   * @param of the picture, or that of its opacity
   */
  private proxy(scale: number, of = this.source): PlaneSource {
    const key = `${of === this.source} ${scale.toFixed(5)}`
    const density = longEdge(of.size) / longEdge(this.fullSize)
    return lruCached(this.proxies, key, 3, () => renderProxy(this.kernels, of, scale / density))
  }

  private showOpacity(pixels: Uint8ClampedArray, plan: Plan, rect?: Rect): void {
    layOnWhite(pixels, screen.channels, renderOpacity(this.kernels, plan, rect))
  }

  private frameBefore(steps: readonly ResolvedStep[], scale: number, withHistogram: boolean): KeptFrame {
    const key = `${scale.toFixed(5)} ${keyOf(steps)}`
    const started = performance.now()
    const kept = lruCached(this.frames, key, keptFrames, (): KeptFrame => {
      const proxy = this.proxy(scale)
      const frame = playedOut(steps).every((step) => step.effect.kind === 'none')
        ? proxy
        : renderFrame(this.kernels, planRender(proxy, steps, 'preview'))
      return { frame, histogram: null }
    })
    if (withHistogram && !kept.histogram) {
      kept.histogram = countPixels(renderEncoded(this.kernels, planRender(kept.frame, [], 'preview'), screen), kept.frame.size).histogram
    }
    this.preparedMs += performance.now() - started
    return kept
  }

  /** One region as each variant of the steps makes it. */
  strip({ variants, focus, view }: StripRequest): StripPicture[] {
    return variants.map((variant) => {
      const steps = resolveSteps(variant, this.fullSize, this.sight())
      const rect = regionRect(finalSize(steps, this.fullSize), view)
      const pixels = renderEncoded(this.kernels, this.truePlan(steps, focus), screen, rect)
      return { pixels, size: { width: rect.width, height: rect.height } }
    })
  }

  /** A small picture of the source and of the result after every step. */
  beadPictures(steps: readonly Step[]): BeadPicture[] {
    const resolved = resolveSteps(steps, this.fullSize, this.sight())
    const pictures: BeadPicture[] = []
    let key = 'source'
    let before = lruCached(this.beads, key, Number.POSITIVE_INFINITY, () =>
      this.bead('source', this.proxy(beadEdge / longEdge(this.fullSize))),
    )
    pictures.push(before.picture)
    const used = new Set([key])
    for (const step of resolved) {
      key += ` ${keyOf([step])}`
      const input = before.frame
      before = lruCached(this.beads, key, Number.POSITIVE_INFINITY, () =>
        this.bead(step.stepId, renderFrame(this.kernels, planRender(input, [step], 'preview'))),
      )
      used.add(key)
      pictures.push({ ...before.picture, stepId: step.stepId })
    }
    for (const old of this.beads.keys()) if (!used.has(old)) this.beads.delete(old)
    return pictures
  }

  private bead(stepId: string, frame: PlaneSource): { frame: PlaneSource; picture: BeadPicture } {
    const pixels = renderEncoded(this.kernels, planRender(frame, [], 'preview'), screen)
    return { frame, picture: { stepId, size: frame.size, pixels } }
  }
}

/** The window of true pixels around a point, kept inside the picture. */
export function regionRect(fullSize: Size, view: Extract<View, { kind: 'region' }>): Rect {
  const width = Math.min(fullSize.width, Math.max(1, Math.round(view.widthPx)))
  const height = Math.min(fullSize.height, Math.max(1, Math.round(view.heightPx)))
  const place = (centre: number, whole: number, part: number): number =>
    Math.min(Math.max(0, Math.round(centre * whole - part / 2)), whole - part)
  return { x: place(view.centreX, fullSize.width, width), y: place(view.centreY, fullSize.height, height), width, height }
}

function placeOf(step: ResolvedStep | undefined): readonly number[] | null {
  const place = step?.constants.place
  return Array.isArray(place) && place.length === 4 ? place : null
}

/** What steps found on the picture, and what size it has behind those that change it. */
function foundWords(steps: readonly ResolvedStep[], fullSize: Size): Record<string, string> {
  return Object.fromEntries(
    steps.flatMap(({ stepId, operation, constants, applies, sizeAfter }, i) => {
      if (!applies) return [[stepId, 'not for this picture']]
      const words = findOperation(operation)?.describeConstants?.(constants)
      const before = steps[i - 1]?.sizeAfter ?? fullSize
      const isSame = before.width === sizeAfter.width && before.height === sizeAfter.height
      return words || !isSame ? [[stepId, words ?? `${formatSize(sizeAfter)} px after it`]] : []
    }),
  )
}

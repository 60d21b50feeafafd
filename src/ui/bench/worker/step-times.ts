import type { Kernels } from '@kernels/binding'
import { areaOf, type Rect, type Size } from '@/base/geometry'
import { lastFrame, planRender } from '@/engine/plan'
import { walk } from '@/engine/render'
import { type ResolvedStep, resolveSteps, type Sight } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import type { Step } from '@/macros/step'
import type { InterleavedSource } from '@/pixels/picture'

/** Pixels of the source in the part that is timed: few enough to be quick, enough that its edges hardly count. */
const timedPixels = 1e6
/** A kernel's first run may be its slowest by far: the quickest of so many counts. */
const goes = 2

/**
 * What a picture takes with more and more of its steps, on one thread and without reading and writing the file. Measuring is timed as it is
 * done for a run; rendering on a part in the middle of the picture, for the whole of it.
 */
export class StepTimes {
  private key = ''
  private sight: Sight = {}
  private measuredMs = 0

  constructor(
    private readonly kernels: Kernels,
    private readonly source: InterleavedSource,
    private readonly about: Pick<Sight, 'subject' | 'assets'>,
  ) {}

  /** Milliseconds with the first `count` steps; asked with none first, then with one more each time. */
  withFirst(count: number, steps: readonly Step[]): number {
    const key = JSON.stringify(steps)
    if (count === 0 || key !== this.key) this.begin(key)
    const started = performance.now()
    const resolved = resolveSteps(steps.slice(0, count), this.source.size, this.sight)
    this.measuredMs += performance.now() - started
    return this.measuredMs + this.renderingMs(resolved)
  }

  /** What the bench has found on the picture is not taken: a run has to find it, too. */
  private begin(key: string): void {
    this.key = key
    this.measuredMs = 0
    this.sight = { ...this.about, sampler: createSampler(this.kernels, this.source), found: new Map() }
  }

  private renderingMs(steps: readonly ResolvedStep[]): number {
    const plan = planRender(this.source, steps, 'full')
    const { size } = lastFrame(plan)
    const part = middleOf(size, Math.min(1, timedPixels / areaOf(this.source.size)))
    const taken = Array.from({ length: goes }, () => {
      const started = performance.now()
      walk(this.kernels, plan, part, () => undefined)
      return performance.now() - started
    })
    return (Math.min(...taken) * areaOf(size)) / areaOf(part)
  }
}

/** The middle part of a picture that covers a share of it. */
function middleOf({ width, height }: Size, share: number): Rect {
  const [wide, high] = [width, height].map((side) => Math.max(1, Math.round(side * Math.sqrt(share)))) as [number, number]
  return { x: (width - wide) >> 1, y: (height - high) >> 1, width: wide, height: high }
}

import type { Kernels } from '@kernels/binding'
import { areaOf, wholeRect } from '@/base/geometry'
import { lastFrame, planRender } from '@/engine/plan'
import { stripEncoder, stripRows, walk } from '@/engine/render'
import { type ResolvedStep, resolveSteps, type Sight } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import type { Step } from '@/macros/step'
import type { InterleavedSource } from '@/pixels/picture'

/** Pixels of the source in the rows that are timed, at least: few enough to be quick, enough that a clock can tell. */
const timedPixels = 1e6
/** What takes less is timed again and again until it has taken so long; the quickest counts. */
const longEnoughMs = 250
const asFile = { space: 'srgb', channels: 3, dither: true } as const

/**
 * What a picture takes with more and more of its steps, on one thread and without reading and writing the file. Measuring is timed as it is
 * done for a run; rendering on some rows in the middle of the picture, for the whole of it, as far as the codes of a file: if it ended where
 * a step leaves it, one step would pay for the way there, and the next one for the way back.
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

  /**
   * Strips as a run walks over them, without the first: it makes the rows around it, too, which all later ones take over from the one before.
   */
  private renderingMs(steps: readonly ResolvedStep[]): number {
    const plan = planRender(this.source, steps, 'full')
    const { size } = lastFrame(plan)
    const enough = Math.ceil((size.height * timedPixels) / areaOf(this.source.size))
    const height = Math.min(size.height, Math.max(2 * stripRows(plan, wholeRect(size)), enough))
    const rect = { x: 0, y: evenPlace(size.height - height), width: size.width, height }
    const encode = stripEncoder(this.kernels, plan, asFile, rect, new Uint8ClampedArray(areaOf(rect) * asFile.channels))
    let [quickest, all] = [Number.POSITIVE_INFINITY, 0]
    while (all < longEnoughMs) {
      const started = performance.now()
      let [from, rows, end] = [started, height, started]
      walk(this.kernels, plan, rect, (planes, y) => {
        encode(planes, y)
        end = performance.now()
        if (y === 0 && planes.height < height) [from, rows] = [end, height - planes.height]
      })
      quickest = Math.min(quickest, (end - from) / rows)
      all += end - started
    }
    return quickest * size.height
  }
}

/** Half of a length, where blocks of neighbourhood work begin. */
const evenPlace = (length: number): number => (length >> 4) << 3

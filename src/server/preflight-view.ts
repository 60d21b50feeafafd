import { AppError, reportOf } from '@/core/errors'
import type { Loop } from '@/core/loop'
import type { Context } from './context'
import type { ForeseenPicture } from './foresee'
import type { IntakeProgress } from './intake'
import { type Preflight, preflight } from './preflight'

/** A list longer than this is not looked through row by row. */
const mostShown = 5_000
/** Progress is told at most this often. */
const tellEveryMs = 150

/** A preflight as a page shows it: problems first, then the order of the run. */
export interface PreflightView extends Omit<Preflight, 'macros'> {
  readonly filesToDeliver: number
  /** Pictures beyond those in the list. */
  readonly notShown: number
}

/** One line of the answer: how far it is, and at last what was found, or why it can't be. */
export type PreflightLine =
  | { readonly progress: IntakeProgress }
  | { readonly check: PreflightView }
  | { readonly problem: ReturnType<typeof reportOf> & { readonly sentence: string } }

const urgency = ({ error, remark }: ForeseenPicture): number => (error ? 0 : remark ? 1 : 2)

function viewOf({ macros: _, pictures, ...check }: Preflight): PreflightView {
  const sorted = pictures.toSorted((a, b) => urgency(a) - urgency(b))
  return {
    ...check,
    pictures: sorted.slice(0, mostShown),
    notShown: Math.max(0, sorted.length - mostShown),
    filesToDeliver: pictures.reduce((sum, { skip, targets }) => sum + (skip ? 0 : targets.length), 0),
  }
}

/** Checks a loop and tells as it goes, as lines of JSON. Ends when nobody listens any more. */
export function streamPreflight(context: Context, loop: Loop, signal: AbortSignal): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder()
  const gone = new AbortController()
  return new ReadableStream({
    async start(controller) {
      const tell = (line: PreflightLine): void => {
        if (!gone.signal.aborted && !signal.aborted) controller.enqueue(encoder.encode(`${JSON.stringify(line)}\n`))
      }
      let toldAt = performance.now()
      const onProgress = (progress: IntakeProgress): void => {
        if (performance.now() - toldAt < tellEveryMs) return
        toldAt = performance.now()
        tell({ progress })
      }
      try {
        const check = await preflight(context, loop, {}, { signal: AbortSignal.any([signal, gone.signal]), onProgress })
        tell({ check: viewOf(check) })
      } catch (error) {
        const report = reportOf(error)
        tell({ problem: { ...report, sentence: new AppError(report.code, report.details).message } })
      }
      if (!gone.signal.aborted && !signal.aborted) controller.close()
    },
    cancel: () => gone.abort(),
  })
}

import { AppError, reportOf } from '@/base/errors'
import type { IntakeProgress } from '@/services/preflight/intake'
import type { PreflightLine, PreflightView } from '@/services/preflight/view'

export interface Watching {
  readonly signal: AbortSignal
  onProgress(progress: unknown): void
}

/** Progress is told at most this often. */
const tellEveryMs = 150

/** Checks a loop and tells as it goes, as lines of JSON. Ends when nobody listens any more. */
export function streamPreflight(check: (options: Watching) => Promise<PreflightView>, signal: AbortSignal): ReadableStream<Uint8Array> {
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
        const options = {
          signal: AbortSignal.any([signal, gone.signal]),
          onProgress: (progress: unknown) => onProgress(progress as IntakeProgress),
        }
        tell({ check: await check(options) })
      } catch (error) {
        const report = reportOf(error)
        tell({ problem: { ...report, sentence: new AppError(report.code, report.details).message } })
      }
      if (!gone.signal.aborted && !signal.aborted) controller.close()
    },
    cancel: () => gone.abort(),
  })
}

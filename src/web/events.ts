import type { Events } from '@/contract/routes'
import type { Context } from '@/services/context'
import { type RunnerState, runnerState } from '@/services/runner-watch'
import { runSummary } from '@/services/runs/summary'
import { eventsAfter, lastEventId } from '@/store/events'

/** How often the event table is looked at, and how often a sign of life goes out when nothing happens. */
const checkMs = 250
const heartbeatMs = 10_000

/** Server-sent events (WHATWG HTML, 9.2): every run that changed, as its summary; and whether the runner is there. */
export function followRuns(context: Context, signal: AbortSignal): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder()
  let last = lastEventId(context.db)
  let sent: RunnerState | undefined
  let quietSince = Date.now()
  return new ReadableStream({
    start(controller) {
      const send = <Name extends keyof Events>(event: Name, data: Events[Name]): void =>
        controller.enqueue(encoder.encode(`event: ${event}\ndata: ${JSON.stringify(data)}\n\n`))
      const check = (): void => {
        // After going back to an older copy of the database its events are counted anew.
        last = Math.min(last, lastEventId(context.db))
        const { lastId, runIds } = eventsAfter(context.db, last)
        last = lastId
        for (const id of runIds) send('run', runSummary(context, id))
        const runner = runnerState(context)
        if (JSON.stringify(runner) !== JSON.stringify(sent)) send('runner', runner)
        sent = runner
        if (runIds.length > 0) quietSince = Date.now()
        else if (Date.now() - quietSince > heartbeatMs) {
          quietSince = Date.now()
          controller.enqueue(encoder.encode(': still here\n\n'))
        }
      }
      const timer = setInterval(() => {
        try {
          check()
        } catch {
          // The database is busy or the page has gone: the next look, or the abort, settles it.
        }
      }, checkMs)
      signal.addEventListener('abort', () => {
        clearInterval(timer)
        controller.close()
      })
      check()
    },
  })
}

import { reportOf } from '@/base/errors'
import type { FromChild, ToChild } from './messages'

/** What a job can tell and hear while it is done. */
export interface JobWatcher {
  readonly signal: AbortSignal
  onProgress(progress: unknown): void
}

/** Where the parent has just gone, nobody hears it, and that is no error. */
const send = (message: FromChild): void => {
  if (process.connected) process.send?.(message, undefined, {}, () => undefined)
}

/**
 * Serves jobs from the parent until it goes away; then the process ends at once, whatever it is in the middle of: a
 * thread that hangs in native code would keep a friendly exit waiting for ever.
 * @param isSpoilt whether something was lost that this process can't get back
 */
export function serveJobs(work: (job: unknown, watcher: JobWatcher) => unknown, isSpoilt: () => boolean = () => false): void {
  const open = new Map<number, AbortController>()
  process.on('message', async (message: ToChild) => {
    if (message.type === 'cancel') {
      open.get(message.id)?.abort()
      return
    }
    const { id, job } = message
    const controller = new AbortController()
    open.set(id, controller)
    try {
      const answer = await work(job, { signal: controller.signal, onProgress: (progress) => send({ type: 'progress', id, progress }) })
      send({ type: 'answer', id, answer, spoilt: isSpoilt() })
    } catch (error) {
      send({ type: 'failed', id, report: reportOf(error), spoilt: isSpoilt() })
    } finally {
      open.delete(id)
    }
  })
  process.on('disconnect', () => process.kill(process.pid, 'SIGKILL'))
  // The parent decides when its children end; a terminal sends this to all of them.
  process.on('SIGINT', () => undefined)
  process.on('SIGTERM', () => undefined)
  send({ type: 'ready' })
}

import { reportOf } from '@/base/errors'
import type { FromChild, ToChild } from './messages'

/** What a job can tell and hear while it is done. */
export interface JobWatcher {
  readonly signal: AbortSignal
  onProgress(progress: unknown): void
  /** Whether the parent still wants what is about to be done and can't be undone. */
  mayGoOn(): Promise<boolean>
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
  const asked = new Map<number, (may: boolean) => void>()
  let questions = 0
  const ask = (id: number): Promise<boolean> =>
    new Promise((resolve) => {
      const question = ++questions
      asked.set(question, resolve)
      send({ type: 'mayGoOn', id, question })
    })
  process.on('message', async (message: ToChild) => {
    if (message.type === 'cancel') {
      open.get(message.id)?.abort()
      return
    }
    if (message.type === 'goOn') {
      asked.get(message.question)?.(message.may)
      asked.delete(message.question)
      return
    }
    const { id, job } = message
    const controller = new AbortController()
    open.set(id, controller)
    try {
      const onProgress = (progress: unknown): void => send({ type: 'progress', id, progress })
      const answer = await work(job, { signal: controller.signal, onProgress, mayGoOn: () => ask(id) })
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

import { type ChildProcess, fork } from 'node:child_process'
import { AppError } from '@/base/errors'
import type { FromChild, ToChild } from './messages'

export interface ChildOptions {
  /** The built file that the child runs. */
  readonly modulePath: string
  readonly environment?: NodeJS.ProcessEnv
  /** Objects of the child, in MB; pixels lie outside. One that wants more ends, and nothing else does. */
  readonly maxHeapMb: number
}

export interface JobOptions {
  /** A child that is silent for longer than this is taken for hanging. */
  readonly patienceMs: number
  readonly signal?: AbortSignal
  onProgress?(progress: unknown): void
  /** Asked by the job before it does what can't be undone; without it, it may. */
  readonly mayGoOn?: () => Promise<boolean>
}

/** A child that ended, or hung, with a job in its hands. */
export class ChildLostError extends Error {
  override readonly name = 'ChildLostError'
}

/** Threads that a child has for files and native code: a few may be lost before it is replaced. */
const ioThreads = 16

let lastId = 0

/** A child process that does one job at a time. */
export class Child {
  private readonly child: ChildProcess
  /** It answers no more, or should not: it must be replaced. */
  isLost = false

  constructor(
    { modulePath, environment = process.env, maxHeapMb }: ChildOptions,
    /** Called once: when it is ready (true), or when it ended before it was (false). */
    onStart: (isReady: boolean) => void,
    /** Called when it has ended or was given up, once it had been ready. */
    private readonly onLost: () => void,
  ) {
    this.child = fork(/* turbopackIgnore: true */ modulePath, [], {
      execArgv: ['--enable-source-maps', `--max-old-space-size=${maxHeapMb}`],
      env: { ...environment, UV_THREADPOOL_SIZE: String(ioThreads) },
      serialization: 'advanced',
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    })
    let isReady = false
    this.child.once('message', () => {
      isReady = true
      onStart(true)
    })
    const ended = (): void => {
      if (this.isLost) return
      this.isLost = true
      if (isReady) this.onLost()
      else onStart(false)
    }
    this.child.once('exit', ended)
    this.child.once('error', ended)
    // Nobody is kept from ending by a child.
    this.child.unref()
    this.child.channel?.unref()
  }

  /**
   * Does a job.
   * @throws ChildLostError when the child ended or was silent for too long; AppError as the job itself fails
   */
  run(job: unknown, { patienceMs, signal, onProgress, mayGoOn }: JobOptions): Promise<unknown> {
    const id = ++lastId
    const { child } = this
    return new Promise((resolve, reject) => {
      const settle = (): void => {
        clearTimeout(timer)
        signal?.removeEventListener('abort', cancel)
        child.off('message', onMessage).off('exit', onExit)
        child.channel?.unref()
      }
      const lost = (reason: string): void => {
        settle()
        this.giveUp()
        reject(new ChildLostError(reason))
      }
      const silent = (): void => lost(`no answer within ${Math.round(patienceMs / 1000)} s`)
      const onExit = (code: number | null, killedBy: string | null): void =>
        lost(killedBy === 'SIGABRT' ? 'it came to its memory limit' : `it ended with ${killedBy ?? `code ${code}`}`)
      const cancel = (): void => void child.send({ type: 'cancel', id } satisfies ToChild)
      const onMessage = (message: FromChild): void => {
        if (message.type === 'ready' || message.id !== id) return
        if (message.type === 'progress') {
          timer.refresh()
          onProgress?.(message.progress)
          return
        }
        if (message.type === 'mayGoOn') {
          void this.tell(message.question, mayGoOn)
          return
        }
        settle()
        if (message.spoilt) this.giveUp()
        if (message.type === 'answer') resolve(message.answer)
        else reject(new AppError(message.report.code, message.report.details))
      }
      const timer = setTimeout(silent, patienceMs)
      child.on('message', onMessage).on('exit', onExit)
      child.channel?.ref()
      signal?.addEventListener('abort', cancel)
      child.send({ type: 'job', id, job } satisfies ToChild, (error) => {
        if (error && !this.isLost) lost(error.message)
      })
    })
  }

  private async tell(question: number, mayGoOn: JobOptions['mayGoOn']): Promise<void> {
    // Where it can't be told, nothing is done that can't be undone.
    const may = mayGoOn ? await mayGoOn().catch(() => false) : true
    if (!this.isLost) this.child.send({ type: 'goOn', question, may } satisfies ToChild, () => undefined)
  }

  /** Ends it at once. One that a dead disk holds ends when the system lets it; nobody waits for it. */
  giveUp(): void {
    const wasLost = this.isLost
    this.isLost = true
    this.child.kill('SIGKILL')
    if (!wasLost) this.onLost()
  }
}

import { AppError } from '@/base/errors'
import { built } from '@/files/built'
import { Child, ChildLostError } from '@/processes/child'
import { log } from '@/processes/log'
import type { CallMessage, HelperCall, HelperCalls } from './calls'

/** Helpers at the same time: one that a dead disk holds up keeps nobody else waiting. */
const maxHelpers = 8
/** Those beyond this number end when they have had nothing to do for a while. */
const keptHelpers = 3
const idleMs = 30_000
/** Calls that decode whole pictures: no more at once than this, since a run needs the machine too. */
const maxDecoding = 2
/** A small picture is what somebody sees until the whole one is there: one goes beside as many whole ones. */
const small: HelperCall = 'thumbnail'
/** One that takes longer than this is a giant, or hangs: the next one does not wait for it, as long as helpers are left for other calls. */
const slowMs = 4_000
const maxHanging = maxHelpers - 2
/** How long a picture that hung is not tried again. */
const restMs = 300_000
const decodes: ReadonlySet<HelperCall> = new Set(['thumbnail', 'resultThumbnail', 'pixels', 'shownResult', 'asset', 'spread', 'proofSmall'])
const maxHeapMb = 1024
/** A helper that is silent for longer than this is taken for hanging. One that decodes is silent meanwhile. */
const usualPatienceMs = 60_000
const decodingPatienceMs = 30_000
/** Calls that wait; more are refused. */
const maxWaiting = 500

type Args<N extends HelperCall> = Parameters<HelperCalls[N]>[1]
type Answer<N extends HelperCall> = Awaited<ReturnType<HelperCalls[N]>>

export interface CallOptions {
  readonly signal?: AbortSignal
  onProgress?(progress: unknown): void
}

interface Waiting {
  readonly message: CallMessage
  readonly options: CallOptions
  readonly resolve: (answer: unknown) => void
  readonly reject: (error: unknown) => void
}

export interface HelperPoolOptions {
  readonly modulePath: string
  readonly environment?: NodeJS.ProcessEnv
  readonly patienceMs?: number
}

/** Helper processes, started as they are needed. One that hangs is ended with its call, and nothing else waits for it. */
export class HelperPool {
  private readonly idle: { helper: Child; timer: NodeJS.Timeout }[] = []
  private readonly all = new Set<Child>()
  private starting = 0
  /** Decoding calls under way, and those of them that are quick so far. */
  private decoding = 0
  private readonly quick: HelperCall[] = []
  private readonly hung = new Map<string, number>()
  private closed = false
  private readonly waiting: Waiting[] = []

  constructor(private readonly options: HelperPoolOptions) {}

  /**
   * Has a call carried out.
   * @throws AppError as the call does; `noAnswer` when it hangs, `tooBusy` when too many wait
   */
  ask<N extends HelperCall>(call: N, args: Args<N>, options: CallOptions = {}): Promise<Answer<N>> {
    const message = { call, args }
    if (this.waiting.length >= maxWaiting) return Promise.reject(new AppError('tooBusy'))
    if ((this.hung.get(keyOf(message)) ?? 0) > performance.now()) return Promise.reject(this.noAnswer(message))
    return new Promise<unknown>((resolve, reject) => {
      this.waiting.push({ message, options, resolve, reject })
      this.next()
    }) as Promise<Answer<N>>
  }

  /** Replaces helpers that have nothing to do: what they run was built anew. */
  renew(): void {
    for (const { helper, timer } of this.idle.splice(0)) {
      clearTimeout(timer)
      helper.giveUp()
    }
  }

  close(): void {
    this.closed = true
    for (const { timer } of this.idle) clearTimeout(timer)
    for (const helper of [...this.all]) helper.giveUp()
  }

  /** Gives calls that wait to helpers that are free, and starts more where there are too few. */
  private next(): void {
    if (this.closed) return
    let hasBegun = false
    for (;;) {
      const index = this.waiting.findIndex(({ message }) => this.mayBegin(message.call, this.quick))
      const free = index < 0 ? undefined : this.idle.pop()
      if (!free) break
      clearTimeout(free.timer)
      const [call] = this.waiting.splice(index, 1)
      if (call) void this.carryOut(free.helper, call)
      hasBegun = true
    }
    // Starting takes as long as many a call: once all are busy, the next one is made ready before it is asked for.
    const isSpareWanted = hasBegun && this.idle.length === 0 && this.all.size < keptHelpers
    if (this.starting < Math.max(this.startable, isSpareWanted ? 1 : 0) && this.all.size < maxHelpers) this.start()
  }

  private async carryOut(helper: Child, { message, options, resolve, reject }: Waiting): Promise<void> {
    const ended = decodes.has(message.call) ? this.countDecoding(message.call) : undefined
    try {
      options.signal?.throwIfAborted()
      resolve(await helper.run(message, { ...options, patienceMs: this.patienceFor(message) }))
    } catch (error) {
      if (!(error instanceof ChildLostError)) reject(error)
      else {
        if (ended) this.hung.set(keyOf(message), performance.now() + restMs)
        log.error({ call: message.call, reason: error.message }, 'a helper was lost; another takes its place')
        reject(this.noAnswer(message))
      }
    } finally {
      ended?.()
      this.free(helper)
      this.next()
    }
  }

  /** How many of the waiting calls could be carried out at once, if there were helpers enough. */
  private get startable(): number {
    const quick = [...this.quick]
    let count = 0
    for (const { message } of this.waiting) {
      if (!this.mayBegin(message.call, quick)) continue
      count++
      if (decodes.has(message.call)) quick.push(message.call)
    }
    return count
  }

  /** Whether a call may be carried out beside others that decode and are quick so far. */
  private mayBegin(call: HelperCall, quick: readonly HelperCall[]): boolean {
    if (!decodes.has(call)) return true
    if (this.decoding >= maxHanging) return false
    return quick.length < maxDecoding || (call === small && quick.length === maxDecoding && !quick.includes(small))
  }

  /** Counts a decoding call until it has ended; as a quick one only for a while. */
  private countDecoding(call: HelperCall): () => void {
    this.decoding++
    this.quick.push(call)
    let isQuick = true
    const slow = (): void => {
      if (isQuick) this.quick.splice(this.quick.indexOf(call), 1)
      isQuick = false
    }
    const timer = setTimeout(() => {
      slow()
      this.next()
    }, slowMs)
    return () => {
      clearTimeout(timer)
      slow()
      this.decoding--
    }
  }

  private patienceFor({ call }: CallMessage): number {
    return this.options.patienceMs ?? (decodes.has(call) ? decodingPatienceMs : usualPatienceMs)
  }

  private noAnswer(message: CallMessage): AppError {
    return new AppError('noAnswer', { what: whatOf(message), seconds: Math.round(this.patienceFor(message) / 1000) })
  }

  private free(helper: Child): void {
    if (helper.isLost || this.closed) return
    const timer = setTimeout(() => {
      if (this.all.size > keptHelpers) helper.giveUp()
    }, idleMs)
    timer.unref()
    this.idle.push({ helper, timer })
  }

  private start(): void {
    this.starting++
    const helper: Child = new Child(
      { modulePath: this.options.modulePath, environment: this.options.environment, maxHeapMb },
      (isReady) => {
        this.starting--
        if (isReady) this.free(helper)
        else {
          this.all.delete(helper)
          for (const { reject } of this.waiting.splice(0))
            reject(new AppError('internal', { reason: 'its helper process can’t be started; the log says why' }))
        }
        this.next()
      },
      () => {
        this.all.delete(helper)
        const index = this.idle.findIndex((free) => free.helper === helper)
        if (index >= 0) this.idle.splice(index, 1)
        this.next()
      },
    )
    this.all.add(helper)
  }
}

const keyOf = ({ call, args }: CallMessage): string => JSON.stringify([call, args])

/** What a call was about, for people: its path, or what it does. */
function whatOf({ call, args }: CallMessage): string {
  const { path, folder } = (args ?? {}) as { path?: string; folder?: string }
  return path ?? folder ?? (call === 'preflight' ? 'The check of the loop' : 'Copper Loop')
}

const holder = globalThis as { copperLoopHelpers?: HelperPool }

/** The helpers of this process. Route bundles get module instances of their own, so they hang on the global object. */
export function helpers(): HelperPool {
  holder.copperLoopHelpers ??= new HelperPool({
    modulePath: built('helper.mjs'),
    patienceMs: Number(process.env.COPPER_LOOP_HELPER_PATIENCE_MS) || undefined,
  })
  return holder.copperLoopHelpers
}

import { readFile } from 'node:fs/promises'
import { Worker } from 'node:worker_threads'
import { AppError } from '@/base/errors'
import { built } from '../built'
import { hasRawSignature, isCutOff, isRawTiff } from './kinds'
import type { DecodedRaw, RawHead } from './libraw'

/*
 * Raw files are opened in a thread of their own: one that a file keeps busy for ever is ended, one that fails takes nothing along, and
 * the memory of a large picture is given back with it.
 */

interface RawAnswers {
  readonly head: RawHead
  readonly preview: { readonly jpeg: Uint8Array; readonly flip: number } | undefined
  readonly half: DecodedRaw
  readonly whole: DecodedRaw
}
type What = keyof RawAnswers

/** To the thread. */
export interface RawQuestion {
  readonly id: number
  readonly what: What
  readonly bytes: Uint8Array
}

/** From the thread. */
export type RawAnswer =
  | { readonly id: number; readonly answer: RawAnswers[What] }
  | { readonly id: number; readonly failure: { readonly stage: 'open' | 'decode'; readonly complaint: string } }

export interface RawWishes {
  readonly path: string
  /** How long the file may take. */
  readonly patienceMs?: number
}

/** A hundred times what a large file takes. */
const patience: Readonly<Record<What, number>> = { head: 20_000, preview: 20_000, half: 60_000, whole: 240_000 }
/** A thread that has nothing to do for so long gives its memory back. */
const idleMs = 20_000

let thread: Worker | undefined
let idle: NodeJS.Timeout | undefined
let lastId = 0
let busy: Promise<unknown> = Promise.resolve()

let compiled: Promise<WebAssembly.Module> | undefined
/** The decoder as code, for all threads of this process. */
const decoder = (): Promise<WebAssembly.Module> => {
  compiled ??= readFile(built('libraw.wasm')).then((bytes) => WebAssembly.compile(bytes))
  return compiled
}

function start(workerData: WebAssembly.Module): Worker {
  const started = new Worker(/* turbopackIgnore: true */ built('raw.mjs'), { workerData, execArgv: [] })
  // Whoever waits for an answer hears of it, too; one that nobody waits for is only gone.
  started.on('error', () => undefined)
  started.on('exit', () => {
    if (thread === started) thread = undefined
  })
  started.unref()
  return started
}

function end(): void {
  clearTimeout(idle)
  void thread?.terminate()
  thread = undefined
}

/** Ends the thread once nothing has been asked of it for a while. */
function endLater(): void {
  clearTimeout(idle)
  idle = setTimeout(end, idleMs).unref()
}

/** One that has held a picture holds its memory for ever: another takes its place, so that the next file finds it ready. */
async function replace(): Promise<void> {
  end()
  const code = await decoder()
  thread ??= start(code)
  endLater()
}

/**
 * Asks the thread, one question at a time.
 * @throws AppError `notAPicture`, `rawUnknown`, `pictureDamaged`, `rawEndless`
 */
export function askRaw<W extends What>(what: W, bytes: Uint8Array, wishes: RawWishes): Promise<RawAnswers[W]> {
  const asked = busy.then(() => ask(what, bytes, wishes))
  busy = asked.catch(() => undefined)
  return asked
}

async function ask<W extends What>(what: W, bytes: Uint8Array, { path, patienceMs = patience[what] }: RawWishes): Promise<RawAnswers[W]> {
  const code = await decoder()
  thread ??= start(code)
  // Last: a thread that has just taken another's place waits to be ended.
  clearTimeout(idle)
  const worker = thread
  const id = ++lastId
  worker.ref()
  return new Promise<RawAnswers[W]>((resolve, reject) => {
    const timer = setTimeout(() => fail(new AppError('rawEndless', { path, seconds: Math.round(patienceMs / 1000) })), patienceMs)
    const settle = (keeps: boolean): void => {
      clearTimeout(timer)
      worker.off('message', hear).off('error', broke).off('exit', broke)
      worker.unref()
      if (keeps) endLater()
      else void replace()
    }
    const fail = (error: AppError): void => {
      settle(false)
      reject(error)
    }
    const broke = (reason: unknown): void => fail(new AppError('pictureDamaged', { path }, { cause: reason }))
    const hear = (answer: RawAnswer): void => {
      if (answer.id !== id) return
      // What decoded a picture holds its memory for ever.
      settle(what === 'head' || what === 'preview')
      if ('failure' in answer) reject(errorOf(answer.failure, bytes, path))
      else resolve(answer.answer as RawAnswers[W])
    }
    worker.on('message', hear).on('error', broke).on('exit', broke)
    worker.postMessage({ id, what, bytes } satisfies RawQuestion)
  })
}

/** What the decoder says of a file whose end is missing, or whose content is not what it should be. */
const damaged = /end of file|corrupt|decoder error|data error/i

type Failure = Extract<RawAnswer, { readonly failure: unknown }>['failure']

function errorOf({ stage, complaint }: Failure, bytes: Uint8Array, path: string): AppError {
  if (damaged.test(complaint) || isCutOff(bytes)) return new AppError('pictureDamaged', { path })
  const saysRaw = hasRawSignature(bytes) || isRawTiff(bytes)
  return stage === 'open' && !saysRaw ? new AppError('notAPicture', { path }) : new AppError('rawUnknown', { path })
}

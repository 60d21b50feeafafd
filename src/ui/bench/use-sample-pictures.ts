import { useEffect, useState, useSyncExternalStore } from 'react'
import type { SamplePicture } from '@/engine/sample'
import type { FromSamplesWorker, SampleWish, ToSamplesWorker } from './worker/samples-worker'

/** Edits in quick succession are waited for. */
const usualDelayMs = 80

export type SampleState = SamplePicture | { readonly sentence: string }

export const isPicture = (state: SampleState | undefined): state is SamplePicture => state !== undefined && 'pixels' in state

/** Small pictures of what steps do, made by a worker, each as soon as it is there. */
export class SamplePictures {
  private worker: Worker | undefined
  private wished: ReadonlySet<string> = new Set()
  private known: ReadonlyMap<string, SampleState> = new Map()
  private readonly listeners = new Set<() => void>()

  /** @param onMeasured where the pictures are each other's set: what each step that looks at one gets */
  constructor(private readonly onMeasured?: (values: ReadonlyMap<string, readonly number[]>) => void) {}

  start(): void {
    this.worker = new Worker(new URL('./worker/samples-worker.ts', import.meta.url), { type: 'module' })
    this.worker.onmessage = ({ data }: MessageEvent<FromSamplesWorker>) => {
      if (data.type === 'look') return
      if (data.type === 'measured') return this.onMeasured?.(data.values)
      // Those that nobody wishes for any more go: a set that is looked through would fill the memory.
      const kept = [...this.known].filter(([key]) => this.wished.has(key))
      this.known = new Map(kept).set(data.key, data.type === 'rendered' ? data.picture : { sentence: data.sentence })
      for (const listener of this.listeners) listener()
    }
  }

  end(): void {
    this.worker?.terminate()
    this.worker = undefined
  }

  wish(wishes: readonly SampleWish[]): void {
    // Together: the worker sends nothing twice that it was not told to forget.
    this.wished = new Set(wishes.map(({ key }) => key))
    this.worker?.postMessage({ type: 'render', wishes, isSet: this.onMeasured !== undefined } satisfies ToSamplesWorker)
  }

  readonly all = (): ReadonlyMap<string, SampleState> => this.known

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }
}

/** Made ready for wishes to come: starting takes longer than most of them. @param onMeasured must stay the same */
export function useReadyPictures(onMeasured?: (values: ReadonlyMap<string, readonly number[]>) => void): SamplePictures {
  const [pictures] = useState(() => new SamplePictures(onMeasured))
  useEffect(() => {
    pictures.start()
    return () => pictures.end()
  }, [pictures])
  return pictures
}

/** Wishes for these. @param delayMs how long another list of wishes is waited for */
export function useWishesFor(pictures: SamplePictures, wishes: readonly SampleWish[], delayMs = usualDelayMs): void {
  useEffect(() => {
    if (delayMs === 0) return pictures.wish(wishes)
    const timer = setTimeout(() => pictures.wish(wishes), delayMs)
    return () => clearTimeout(timer)
  }, [pictures, wishes, delayMs])
}

/** The pictures that are wished for, each to be taken with `useShown` by what shows it: the others need not be drawn anew. */
export function useWishedPictures(
  wishes: readonly SampleWish[],
  delayMs?: number,
  onMeasured?: (values: ReadonlyMap<string, readonly number[]>) => void,
): SamplePictures {
  const pictures = useReadyPictures(onMeasured)
  useWishesFor(pictures, wishes, delayMs)
  return pictures
}

/** What is there now of something that the pictures tell; it must be the same as long as they tell the same. */
export const useShown = <T>(pictures: SamplePictures, read: (all: ReadonlyMap<string, SampleState>) => T): T =>
  useSyncExternalStore(
    pictures.subscribe,
    () => read(pictures.all()),
    () => read(pictures.all()),
  )

/** All of them, by the wish's key. @param onMeasured must stay the same */
export function useSamplePictures(
  wishes: readonly SampleWish[],
  onMeasured?: (values: ReadonlyMap<string, readonly number[]>) => void,
): ReadonlyMap<string, SampleState> {
  return useShown(useWishedPictures(wishes, usualDelayMs, onMeasured), (all) => all)
}

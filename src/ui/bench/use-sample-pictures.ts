import { useEffect, useRef, useState } from 'react'
import type { SamplePicture } from '@/engine/sample'
import type { FromSamplesWorker, SampleWish, ToSamplesWorker } from './worker/samples-worker'

/** Edits in quick succession are waited for. */
const usualDelayMs = 80

export type SampleState = SamplePicture | { readonly sentence: string }

export const isPicture = (state: SampleState | undefined): state is SamplePicture => state !== undefined && 'pixels' in state

/** Small pictures of what steps do, by the wish's key, each as soon as it is there. */
export function useSamplePictures(wishes: readonly SampleWish[], delayMs = usualDelayMs): ReadonlyMap<string, SampleState> {
  const [pictures, setPictures] = useState<ReadonlyMap<string, SampleState>>(new Map())
  const worker = useRef<Worker>(null)
  const wished = useRef<ReadonlySet<string>>(new Set())
  useEffect(() => {
    const made = new Worker(new URL('./worker/samples-worker.ts', import.meta.url), { type: 'module' })
    made.onmessage = ({ data }: MessageEvent<FromSamplesWorker>) => {
      if (data.type === 'look') return
      // Those that nobody wishes for any more go: a set that is looked through would fill the memory.
      setPictures((before) => {
        const kept = [...before].filter(([key]) => wished.current.has(key))
        return new Map(kept).set(data.key, data.type === 'rendered' ? data.picture : { sentence: data.sentence })
      })
    }
    worker.current = made
    return () => made.terminate()
  }, [])
  useEffect(() => {
    const timer = setTimeout(() => {
      // Together: the worker sends nothing twice that it was not told to forget.
      wished.current = new Set(wishes.map(({ key }) => key))
      worker.current?.postMessage({ type: 'render', wishes } satisfies ToSamplesWorker)
    }, delayMs)
    return () => clearTimeout(timer)
  }, [wishes, delayMs])
  return pictures
}

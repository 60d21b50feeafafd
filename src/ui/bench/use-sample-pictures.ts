import { useEffect, useRef, useState } from 'react'
import type { Step } from '@/macro/step'
import { findOperation } from '@/operations'
import type { SamplePicture } from './worker/sample'
import type { FromSamplesWorker, ToSamplesWorker } from './worker/samples-worker'

/** Edits in quick succession are waited for. */
const delayMs = 80

export type SampleState = SamplePicture | { readonly sentence: string }

/** The tray's pictures after the steps, by path, each as soon as it is there. */
export function useSamplePictures(paths: readonly string[], steps: readonly Step[]): ReadonlyMap<string, SampleState> {
  const [pictures, setPictures] = useState<ReadonlyMap<string, SampleState>>(new Map())
  const worker = useRef<Worker>(null)
  useEffect(() => {
    const made = new Worker(new URL('./worker/samples-worker.ts', import.meta.url), { type: 'module' })
    made.onmessage = ({ data }: MessageEvent<FromSamplesWorker>) =>
      setPictures((before) => new Map(before).set(data.path, data.type === 'rendered' ? data.picture : { sentence: data.sentence }))
    worker.current = made
    return () => made.terminate()
  }, [])
  useEffect(() => {
    const timer = setTimeout(() => {
      const wish: ToSamplesWorker = { paths, steps: steps.filter((step) => findOperation(step.operation)) }
      worker.current?.postMessage(wish)
    }, delayMs)
    return () => clearTimeout(timer)
  }, [paths, steps])
  return pictures
}

import { useCallback, useEffect, useRef } from 'react'
import type { Shift } from '@/pixels/likeness'
import type { FromLikenessWorker, ToLikenessWorker } from './likeness-worker'

type Wanted = ToLikenessWorker['own']
interface Asker {
  resolve(shift: Shift): void
  reject(error: Error): void
}

/** Finds what brings a picture among its siblings. Its worker starts with the first question. */
export function useLikeness(): (own: Wanted, siblings: readonly Wanted[]) => Promise<Shift> {
  const worker = useRef<Worker>(null)
  const asking = useRef(new Map<number, Asker>())
  useEffect(() => () => worker.current?.terminate(), [])
  return useCallback((own, siblings) => {
    if (!worker.current) {
      worker.current = new Worker(new URL('./likeness-worker.ts', import.meta.url), { type: 'module' })
      worker.current.onmessage = ({ data }: MessageEvent<FromLikenessWorker>) => {
        const asker = asking.current.get(data.id)
        asking.current.delete(data.id)
        if ('shift' in data) asker?.resolve(data.shift)
        else asker?.reject(new Error(data.sentence))
      }
    }
    const id = Math.max(0, ...asking.current.keys()) + 1
    return new Promise<Shift>((resolve, reject) => {
      asking.current.set(id, { resolve, reject })
      worker.current?.postMessage({ id, own, siblings } satisfies ToLikenessWorker)
    })
  }, [])
}

import { useCallback, useEffect, useRef, useState } from 'react'
import type { ShownTouchUp } from '@/contract/answers'
import { routes } from '@/contract/routes'
import { type TouchUp, untouched } from '@/jobs/touch-up'
import { call } from '../api/client'
import { useSettled } from '../controls/use-settled'

/** Changes that follow each other within this time are one. */
const draftMs = 300
/** After this time without a change, hands have come to rest. */
const settledMs = 1000

export interface TouchUps {
  /** All of them, by path; another whenever one changes. */
  readonly all: ReadonlyMap<string, ShownTouchUp>
  of(path: string): TouchUp
  /** The same at this moment, for what was begun a while ago. */
  latest(path: string): TouchUp
  /** The version that is stored; 0 where there is none. */
  version(path: string): number
  /** The same as it was when nothing had been changed for a moment: what takes long is made of that one. */
  settledVersion(path: string): number
  canUndo(path: string): boolean
  canRedo(path: string): boolean
  /** Shows a change at once and stores it. */
  change(path: string, next: TouchUp): void
  /** Shows a change at once, and stores it when no other has followed for a moment: a drag, a wheel, a key held down are one change. */
  draft(path: string, next: TouchUp): void
  step(path: string, by: 1 | -1): void
  /** Once all that was changed is stored. */
  stored(): Promise<unknown>
}

const byPath = (list: readonly ShownTouchUp[]): ReadonlyMap<string, ShownTouchUp> => new Map(list.map((entry) => [entry.sourcePath, entry]))

/**
 * The touch-ups of a loop: what is changed is shown at once, and stored in the order in which it was made. Where storing fails, what the
 * server has is shown again.
 */
export function useTouchUps(loopId: string, stored: readonly ShownTouchUp[], onProblem: (sentence: string) => void): TouchUps {
  const [known, setKnown] = useState(() => byPath(stored))
  const now = useRef(known)
  const sending = useRef<Promise<unknown>>(Promise.resolve())
  /** Changes on their way, by path. */
  const pending = useRef(new Map<string, number>())
  const drafts = useRef(new Map<string, ReturnType<typeof setTimeout>>())
  const put = useCallback((entry: ShownTouchUp): void => {
    now.current = new Map(now.current).set(entry.sourcePath, entry)
    setKnown(now.current)
  }, [])
  useEffect(() => {
    // What is on its way is ahead of what the server had.
    if (drafts.current.size > 0 || [...pending.current.values()].some((count) => count > 0)) return
    now.current = byPath(stored)
    setKnown(now.current)
  }, [stored])

  const send = useCallback(
    (path: string, work: (version: number) => Promise<ShownTouchUp>): void => {
      const under = pending.current
      under.set(path, (under.get(path) ?? 0) + 1)
      sending.current = sending.current.then(async () => {
        try {
          const answered = await work(now.current.get(path)?.version ?? 0)
          under.set(path, (under.get(path) ?? 1) - 1)
          // What was changed meanwhile is ahead of the answer: of that only the version counts then.
          const shown = now.current.get(path)
          put(shown && (under.get(path) ?? 0) > 0 ? { ...shown, version: answered.version } : answered)
        } catch (error) {
          under.clear()
          onProblem(error instanceof Error ? error.message : String(error))
          const fresh = await call(routes.touchUps, { asked: { id: loopId } }).catch(() => [])
          now.current = byPath(fresh)
          setKnown(now.current)
        }
      })
    },
    [loopId, onProblem, put],
  )

  const store = useCallback(
    (path: string): void => {
      clearTimeout(drafts.current.get(path))
      drafts.current.delete(path)
      const touchUp = now.current.get(path)?.touchUp ?? untouched
      send(path, (version) => call(routes.touchUp, { asked: { id: loopId }, body: { sourcePath: path, touchUp, version } }))
    },
    [loopId, send],
  )
  const storeDrafts = useCallback((): void => [...drafts.current.keys()].forEach(store), [store])
  useEffect(() => {
    window.addEventListener('pagehide', storeDrafts)
    return () => {
      window.removeEventListener('pagehide', storeDrafts)
      storeDrafts()
    }
  }, [storeDrafts])

  const show = useCallback(
    (path: string, next: TouchUp): boolean => {
      const before = now.current.get(path)
      if (JSON.stringify(before?.touchUp ?? untouched) === JSON.stringify(next)) return false
      put({ sourcePath: path, version: before?.version ?? 0, canRedo: false, ...before, touchUp: next, canUndo: true })
      return true
    },
    [put],
  )
  const change = useCallback(
    (path: string, next: TouchUp): void => {
      // What was only drafted is a change of its own.
      if (drafts.current.has(path)) store(path)
      if (show(path, next)) store(path)
    },
    [show, store],
  )
  const draft = useCallback(
    (path: string, next: TouchUp): void => {
      if (!show(path, next)) return
      clearTimeout(drafts.current.get(path))
      drafts.current.set(
        path,
        setTimeout(() => store(path), draftMs),
      )
    },
    [show, store],
  )
  const step = useCallback(
    (path: string, by: 1 | -1): void => {
      if (drafts.current.has(path)) store(path)
      send(path, (version) => call(routes.stepTouchUp, { asked: { id: loopId }, body: { sourcePath: path, version, by } }))
    },
    [loopId, send, store],
  )
  const settled = useSettled(known, settledMs)
  return {
    all: known,
    latest: (path) => now.current.get(path)?.touchUp ?? untouched,
    of: (path) => known.get(path)?.touchUp ?? untouched,
    settledVersion: (path) => settled.get(path)?.version ?? 0,
    version: (path) => now.current.get(path)?.version ?? 0,
    canUndo: (path) => known.get(path)?.canUndo ?? false,
    canRedo: (path) => known.get(path)?.canRedo ?? false,
    change,
    draft,
    step,
    stored: () => {
      storeDrafts()
      return sending.current
    },
  }
}

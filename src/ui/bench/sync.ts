import { useEffect } from 'react'
import type { BenchEdit } from '@/contract/requests'
import { routes } from '@/contract/routes'
import { type Change, emptyHistory, type History } from '@/macros/history'
import { ApiError, call } from '../api/client'
import { useBench } from './store'

/** What the server is known to hold. */
interface Stored {
  /** How many older changes were folded together: the first of `changes` comes after them. */
  readonly folded: number
  readonly changes: readonly Change[]
  readonly cursor: number
}

/** The edit that brings the stored history to the present one: what both have in common stays. */
export function editBetween(stored: Stored, now: Stored): BenchEdit | undefined {
  if (stored.changes === now.changes && stored.cursor === now.cursor) return undefined
  let common = 0
  while (common < stored.changes.length && stored.changes[common] === now.changes[common]) common++
  const { folded } = stored
  return { from: folded + common, expectedCursor: folded + stored.cursor, added: now.changes.slice(common), cursor: folded + now.cursor }
}

/** Reads the stored bench once, then sends every edit, in order, as soon as it is made. */
export function useBenchSync(onProblem: (sentence: string) => void): void {
  useEffect(() => {
    let stored: Stored = asStored(emptyHistory)
    let sending = Promise.resolve()
    let closed = false

    const load = async (): Promise<void> => {
      const record = await call(routes.bench, {})
      if (closed) return
      useBench.getState().load(record)
      stored = asStored(useBench.getState().history)
    }
    const send = async (): Promise<void> => {
      const edit = editBetween(stored, asStored(useBench.getState().history))
      if (!edit) return
      const sent = asStored(useBench.getState().history)
      try {
        await call(routes.extendBench, { body: edit })
        stored = sent
      } catch (error) {
        onProblem(error instanceof Error ? error.message : String(error))
        if (error instanceof ApiError && error.report.code === 'benchMoved') await load()
      }
    }
    load().catch((error) => onProblem(error.message))
    const unsubscribe = useBench.subscribe((state, before) => {
      // An emptied wire is a new beginning: what is laid on it next is no revision of what lay there.
      if (
        state.ready &&
        (state.macroId || state.picture) &&
        state.history !== before.history &&
        state.history.document.steps.length === 0
      ) {
        state.set({ macroId: null, picture: null })
        void call(routes.layOnBench, { body: { macroId: null, picture: null } })
      }
      if (state.ready && state.history !== before.history) sending = sending.then(send)
    })
    return () => {
      closed = true
      unsubscribe()
    }
  }, [onProblem])
}

const asStored = ({ changes, cursor, folded }: History): Stored => ({ changes, cursor, folded })

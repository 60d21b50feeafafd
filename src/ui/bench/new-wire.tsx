'use client'

import { Button } from 'antd'
import type { ReactNode } from 'react'
import { layMacro } from '@/macros/recorder'
import { useTakeBack } from '../shell/use-take-back'
import { useBench } from './store'
import { editsMade, takeBackLaid, wireIsOf } from './take-back-laid'

/** Empties the wire in one edit, which can be undone; what is on the shelf stays there. */
export function NewWire(): ReactNode {
  const offerBack = useTakeBack()
  const count = useBench((state) => state.history.document.steps.length)
  const empty = (): void => {
    const { history, macroId, picture, commit, set } = useBench.getState()
    commit(layMacro(history.document, []))
    // What is laid on it next is of no macro and of no picture.
    set({ selectedId: null })
    void wireIsOf(null)
    const edits = editsMade(useBench.getState().history)
    offerBack('The wire is empty.', () => takeBackLaid(edits, { macroId, picture }))
  }
  return (
    <Button block size="small" disabled={count === 0} onClick={empty} title="Take all beads off; undo brings them back">
      New wire
    </Button>
  )
}

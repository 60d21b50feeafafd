'use client'

import { Button } from 'antd'
import { type ReactNode, useEffect } from 'react'
import { counted } from '@/base/format'
import { freeName } from '@/base/free-name'
import { folderOf } from '@/base/paths'
import type { MacroUse } from '@/jobs/loop'
import { isSameSteps } from '@/macros/compare'
import { isDraft } from '@/macros/macro'
import { questionsOf } from '@/macros/open'
import { keepSteps } from '@/macros/recorder'
import { useKeepMacro, useMacros } from '../api/queries'
import { RunOver } from '../loops/run-over'
import { nameOfSteps } from './name-of-steps'
import { useBench, useBenchParts } from './store'
import { wireIsOf } from './take-back-laid'
import { givenName } from './use-recording'

/** From what lies on the wire to a finished folder. Without a bead, pictures only get another size, format and name. */
export function RunWireOver(): ReactNode {
  const open = useBench((state) => state.overFolder)
  const set = useBench((state) => state.set)
  return (
    <>
      <Button
        block
        size="small"
        onClick={() => set({ overFolder: true })}
        title="Put a whole folder through these steps, into another folder"
      >
        Run over a folder
      </Button>
      {open && <OverForm onClose={() => set({ overFolder: false })} />}
    </>
  )
}

function OverForm({ onClose }: { onClose(): void }): ReactNode {
  const { history, macroId, sample, set, commit } = useBenchParts('history', 'macroId', 'sample', 'set', 'commit')
  const { data: macros = [] } = useMacros()
  // Going to the run leaves the bench; whoever comes back finds it as it was.
  useEffect(() => () => set({ overFolder: false }), [set])
  const keep = useKeepMacro()
  const { document } = history
  const steps = document.steps.map(({ kept: _, ...step }) => step)
  const origin = macros.find((macro) => macro.id === macroId)
  const isKept = origin !== undefined && isSameSteps(origin.steps, steps)

  /** What is not on the shelf as it is goes there as a macro of its own: others that run the old one see nothing of it. */
  const prepare = async (name: string): Promise<readonly MacroUse[]> => {
    if (steps.length === 0) return []
    if (isKept) return [{ macroId: origin.id, revision: null }]
    const free = freeName(name, macros)
    const macro = await keep.mutateAsync({ name: free, notes: '', tags: [], steps })
    commit(keepSteps(document, new Set(steps.map(({ id }) => id))))
    await wireIsOf(macro.id)
    return [{ macroId: macro.id, revision: null }]
  }
  // A recording of before says nothing of what lies here now; one that was not named says nothing at all.
  const recording = givenName(document.recording)
  const name = (isKept && !isDraft(origin) ? origin.name : null) ?? (steps.length > 0 ? recording : null) ?? nameOfSteps(steps)
  return (
    <RunOver
      open
      onClose={onClose}
      suggestedName={name}
      suggestedFolder={sample ? folderOf(sample.path) : ''}
      through={
        steps.length === 0
          ? 'No steps: only size, format and names change.'
          : isKept
            ? `${origin.name} r${origin.revision}`
            : `The ${counted(steps.length, 'step')} on the wire: ${nameOfSteps(steps)}. They are kept as a macro too.`
      }
      macros={isKept ? [{ macroId: origin.id, revision: null }] : []}
      questions={isKept ? [] : questionsOf(steps)}
      prepare={prepare}
    />
  )
}

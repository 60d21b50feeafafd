'use client'

import { Button } from 'antd'
import { type ReactNode, useState } from 'react'
import { folderOf } from '@/base/paths'
import type { ShelfMacro } from '@/contract/answers'
import { useBenchSample } from '../api/queries'
import { RunOver } from '../loops/run-over'

/** A macro of the shelf over a whole folder. */
export function RunMacroOver({ macro }: { macro: ShelfMacro }): ReactNode {
  const [open, setOpen] = useState(false)
  return (
    <>
      <Button disabled={macro.needsNewer} onClick={() => setOpen(true)} title="Put a whole folder through this macro, into another folder">
        Run over a folder
      </Button>
      {open && <Over macro={macro} onClose={() => setOpen(false)} />}
    </>
  )
}

function Over({ macro, onClose }: { macro: ShelfMacro; onClose(): void }): ReactNode {
  const { data: sample } = useBenchSample()
  // The form takes its folder once, when it opens.
  if (sample === undefined) return null
  return (
    <RunOver
      open
      onClose={onClose}
      suggestedName={macro.name}
      suggestedFolder={sample ? folderOf(sample) : ''}
      through={`${macro.name} r${macro.revision}`}
      macros={[{ macroId: macro.id, revision: null }]}
    />
  )
}

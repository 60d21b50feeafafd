'use client'

import { Button } from 'antd'
import { memo, type ReactNode, useEffect } from 'react'
import { DeliverPicture } from '../loops/deliver-picture'
import { useBench, useBenchParts } from './store'

/** From the picture on the bench to a file, in two clicks. */
export const DeliverFromBench = memo(function DeliverFromBench(): ReactNode {
  const { sample, deliversOne, history, set } = useBenchParts('sample', 'deliversOne', 'history', 'set')
  useEffect(() => () => useBench.getState().set({ deliversOne: false }), [])
  const steps = history.document.steps.map(({ kept: _, ...step }) => step)
  return (
    <>
      <Button
        block
        size="small"
        disabled={!sample}
        title="This picture as it is here, as a file (Ctrl/⌘ Enter)"
        onClick={() => set({ deliversOne: true })}
      >
        Deliver this picture
      </Button>
      <DeliverPicture
        picture={deliversOne && sample ? { sourcePath: sample.path, steps } : undefined}
        onClose={() => set({ deliversOne: false })}
      />
    </>
  )
})

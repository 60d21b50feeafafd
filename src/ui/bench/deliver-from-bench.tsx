'use client'

import { DownloadOutlined } from '@ant-design/icons'
import { Button, Tooltip } from 'antd'
import { memo, type ReactNode, useEffect } from 'react'
import { DeliverPicture } from '../loops/deliver-picture'
import styles from './stage.module.css'
import { useBench, useBenchParts } from './store'

/** From the picture on the bench to a file, in two clicks. */
export const DeliverFromBench = memo(function DeliverFromBench(): ReactNode {
  const { sample, deliversOne, history, set } = useBenchParts('sample', 'deliversOne', 'history', 'set')
  useEffect(() => () => useBench.getState().set({ deliversOne: false }), [])
  const steps = history.document.steps.map(({ kept: _, ...step }) => step)
  return (
    <>
      <Tooltip title="Deliver this picture as it is here, as a file (Ctrl/⌘ Enter)">
        <Button
          size="small"
          icon={<DownloadOutlined />}
          disabled={!sample}
          aria-label="Deliver this picture"
          onClick={() => set({ deliversOne: true })}
        >
          <span className={styles.roomy}>Deliver</span>
        </Button>
      </Tooltip>
      <DeliverPicture
        picture={deliversOne && sample ? { sourcePath: sample.path, steps } : undefined}
        onClose={() => set({ deliversOne: false })}
      />
    </>
  )
})

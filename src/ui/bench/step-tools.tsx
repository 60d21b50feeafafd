'use client'

import { AimOutlined, LineOutlined } from '@ant-design/icons'
import { Button, Tooltip } from 'antd'
import type { ReactNode } from 'react'
import type { StepTool } from '@/operations'
import styles from './desk.module.css'
import { useBench } from './store'

/** Buttons for what is picked or drawn on the picture. */
export function StepTools({ offered }: { offered: readonly StepTool[] }): ReactNode {
  const tool = useBench((state) => state.tool)
  const set = useBench((state) => state.set)
  return (
    <div className={styles.tools}>
      {offered.map(({ tool: kind, label, help }) => (
        <Tooltip key={kind} title={help}>
          <Button
            size="small"
            type={tool?.kind === kind ? 'primary' : 'default'}
            icon={kind === 'horizon' ? <LineOutlined /> : <AimOutlined />}
            aria-pressed={tool?.kind === kind}
            onClick={() => set({ tool: tool?.kind === kind ? null : { kind } })}
          >
            {label}
          </Button>
        </Tooltip>
      ))}
    </div>
  )
}

'use client'

import { AimOutlined, LineOutlined } from '@ant-design/icons'
import { Button, Tooltip } from 'antd'
import type { ReactNode } from 'react'
import styles from './desk.module.css'
import { type Tool, useBench } from './store'

interface ToolButton {
  readonly tool: Exclude<Tool['kind'], 'brush'>
  readonly label: string
  readonly help: string
}

/** Tools that set a step on the picture itself, by operation. */
const tools: Readonly<Record<string, readonly ToolButton[]>> = {
  'white-balance': [{ tool: 'grey', label: 'Pick a grey', help: 'Click something that should be neutral.' }],
  levels: [
    { tool: 'black', label: 'Pick black', help: 'Click the darkest place that should be black.' },
    { tool: 'white', label: 'Pick white', help: 'Click the brightest place that should be white.' },
  ],
  perspective: [
    {
      tool: 'corners',
      label: 'Move the corners',
      help: 'Lay the four corners on what should become a rectangle, then press again to see it.',
    },
  ],
  straighten: [{ tool: 'horizon', label: 'Draw a line', help: 'Draw along something that should be level or upright.' }],
}

/** Buttons for what is picked or drawn on the picture. */
export function StepTools({ operation }: { operation: string }): ReactNode {
  const tool = useBench((state) => state.tool)
  const set = useBench((state) => state.set)
  const offered = tools[operation]
  if (!offered) return null
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

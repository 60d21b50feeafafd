'use client'

import { HighlightOutlined, UndoOutlined } from '@ant-design/icons'
import { Button, Segmented, Tooltip } from 'antd'
import type { ReactNode } from 'react'
import { counted } from '@/base/format'
import type { Limit } from '@/macros/limit'
import { number } from '@/operations'
import { NumberControl } from '../controls/number-control'
import styles from './desk.module.css'
import { useBenchParts } from './store'

const sizeSetting = number({
  label: 'Brush',
  unit: '%',
  min: 0.5,
  max: 60,
  step: 0.5,
  default: 8,
  logarithmic: true,
  help: 'Its width, of the picture’s long edge.',
})
const softnessSetting = number({
  label: 'Softness',
  unit: '%',
  min: 0,
  max: 100,
  step: 5,
  default: 60,
  help: 'Share of its radius over which it fades.',
})

/** The brush of a brushed limit: taken up, sized, turned round to erase. */
export function BrushFields({ limit, index, onCommit }: { limit: Limit; index: number; onCommit(limit: Limit): void }): ReactNode {
  const { tool, brush, set } = useBenchParts('tool', 'brush', 'set')
  const isTaken = tool?.kind === 'brush' && tool.limit === index
  const change = (part: Partial<typeof brush>): void => set({ brush: { ...brush, ...part } })
  return (
    <>
      <div className={styles.tools}>
        <Button
          size="small"
          type={isTaken ? 'primary' : 'default'}
          icon={<HighlightOutlined />}
          aria-pressed={isTaken}
          onClick={() => set({ tool: isTaken ? null : { kind: 'brush', limit: index } })}
        >
          {isTaken ? 'Put the brush down' : 'Brush'}
        </Button>
        <Tooltip title={`Remove the last of ${counted(limit.strokes.length, 'stroke')}`}>
          <Button
            size="small"
            icon={<UndoOutlined />}
            aria-label="Remove the last stroke"
            disabled={limit.strokes.length === 0}
            onClick={() => onCommit({ ...limit, strokes: limit.strokes.slice(0, -1) })}
          />
        </Tooltip>
      </div>
      {isTaken && (
        <>
          <Segmented
            block
            size="small"
            aria-label="What the brush does"
            options={[
              { value: 'paint', label: 'Paint' },
              { value: 'erase', label: 'Erase' },
            ]}
            value={brush.erases ? 'erase' : 'paint'}
            onChange={(value) => change({ erases: value === 'erase' })}
          />
          <NumberControl
            setting={sizeSetting}
            value={brush.sizePercent}
            onDraft={(sizePercent) => change({ sizePercent })}
            onCommit={(sizePercent) => change({ sizePercent })}
          />
          <NumberControl
            setting={softnessSetting}
            value={brush.softnessPercent}
            onDraft={(softnessPercent) => change({ softnessPercent })}
            onCommit={(softnessPercent) => change({ softnessPercent })}
          />
        </>
      )}
    </>
  )
}

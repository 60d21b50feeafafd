'use client'

import { CopyOutlined } from '@ant-design/icons'
import { App, Button, Dropdown } from 'antd'
import { type ReactNode, useState } from 'react'
import { describeLimits, type Limit, readLimits } from '@/macros/limit'
import { stepName } from '@/macros/step'
import { useBench } from './store'

const copiedKey = 'copper-loop-copied-limit'

/** What was copied last, if it is a limit that this version reads. */
function copiedLimit(): readonly Limit[] | undefined {
  const text = localStorage.getItem(copiedKey)
  return text === null ? undefined : readLimits(text)
}

interface Props {
  stepId: string
  value: readonly Limit[]
  onCommit(value: readonly Limit[]): void
}

/** Takes a step's limit along, to other steps, macros and windows; or takes another step's. */
export function LimitTravel({ stepId, value, onCommit }: Props): ReactNode {
  const { message } = App.useApp()
  const steps = useBench((state) => state.history.document.steps)
  // Another window may have copied one since: it is looked for when the menu opens.
  const [copied, setCopied] = useState<readonly Limit[]>()
  const others = steps.flatMap((step, index) => (step.id !== stepId && step.limit?.length ? [{ step, limit: step.limit, index }] : []))
  const copy = (): void => {
    localStorage.setItem(copiedKey, JSON.stringify(value))
    void message.info(`Copied: on ${describeLimits(value)}`)
  }
  return (
    <Dropdown
      trigger={['click']}
      onOpenChange={(open) => open && setCopied(copiedLimit())}
      menu={{
        items: [
          { key: 'copy', label: 'Copy this limit', disabled: value.length === 0, onClick: copy },
          {
            key: 'paste',
            label: copied ? `Lay the copied one here: ${describeLimits(copied)}` : 'Lay the copied one here',
            disabled: !copied,
            onClick: () => copied && onCommit(copied),
          },
          ...others.map(({ step, limit, index }) => ({
            key: step.id,
            label: `As step ${index + 1}, ${stepName(step)}: ${describeLimits(limit)}`,
            onClick: () => onCommit(limit),
          })),
        ],
      }}
    >
      <Button
        size="small"
        icon={<CopyOutlined />}
        aria-label="Copy a limit, or take another step’s"
        title="Copy a limit, or take another step’s"
      />
    </Dropdown>
  )
}

'use client'

import { CloseOutlined } from '@ant-design/icons'
import { Button, Select } from 'antd'
import type { ReactNode } from 'react'
import { macroLimits } from '@/macros/codec'
import { canBeAsked, type OpenSetting, type Step } from '@/macros/step'
import { findOperation, isShown } from '@/operations'
import { LateText } from '../controls/late-text'
import styles from './desk.module.css'

interface Props {
  step: Step
  onChange(open: readonly OpenSetting[]): void
}

/** Settings that are left open: asked for once before a run, with what is set here as the default. */
export function OpenSettings({ step, onChange }: Props): ReactNode {
  const declared = findOperation(step.operation)?.settings ?? {}
  const open = step.open ?? []
  const options = Object.entries(declared)
    .filter(
      ([key, setting]) => canBeAsked(setting) && isShown(setting, step.settings, declared) && !open.some((other) => other.setting === key),
    )
    .map(([key, { label, group }]) => ({ value: key, label: group ? `${group}: ${label}` : label }))
  if (options.length === 0 && open.length === 0) return null
  return (
    <div className={styles.conditions}>
      <Select
        size="small"
        className={styles.wide}
        aria-label="Ask for a setting before a run"
        placeholder={open.length === 0 ? 'Asks for nothing. Before a run, ask for …' : 'and ask for …'}
        options={options}
        value={null}
        onSelect={(setting: string | null) =>
          setting && onChange([...open, { setting, question: `${declared[setting]?.label ?? setting}?` }])
        }
      />
      {open.map((entry, index) => (
        <div key={entry.setting} className={styles.asked}>
          <span>{declared[entry.setting]?.label ?? entry.setting}</span>
          <LateText
            label="Question"
            max={macroLimits.questionLength}
            value={entry.question}
            onChange={(question) => question.trim() && onChange(open.map((other, i) => (i === index ? { ...other, question } : other)))}
          />
          <Button
            type="text"
            size="small"
            icon={<CloseOutlined />}
            aria-label={`No longer ask for ${declared[entry.setting]?.label ?? entry.setting}`}
            onClick={() => onChange(open.toSpliced(index, 1))}
          />
        </div>
      ))}
    </div>
  )
}

'use client'

import { Input, Tooltip } from 'antd'
import { type ReactNode, useState } from 'react'
import { PatternError } from '@/base/tokens'
import type { TextSetting } from '@/operations'
import { checkCaption } from '@/operations/declare/caption'
import styles from './controls.module.css'

function problemOf(text: string): string | undefined {
  try {
    checkCaption(text)
    return undefined
  } catch (error) {
    return error instanceof PatternError ? error.message : 'This line can’t be read'
  }
}

/** A line of text: one edit when the field is left, none while it can't be read. */
export function TextControl({
  setting,
  value,
  onCommit,
}: {
  setting: TextSetting
  value: string
  onCommit(value: string): void
}): ReactNode {
  const [text, setText] = useState(value)
  const problem = problemOf(text)
  return (
    <div className={styles.text}>
      <Tooltip title={setting.help} placement="right" mouseEnterDelay={0.6}>
        <span className={styles.label}>{setting.label}</span>
      </Tooltip>
      <Input
        size="small"
        aria-label={setting.label}
        maxLength={setting.maxCharacters}
        status={problem ? 'error' : undefined}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => !problem && text !== value && onCommit(text)}
        onPressEnter={(event) => event.currentTarget.blur()}
      />
      {problem && (
        <p role="alert" className={styles.problem}>
          {problem}.
        </p>
      )}
    </div>
  )
}

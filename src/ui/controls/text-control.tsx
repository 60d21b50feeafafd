'use client'

import { Tooltip } from 'antd'
import { createContext, type ReactNode, useContext, useState } from 'react'
import { PatternError } from '@/base/tokens'
import { captionChips } from '@/jobs/name-chips'
import type { TextSetting } from '@/operations'
import { type CaptionSubject, checkCaption, expandCaption } from '@/operations/declare/caption'
import styles from './controls.module.css'
import { TokenInput } from './token-input'

function problemOf(text: string): string | undefined {
  try {
    checkCaption(text)
    return undefined
  } catch (error) {
    return error instanceof PatternError ? error.message : 'This line can’t be read'
  }
}

/** The picture whose values fields of a line are shown with. */
export const PictureInHand = createContext<CaptionSubject | undefined>(undefined)

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
  const subject = useContext(PictureInHand)
  const values = subject && Object.fromEntries(captionChips.map(({ field }) => [field, expandCaption(field, subject)]))
  return (
    <div className={styles.text}>
      <Tooltip title={setting.help} placement="right" mouseEnterDelay={0.6}>
        <span className={styles.label}>{setting.label}</span>
      </Tooltip>
      <TokenInput
        size="small"
        isQuiet
        label={setting.label}
        chips={captionChips}
        values={values}
        maxLength={setting.maxCharacters}
        isWrong={problem !== undefined}
        value={text}
        onChange={setText}
        onDone={(next) => problemOf(next) === undefined && next !== value && onCommit(next)}
      />
      {problem && (
        <p role="alert" className={styles.problem}>
          {problem}.
        </p>
      )}
    </div>
  )
}

'use client'

import { Input } from 'antd'
import { type ReactNode, useEffect, useState } from 'react'

interface Props {
  label: string
  value: string
  max?: number
  /** Several lines, as many as there are. */
  long?: boolean
  onChange(value: string): void
}

/** Text that becomes one edit when the field is left, not one a letter. */
export function LateText({ label, value, max = 200, long = false, onChange }: Props): ReactNode {
  const [text, setText] = useState(value)
  useEffect(() => setText(value), [value])
  const field = {
    size: 'small',
    'aria-label': label,
    placeholder: label,
    maxLength: max,
    value: text,
    onBlur: () => text !== value && onChange(text),
  } as const
  return long ? (
    <Input.TextArea {...field} autoSize={{ minRows: 1, maxRows: 6 }} onChange={(event) => setText(event.target.value)} />
  ) : (
    <Input {...field} onChange={(event) => setText(event.target.value)} onPressEnter={(event) => event.currentTarget.blur()} />
  )
}

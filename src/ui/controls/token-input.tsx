'use client'

import { AutoComplete, Input, type InputRef, Tooltip } from 'antd'
import { type ReactNode, useRef, useState } from 'react'
import { type Chip, openBrace } from '@/jobs/name-chips'
import styles from './token-input.module.css'

interface Props {
  label: string
  value: string
  chips: readonly Chip[]
  /** What fields are of a picture, by field. */
  values?: Readonly<Record<string, string>> | undefined
  isWrong?: boolean
  suffix?: ReactNode
  size?: 'small'
  placeholder?: string
  maxLength?: number
  /** The chips show while the line has the focus, not always. */
  isQuiet?: boolean
  onChange(value: string): void
  /** The line is done: it lost the focus, or a field was put in. */
  onDone?(value: string): void
}

/** A line with fields in braces: each is put in by a click, where the caret is, or chosen from a list once a brace is opened. */
export function TokenInput({
  label,
  value,
  chips,
  values = {},
  isWrong = false,
  isQuiet = false,
  onChange,
  onDone,
  ...rest
}: Props): ReactNode {
  const input = useRef<InputRef>(null)
  const [caret, setCaret] = useState(0)
  const [isTyping, setTyping] = useState(false)
  const brace = isTyping ? openBrace(value, caret) : undefined
  const wanted = brace === undefined ? '' : value.slice(brace + 1, caret).toLowerCase()
  const fitting = brace === undefined ? [] : chips.filter(({ field }) => field.startsWith('{') && field.slice(1).startsWith(wanted))
  // What is called just that comes first.
  const found = fitting.toSorted((a, b) => Number(b.name === wanted) - Number(a.name === wanted))

  const put = (field: string, from: number, to: number): void => {
    const element = input.current?.input
    const next = value.slice(0, from) + field + value.slice(to)
    setTyping(false)
    onChange(next)
    onDone?.(next)
    // Behind what was put in, once it is there.
    requestAnimationFrame(() => {
      element?.focus()
      element?.setSelectionRange(from + field.length, from + field.length)
    })
  }
  const insert = (field: string): void => {
    const element = input.current?.input
    put(field, element?.selectionStart ?? value.length, element?.selectionEnd ?? value.length)
  }
  return (
    <div className={styles.field} data-quiet={isQuiet || undefined}>
      <AutoComplete
        className={styles.line}
        value={value}
        open={found.length > 0}
        defaultActiveFirstOption
        options={found.map(({ field, meaning }) => ({
          value: field,
          label: (
            <span className={styles.option}>
              <code>{field}</code> {meaning}
            </span>
          ),
        }))}
        popupMatchSelectWidth={420}
        onSelect={(field: string) => put(field, brace ?? caret, caret)}
        onOpenChange={(open) => !open && setTyping(false)}
      >
        <Input
          ref={input}
          {...rest}
          aria-label={label}
          className={styles.text}
          status={isWrong ? 'error' : undefined}
          value={value}
          spellCheck={false}
          onChange={(event) => {
            setCaret(event.target.selectionStart ?? event.target.value.length)
            setTyping(true)
            onChange(event.target.value)
          }}
          onBlur={() => {
            setTyping(false)
            onDone?.(value)
          }}
          onPressEnter={(event) => onDone && found.length === 0 && event.currentTarget.blur()}
        />
      </AutoComplete>
      {/* A press on a chip leaves the caret where it is. */}
      {/* biome-ignore lint/a11y/noStaticElementInteractions: nothing is done here but keeping the focus */}
      <div className={styles.chips} onMouseDown={(event) => event.preventDefault()}>
        {chips.map(({ name, field, meaning }) => (
          <Tooltip key={field} title={meaning} mouseEnterDelay={0.4}>
            <button type="button" aria-label={`Put in ${field}: ${meaning}`} onClick={() => insert(field)}>
              {name}
              {values[field] ? <span className={styles.value}>{values[field]}</span> : null}
            </button>
          </Tooltip>
        ))}
      </div>
    </div>
  )
}

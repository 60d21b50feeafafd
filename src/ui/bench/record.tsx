'use client'

import { Button } from 'antd'
import { memo, type ReactNode, useEffect, useState } from 'react'
import { createPortal } from 'react-dom'
import { counted } from '@/base/format'
import { barMiddleId } from '../shell/top-bar'
import { useBench, useBenchParts } from './store'
import { firstName, useToggleRecording } from './use-recording'
import styles from './wire.module.css'

export function RecordButton(): ReactNode {
  const recording = useBench((state) => state.history.document.recording !== null)
  const toggle = useToggleRecording()
  return (
    <Button
      block
      size="small"
      type={recording ? 'primary' : 'default'}
      aria-pressed={recording}
      title="Record, or end the recording (R)"
      onClick={toggle}
    >
      <span aria-hidden="true" style={recording ? undefined : { color: 'var(--copper)' }}>
        {recording ? '■' : '●'}
      </span>
      {recording ? 'Stop' : 'Record'}
    </Button>
  )
}

/**
 * Says that recording is on, into what, and how much there is; the name is edited in place. It stands in the top bar,
 * where its coming and going moves nothing.
 */
export const RecordBar = memo(function RecordBar(): ReactNode {
  const { history, commit } = useBenchParts('history', 'commit')
  const { document } = history
  const [name, setName] = useState(document.recording ?? '')
  useEffect(() => setName(document.recording ?? ''), [document.recording])
  const barMiddle = typeof window === 'undefined' ? null : window.document.getElementById(barMiddleId)
  if (document.recording === null || !barMiddle) return null
  const kept = document.steps.filter((step) => step.kept).length
  const rename = (): void => {
    const next = name.trim() || firstName
    setName(next)
    if (next !== document.recording) commit({ type: 'recording', before: document.recording, after: next })
  }
  return createPortal(
    <div className={styles.recordBar} role="status" aria-label="Recording">
      <span className={styles.lamp} aria-hidden="true" />
      Recording into
      <input
        aria-label="Name of the macro"
        value={name}
        maxLength={120}
        onChange={(event) => setName(event.target.value)}
        onBlur={rename}
        onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
      />
      · {counted(kept, 'step')}
    </div>,
    barMiddle,
  )
})

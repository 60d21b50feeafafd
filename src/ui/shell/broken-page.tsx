'use client'

import { Button } from 'antd'
import { type ReactNode, useState } from 'react'
import styles from './broken-page.module.css'

interface Props {
  error: Error & { digest?: string }
}

/** Takes the place of a page that broke. The work is where it always is: every edit was stored as it was made. */
export function BrokenPage({ error }: Props): ReactNode {
  const [isCopied, setCopied] = useState(false)
  const account = [error.name, error.message, error.digest, error.stack].filter(Boolean).join('\n')
  const copy = async (): Promise<void> => {
    await navigator.clipboard.writeText(account)
    setCopied(true)
  }
  return (
    <div className={styles.broken} role="alert">
      <svg viewBox="0 0 320 40" aria-hidden="true" className={styles.wire}>
        <path d="M0 20h132q10 0 14 8M188 12q4 8 14 8h118" fill="none" stroke="var(--wire)" strokeWidth="2.5" strokeLinecap="round" />
        <circle cx="60" cy="20" r="7" fill="var(--wire)" />
        <circle cx="260" cy="20" r="7" fill="var(--wire)" />
      </svg>
      <h1>This page broke</h1>
      <p>Your work is kept: edits at the bench, macros and loops were stored as you made them, and runs go on in their own process.</p>
      <p className={styles.actions}>
        <Button type="primary" onClick={() => window.location.reload()}>
          Open it again
        </Button>
        <Button href="/loops">Go to Loops</Button>
        <Button type="text" onClick={() => void copy()}>
          {isCopied ? 'Copied' : 'Copy what happened'}
        </Button>
      </p>
      <pre className={styles.account}>{error.message}</pre>
    </div>
  )
}

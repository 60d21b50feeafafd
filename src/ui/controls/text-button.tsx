'use client'

import type { ReactNode } from 'react'
import styles from './text-button.module.css'

/** Something to do, inside a sentence. */
export const TextButton = ({ onClick, children }: { onClick(): void; children: ReactNode }): ReactNode => (
  <button type="button" className={styles.button} onClick={onClick}>
    {children}
  </button>
)

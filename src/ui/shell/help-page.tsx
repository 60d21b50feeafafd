'use client'

import type { ReactNode } from 'react'
import { Jobs, Shortcuts } from './help-parts'
import page from './page.module.css'
import styles from './shell.module.css'

/** Jobs, each in a few lines, beside the shortcuts. */
export function HelpPage(): ReactNode {
  return (
    <div className={page.page}>
      <div className={page.head}>
        <h1>Help</h1>
      </div>
      <div className={styles.helpPage}>
        <section>
          <h2>Jobs</h2>
          <Jobs />
        </section>
        <section>
          <h2>Shortcuts</h2>
          <Shortcuts />
        </section>
      </div>
    </div>
  )
}

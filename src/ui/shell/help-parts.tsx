'use client'

import { Switch } from 'antd'
import type { ReactNode } from 'react'
import { keysOf } from '@/base/schema'
import { jobs } from './jobs'
import styles from './shell.module.css'
import { shortcutLabel, shortcuts } from './shortcuts'
import { useSingleKeys } from './single-keys'

const pages = ['Everywhere', 'Bench', 'Proof'] as const

/** What people come for, and how it is done here. */
export function Jobs(): ReactNode {
  return (
    <div className={styles.jobs}>
      {jobs.map(({ name, lines }) => (
        <section key={name}>
          <h3>{name}</h3>
          <ol>
            {lines.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ol>
        </section>
      ))}
    </div>
  )
}

/** The shortcuts by the page where they hold, and the switch for those of a single key. */
export function Shortcuts(): ReactNode {
  const { areOn, turn } = useSingleKeys()
  return (
    <>
      <p className={styles.keysSwitch}>
        <Switch size="small" aria-label="Single keys are shortcuts" checked={areOn} onChange={turn} /> Single keys are shortcuts; off, only
        those with Ctrl or ⌘ hold.
      </p>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reachable by keyboard */}
      <section className={styles.helpPages} aria-label="Shortcuts by page" tabIndex={0}>
        {pages.map((page) => (
          <section key={page}>
            <h3>{page}</h3>
            <dl className={styles.shortcuts}>
              {keysOf(shortcuts)
                .filter((name) => shortcuts[name].where.includes(page))
                .map((name) => (
                  <div key={name}>
                    <dt>
                      <kbd>{shortcutLabel(name)}</kbd>
                    </dt>
                    <dd>{shortcuts[name].what}</dd>
                  </div>
                ))}
            </dl>
          </section>
        ))}
      </section>
    </>
  )
}

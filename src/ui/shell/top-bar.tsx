'use client'

import { SettingOutlined } from '@ant-design/icons'
import { Button, Tooltip } from 'antd'
import Link from 'next/link'
import { usePathname } from 'next/navigation'
import type { ReactNode } from 'react'
import { CommandSearch } from './command-search'
import { Help } from './help'
import { Mark } from './mark'
import { RunChip } from './run-chip'
import styles from './shell.module.css'

const pages = [
  { href: '/bench', name: 'Bench' },
  { href: '/macros', name: 'Macros' },
  { href: '/loops', name: 'Loops' },
  { href: '/runs', name: 'Runs' },
] as const

/** Before the door there is nothing to go to. */
export const signInPath = '/sign-in'

/** A page may put what is going on there into the middle of the bar. */
export const barMiddleId = 'bar-middle'

/** The four places, and what is true everywhere: runs, search, help, settings. */
export function TopBar(): ReactNode {
  const pathname = usePathname()
  if (pathname === signInPath) return null
  return (
    <header className={styles.bar}>
      <Link href="/bench" className={styles.brand}>
        <Mark />
        <span>Copper Loop</span>
      </Link>
      <nav aria-label="Places" className={styles.pages}>
        {pages.map(({ href, name }) => (
          <Link key={href} href={href} aria-current={pathname.startsWith(href) ? 'page' : undefined}>
            {name}
          </Link>
        ))}
      </nav>
      <div id={barMiddleId} className={styles.middle} />
      <div className={styles.end}>
        <RunChip />
        <CommandSearch />
        <Help />
        <Link href="/settings" aria-label="Settings">
          <Tooltip title="Settings: folders, backup, light or dark">
            <Button type="text" icon={<SettingOutlined />} tabIndex={-1} aria-hidden="true" />
          </Tooltip>
        </Link>
      </div>
    </header>
  )
}

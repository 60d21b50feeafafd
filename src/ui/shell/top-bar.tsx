'use client'

import { BulbOutlined } from '@ant-design/icons'
import { Button, Dropdown, Tooltip } from 'antd'
import Link from 'next/link'
import { usePathname } from 'next/navigation'
import type { ReactNode } from 'react'
import { type ThemeChoice, useThemeStore } from '../theme/theme-store'
import { CommandSearch } from './command-search'
import { Help } from './help'
import { Mark } from './mark'
import { RunChip } from './run-chip'
import styles from './shell.module.css'

const places = [
  { href: '/bench', name: 'Bench' },
  { href: '/macros', name: 'Macros' },
  { href: '/loops', name: 'Loops' },
  { href: '/runs', name: 'Runs' },
] as const

const themes: readonly { key: ThemeChoice; label: string }[] = [
  { key: 'system', label: 'As the system' },
  { key: 'light', label: 'Light' },
  { key: 'dark', label: 'Dark' },
]

/** A page may put what is going on there into the middle of the bar. */
export const barMiddleId = 'bar-middle'

/** The four places, and what is true everywhere: runs, help, light or dark. */
export function TopBar(): ReactNode {
  const pathname = usePathname()
  const { choice, choose } = useThemeStore()
  return (
    <header className={styles.bar}>
      <Link href="/bench" className={styles.brand}>
        <Mark />
        <span>Copper Loop</span>
      </Link>
      <nav aria-label="Places" className={styles.places}>
        {places.map(({ href, name }) => (
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
        <Dropdown
          trigger={['click']}
          menu={{
            items: themes.map((item) => ({ ...item })),
            selectable: true,
            selectedKeys: [choice],
            onClick: ({ key }) => choose(key as ThemeChoice),
          }}
        >
          <Tooltip title="Light or dark">
            <Button type="text" icon={<BulbOutlined />} aria-label="Light or dark" />
          </Tooltip>
        </Dropdown>
      </div>
    </header>
  )
}

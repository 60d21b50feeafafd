'use client'

import { DeleteOutlined } from '@ant-design/icons'
import { App, Button, Input, Segmented, Skeleton, Space, Typography } from 'antd'
import { type ReactNode, useState } from 'react'
import { formatBytes } from '@/core/format'
import type { SettingsView } from '@/server/settings'
import { useClearCache, useMakeBackup, useNameRoots, useSettings } from '../api/queries'
import page from '../shell/page.module.css'
import { type ThemeChoice, useThemeStore } from '../theme/theme-store'
import styles from './settings.module.css'

const themes: { value: ThemeChoice; label: string }[] = [
  { value: 'system', label: 'As the system' },
  { value: 'light', label: 'Light' },
  { value: 'dark', label: 'Dark' },
]

/** Where pictures may be, where everything lies, how it looks. */
export function SettingsPage(): ReactNode {
  const { data: settings, error } = useSettings()
  return (
    <div className={page.page}>
      <div className={page.head}>
        <h1>Settings</h1>
      </div>
      {error && <p className={page.empty}>{error.message}</p>}
      {!settings && !error && <Skeleton active />}
      {settings && (
        <div className={styles.parts}>
          <RootsPart settings={settings} />
          <DataPart settings={settings} />
          <LookPart />
        </div>
      )}
    </div>
  )
}

function RootsPart({ settings }: { settings: SettingsView }): ReactNode {
  const { message } = App.useApp()
  const [path, setPath] = useState('')
  const name = useNameRoots()
  const { rootsAreFixed: fixed } = settings
  const paths = settings.roots.map((root) => root.path)
  const change = (roots: readonly string[]): Promise<unknown> =>
    name.mutateAsync(roots).catch((problem: Error) => void message.error(problem.message, 8))
  return (
    <section aria-label="Folders with pictures">
      <h2>Folders with pictures</h2>
      <p className={page.quiet}>
        Pictures are read and written only in these folders and what lies below them.
        {fixed && ' They are named by COPPER_LOOP_ROOTS where Copper Loop was started.'}
      </p>
      <ul className={styles.roots}>
        {settings.roots.map((root) => (
          <li key={root.path}>
            <code>{root.path}</code>
            {!root.isThere && <span className={styles.gone}>▲ is not there now</span>}
            {!fixed && (
              <Button
                type="text"
                size="small"
                icon={<DeleteOutlined />}
                aria-label={`No longer use ${root.path}`}
                onClick={() => change(paths.filter((other) => other !== root.path))}
              />
            )}
          </li>
        ))}
      </ul>
      {!fixed && (
        <Space.Compact block>
          <Input
            aria-label="Path of a folder"
            placeholder="/home/you/Pictures"
            spellCheck={false}
            value={path}
            onChange={(event) => setPath(event.target.value)}
            onPressEnter={() => path.trim() && void change([...paths, path]).then(() => setPath(''))}
          />
          <Button loading={name.isPending} disabled={!path.trim()} onClick={() => void change([...paths, path]).then(() => setPath(''))}>
            Add folder
          </Button>
        </Space.Compact>
      )}
    </section>
  )
}

function DataPart({ settings }: { settings: SettingsView }): ReactNode {
  const clear = useClearCache()
  const backup = useMakeBackup()
  return (
    <section aria-label="What Copper Loop keeps">
      <h2>What Copper Loop keeps</h2>
      <p>
        Macros, loops, runs and the bench lie in{' '}
        <Typography.Text code copyable={{ text: settings.dataFolder, tooltips: ['Copy the path', 'Copied'] }}>
          {settings.dataFolder}
        </Typography.Text>
        . Copying that folder is a backup of everything.
      </p>
      <div className={styles.line}>
        <span>Small pictures in the cache: {formatBytes(settings.cacheBytes)}</span>
        <Button size="small" loading={clear.isPending} disabled={settings.cacheBytes === 0} onClick={() => clear.mutate(undefined)}>
          Clear
        </Button>
      </div>
      <div className={styles.line}>
        <span>Copies of the database, made while everything goes on</span>
        <Button size="small" loading={backup.isPending} onClick={() => backup.mutate(undefined)}>
          Make a copy
        </Button>
      </div>
      {settings.backups.length > 0 && (
        <ul className={styles.roots}>
          {settings.backups.slice(0, 5).map(({ name, bytes }) => (
            <li key={name}>
              <code>backups/{name}</code> <span className={page.quiet}>{formatBytes(bytes)}</span>
            </li>
          ))}
        </ul>
      )}
      <p className={page.quiet}>
        To go back to one, stop Copper Loop and put it in the place of <code>copper-loop.sqlite</code>. {settings.workers} pictures are
        worked on at a time; COPPER_LOOP_WORKERS changes that.
      </p>
    </section>
  )
}

function LookPart(): ReactNode {
  const { choice, choose } = useThemeStore()
  return (
    <section aria-label="Look">
      <h2>Look</h2>
      <Segmented<ThemeChoice> aria-label="Light or dark" options={themes} value={choice} onChange={choose} />
    </section>
  )
}

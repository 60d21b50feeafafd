'use client'

import { DeleteOutlined, FolderOpenOutlined } from '@ant-design/icons'
import { App, Button, Input, InputNumber, Popconfirm, Segmented, Skeleton, Space, Switch, Typography } from 'antd'
import dayjs from 'dayjs'
import { type ReactNode, useState } from 'react'
import { formatBytes } from '@/base/format'
import type { ShownSettings } from '@/contract/answers'
import { routes } from '@/contract/routes'
import { call } from '../api/client'
import { useClearCache, useMakeBackup, useNameRoots, useRestoreBackup, useSetInbox, useSetMachine, useSettings } from '../api/queries'
import { FolderBrowser } from '../controls/folder-browser'
import { useNotices, wantNotices } from '../shell/notices'
import page from '../shell/page.module.css'
import { useSingleKeys } from '../shell/single-keys'
import { signInPath } from '../shell/top-bar'
import { StationsPart } from '../stations/stations'
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
          <MachinePart settings={settings} />
          <StationsPart redis={settings.redis} />
          <DataPart settings={settings} />
          <NoticePart />
          <KeysPart />
          <AppearancePart />
          {settings.asksPassphrase && <PassphrasePart />}
        </div>
      )}
    </div>
  )
}

function RootsPart({ settings }: { settings: ShownSettings }): ReactNode {
  const { message } = App.useApp()
  const [path, setPath] = useState('')
  const name = useNameRoots()
  const { rootsAreFixed: fixed } = settings
  const paths = settings.roots.map((root) => root.path)
  const [browsing, setBrowsing] = useState(false)
  const [refused, setRefused] = useState<string>()
  const change = (roots: readonly string[]): Promise<unknown> =>
    name.mutateAsync(roots).catch((problem: Error) => void message.error(problem.message, 8))
  /** What is refused stays in the field, with why. */
  const add = async (wanted: string): Promise<void> => {
    setPath(wanted)
    try {
      await name.mutateAsync([...paths, wanted])
      setPath('')
      setRefused(undefined)
    } catch (problem) {
      setRefused(problem instanceof Error ? problem.message : String(problem))
    }
  }
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
        <>
          <Space.Compact block>
            <Input
              aria-label="Path of a folder"
              placeholder="/home/you/Pictures"
              spellCheck={false}
              status={refused ? 'error' : undefined}
              value={path}
              onChange={(event) => setPath(event.target.value)}
              onPressEnter={() => path.trim() && void add(path)}
            />
            <Button icon={<FolderOpenOutlined />} aria-label="Choose a folder to add" onClick={() => setBrowsing(true)} />
            <Button loading={name.isPending} disabled={!path.trim()} onClick={() => void add(path)}>
              Add folder
            </Button>
          </Space.Compact>
          {refused && (
            <p role="alert" className={styles.gone}>
              {refused}
            </p>
          )}
          <FolderBrowser
            title="Add a folder with pictures"
            wants="folder"
            anywhere
            open={browsing}
            start={undefined}
            onClose={() => setBrowsing(false)}
            onChoose={(chosen) => {
              setBrowsing(false)
              void add(chosen)
            }}
          />
        </>
      )}
    </section>
  )
}

function MachinePart({ settings }: { settings: ShownSettings }): ReactNode {
  const { message } = App.useApp()
  const set = useSetMachine()
  const clear = useClearCache()
  const change = (part: { workers?: number; cacheMb?: number }): void =>
    set.mutate(part, { onError: (problem) => void message.error(problem.message, 8) })
  return (
    <section aria-label="What it uses of this machine">
      <h2>What it uses of this machine</h2>
      <div className={styles.line}>
        <span>
          Pictures worked on at a time
          <br />
          <span className={page.quiet}>
            {settings.workers === 0 &&
              'Stations do the work; pictures that are dropped or gathered on pages are done here, one at a time. '}
            {settings.workersAreFixed
              ? 'Named by COPPER_LOOP_WORKERS where Copper Loop was started.'
              : 'One for each core is fastest. Each takes up to 1.5 GB of memory with very large pictures. Holds at once, also for a run under way.'}
          </span>
        </span>
        <InputNumber
          aria-label="Pictures worked on at a time"
          min={settings.workersAreFixed ? 0 : 1}
          max={64}
          precision={0}
          changeOnBlur
          disabled={settings.workersAreFixed}
          value={settings.workers}
          onChange={(workers) => workers && change({ workers })}
        />
      </div>
      <div className={styles.line}>
        <span>
          Room for small pictures
          <br />
          <span className={page.quiet}>{formatBytes(settings.cacheBytes)} are used. What was not looked at for longest makes room.</span>
        </span>
        <Space.Compact>
          <InputNumber
            aria-label="Room for small pictures"
            min={10}
            max={100_000}
            step={100}
            precision={0}
            changeOnBlur
            suffix="MB"
            style={{ width: 120 }}
            value={settings.cacheMb}
            onChange={(cacheMb) => cacheMb && change({ cacheMb })}
          />
          <Button loading={clear.isPending} disabled={settings.cacheBytes === 0} onClick={() => clear.mutate(undefined)}>
            Clear
          </Button>
        </Space.Compact>
      </div>
      <InboxLine settings={settings} />
      <div className={styles.line}>
        <span>
          When a run is over
          <br />
          <span className={page.quiet}>
            {settings.programAtEnd ? (
              <>
                <code>{settings.programAtEnd}</code> is started with the path of the run’s report.
              </>
            ) : (
              'A program can be started with the path of the run’s report: COPPER_LOOP_AT_END names it where Copper Loop is started, never a page.'
            )}
          </span>
        </span>
      </div>
    </section>
  )
}

/** Pictures that were dropped onto loops: cleared by hand, or after a time that is set. */
function InboxLine({ settings }: { settings: ShownSettings }): ReactNode {
  const { message } = App.useApp()
  const set = useSetInbox()
  const { pictures, bytes, keptDays } = settings.inbox
  const change = (part: { keptDays?: number | null; clear?: boolean }): void =>
    set.mutate(part, { onError: (problem) => void message.error(problem.message, 8) })
  return (
    <div className={styles.line}>
      <span>
        Pictures dropped onto loops
        <br />
        <span className={page.quiet}>
          {pictures.toLocaleString('en-GB')} lie in the inboxes, {formatBytes(bytes)}: copies of Copper Loop’s own. They stay until they are
          cleared; with a number of days, until then.
        </span>
      </span>
      <Space.Compact>
        <InputNumber
          aria-label="Days that dropped pictures are kept"
          min={1}
          max={10_000}
          precision={0}
          changeOnBlur
          placeholder="for good"
          suffix="days"
          style={{ width: 130 }}
          value={keptDays}
          onChange={(days) => change({ keptDays: days })}
        />
        <Popconfirm
          title="Clear the inboxes?"
          description="Your own files and what was delivered stay. Pictures that a run still needs stay too."
          okText="Clear"
          onConfirm={() => change({ clear: true })}
        >
          <Button loading={set.isPending} disabled={pictures === 0}>
            Clear
          </Button>
        </Popconfirm>
      </Space.Compact>
    </div>
  )
}

/** Copies shown: older ones stay in their folder. */
const shownBackups = 8

function DataPart({ settings }: { settings: ShownSettings }): ReactNode {
  const { message } = App.useApp()
  const backup = useMakeBackup()
  const restore = useRestoreBackup()
  const goBack = (name: string): Promise<void> =>
    restore.mutateAsync(name).then(
      // Everything may have changed: every page begins anew.
      () => window.location.reload(),
      (problem: Error) => void message.error(problem.message, 8),
    )
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
        <span>Copies of the database, made while everything goes on</span>
        <Button size="small" loading={backup.isPending} onClick={() => backup.mutate(undefined)}>
          Make a copy
        </Button>
      </div>
      {settings.backups.length > 0 && (
        <ul className={styles.roots} aria-label="Copies">
          {settings.backups.slice(0, shownBackups).map(({ name, bytes, madeAt }) => (
            <li key={name}>
              <span title={`backups/${name}`}>
                {dayjs(madeAt).format('D MMM YYYY HH:mm:ss')}
                {name.includes('-before-going-back') && ', before going back'}
              </span>
              <span className={page.quiet}>{formatBytes(bytes)}</span>
              <Popconfirm
                title="Go back to this copy?"
                description="Macros, loops, runs and the bench become what they were then. A copy of what is there now is made first. No picture is touched."
                okText="Go back"
                onConfirm={() => goBack(name)}
              >
                <Button size="small" loading={restore.isPending && restore.variables === name}>
                  Go back to it
                </Button>
              </Popconfirm>
            </li>
          ))}
        </ul>
      )}
    </section>
  )
}

function NoticePart(): ReactNode {
  const { message } = App.useApp()
  const { wanted } = useNotices()
  const change = async (next: boolean): Promise<void> => {
    if (!(await wantNotices(next)))
      void message.warning('The browser does not allow notifications from this address. Its settings for the page change that.', 8)
  }
  return (
    <section aria-label="Telling you">
      <h2>Telling you</h2>
      <div className={styles.line}>
        <span>A notification of the system when a run is done, or is held up by a fault; while a page of Copper Loop is open</span>
        <Switch aria-label="Notify when a run is done" checked={wanted} onChange={change} />
      </div>
    </section>
  )
}

function KeysPart(): ReactNode {
  const { areOn, turn } = useSingleKeys()
  return (
    <section aria-label="Keys">
      <h2>Keys</h2>
      <div className={styles.line}>
        <span>Single keys are shortcuts. Turned off, only those with Ctrl or ⌘ hold, and nothing is done by a key struck by accident</span>
        <Switch aria-label="Single keys are shortcuts" checked={areOn} onChange={turn} />
      </div>
    </section>
  )
}

function AppearancePart(): ReactNode {
  const { choice, choose } = useThemeStore()
  return (
    <section aria-label="Look">
      <h2>Look</h2>
      <Segmented<ThemeChoice> aria-label="Light or dark" options={themes} value={choice} onChange={choose} />
    </section>
  )
}

/** Only where a passphrase is asked for. */
function PassphrasePart(): ReactNode {
  const { message } = App.useApp()
  const leave = (): Promise<void> =>
    call(routes.signOut, {}).then(
      // Nothing of what was seen stays in the page.
      () => window.location.assign(signInPath),
      (problem: Error) => void message.error(problem.message, 8),
    )
  return (
    <section aria-label="Signed in">
      <h2>Signed in</h2>
      <div className={styles.line}>
        <span>
          Runs and loops go on without anybody signed in. Another passphrase, set where Copper Loop is started, ends all sessions.
        </span>
        <Button onClick={leave}>Sign out</Button>
      </div>
    </section>
  )
}

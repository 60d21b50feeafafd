'use client'

import { SearchOutlined } from '@ant-design/icons'
import { Button, Input, Modal, Tooltip } from 'antd'
import { usePathname, useRouter } from 'next/navigation'
import { type KeyboardEvent, type ReactNode, useState } from 'react'
import { type Findable, find } from '@/base/find'
import { alsoCalled, operations } from '@/operations'
import { useLoops, useMacros } from '../api/queries'
import { addOperation } from '../bench/add-operation'
import { benchActions } from '../bench/bench-actions'
import { useBench } from '../bench/store'
import { focusOnceThere } from '../controls/focus-once-there'
import { useRunAndGo } from '../loops/use-run-loop'
import { useThemeStore } from '../theme/theme-store'
import styles from './shell.module.css'
import { useShortcuts } from './shortcuts'

interface Command extends Findable {
  readonly key: string
  run(): void
}

/** As many as fit without scrolling. */
const maxShown = 9

/** Goes anywhere and adds anything, by typing. */
export function CommandSearch(): ReactNode {
  const [open, setOpen] = useState(false)
  useShortcuts({ search: () => setOpen(true) })
  return (
    <>
      <Tooltip title="Find and do (Ctrl/⌘ K)">
        <Button type="text" icon={<SearchOutlined />} aria-label="Find and do" onClick={() => setOpen(true)} />
      </Tooltip>
      <Modal title="Find and do" open={open} onCancel={() => setOpen(false)} footer={null} width={520} destroyOnHidden>
        <Search onDone={() => setOpen(false)} />
      </Modal>
    </>
  )
}

function useCommands(): Command[] {
  const router = useRouter()
  const { run } = useRunAndGo()
  const isBench = usePathname().startsWith('/bench')
  const { data: macros = [] } = useMacros()
  const { data: loops = [] } = useLoops()
  const choose = useThemeStore((state) => state.choose)
  const go = (key: string, name: string, about: string, path: string, also?: string): Command => {
    const run = (): void => router.push(path)
    return { key, name, about, also, run }
  }
  const { set } = useBench.getState()
  const onBench = (part: Parameters<typeof set>[0]) => (): void => {
    router.push('/bench')
    set(part)
  }
  return [
    go('bench', 'Bench', 'Go there', '/bench', 'edit, develop, record'),
    go('macros', 'Macros', 'Go there', '/macros', 'shelf, presets, actions, import'),
    go('loops', 'Loops', 'Go there', '/loops', 'jobs, batches, watched folders, hot folders, schedule'),
    go('runs', 'Runs', 'Go there', '/runs', 'queue, history, progress, log, report'),
    go('settings', 'Settings', 'Go there: folders, backup, look', '/settings', 'preferences, options, permitted folders'),
    go('help', 'Help', 'Go there: jobs in a few lines each, and the shortcuts', '/help', 'manual, documentation, how to, keys'),
    ...benchActions.map(({ key, name, about, also, part }) => ({ key, name, about, also, run: onBench(part) })),
    ...(isBench
      ? operations.map(({ id, name, purpose }) => ({
          key: `add ${id}`,
          name: `Add ${name}`,
          about: purpose,
          also: alsoCalled[id],
          run: () => addOperation(id),
        }))
      : []),
    ...macros.map(({ id, name }) => go(`macro ${id}`, name, 'Macro', `/macros/${id}`)),
    ...loops.map(({ id, name }) => go(`loop ${id}`, name, 'Loop', `/loops/${id}`)),
    ...loops.map(({ id, name }) => ({
      key: `run ${id}`,
      name: `Run ${name}`,
      about: 'Starts the loop, or opens it where it asks something first',
      run: () => void run(id, () => router.push(`/loops/${id}`)),
    })),
    { key: 'light', name: 'Light theme', about: 'Look', run: () => choose('light') },
    { key: 'dark', name: 'Dark theme', about: 'Look', run: () => choose('dark') },
  ]
}

function Search({ onDone }: { onDone(): void }): ReactNode {
  const commands = useCommands()
  const [wanted, setWanted] = useState('')
  const [at, setAt] = useState(0)
  const found = find(commands, wanted).slice(0, maxShown)
  const take = (command: Command | undefined): void => {
    if (!command) return
    onDone()
    command.run()
  }
  const move = (event: KeyboardEvent): void => {
    const by = { ArrowDown: 1, ArrowUp: -1 }[event.key]
    if (by === undefined || found.length === 0) return
    event.preventDefault()
    setAt((at + by + found.length) % found.length)
  }
  return (
    <>
      <Input
        ref={focusOnceThere}
        prefix={<SearchOutlined />}
        placeholder="A place, an operation, a macro, a loop"
        aria-label="What to find"
        aria-controls="commands"
        value={wanted}
        onChange={(event) => {
          setWanted(event.target.value)
          setAt(0)
        }}
        onKeyDown={move}
        onPressEnter={(event) => {
          // The key is not to press what comes up under it.
          event.preventDefault()
          take(found[at])
        }}
      />
      <ul id="commands" className={styles.commands}>
        {found.map((command, index) => (
          <li key={command.key}>
            <button type="button" data-at={index === at || undefined} onClick={() => take(command)} onMouseEnter={() => setAt(index)}>
              <b>{command.name}</b>
              <span>{command.about}</span>
            </button>
          </li>
        ))}
        {found.length === 0 && <li>Nothing is called “{wanted}”.</li>}
      </ul>
    </>
  )
}

'use client'

import { SearchOutlined } from '@ant-design/icons'
import { Button, Input, type InputRef, Modal, Tooltip } from 'antd'
import { usePathname, useRouter } from 'next/navigation'
import { type KeyboardEvent, type ReactNode, useMemo, useRef, useState } from 'react'
import { operations } from '@/operations'
import { useLoops, useMacros } from '../api/queries'
import { addOperation } from '../bench/add-operation'
import { useThemeStore } from '../theme/theme-store'
import styles from './shell.module.css'
import { useShortcuts } from './shortcuts'

interface Command {
  readonly key: string
  readonly name: string
  /** What kind of thing it is, or what it is for. */
  readonly about: string
  run(): void
}

/** As many as fit without scrolling. */
const maxShown = 9

/** Commands that have all the words, those with them in the name first. */
export function findCommands<T extends Pick<Command, 'name' | 'about'>>(commands: readonly T[], wanted: string): T[] {
  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean)
  const inName = ({ name }: T): number => words.filter((word) => name.toLowerCase().includes(word)).length
  return commands
    .filter(({ name, about }) => words.every((word) => `${name} ${about}`.toLowerCase().includes(word)))
    .toSorted((a, b) => inName(b) - inName(a))
}

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
  const isBench = usePathname().startsWith('/bench')
  const { data: macros = [] } = useMacros()
  const { data: loops = [] } = useLoops()
  const choose = useThemeStore((state) => state.choose)
  return useMemo(() => {
    const go = (key: string, name: string, about: string, path: string): Command => ({ key, name, about, run: () => router.push(path) })
    return [
      go('bench', 'Bench', 'Go there', '/bench'),
      go('macros', 'Macros', 'Go there', '/macros'),
      go('loops', 'Loops', 'Go there', '/loops'),
      go('runs', 'Runs', 'Go there', '/runs'),
      go('settings', 'Settings', 'Go there: folders, backup, look', '/settings'),
      ...(isBench
        ? operations.map(({ id, name, purpose }) => ({
            key: `add ${id}`,
            name: `Add ${name}`,
            about: purpose,
            run: () => addOperation(id),
          }))
        : []),
      ...macros.map(({ id, name }) => go(`macro ${id}`, name, 'Macro', `/macros/${id}`)),
      ...loops.map(({ id, name }) => go(`loop ${id}`, name, 'Loop', `/loops/${id}`)),
      { key: 'light', name: 'Light theme', about: 'Look', run: () => choose('light') },
      { key: 'dark', name: 'Dark theme', about: 'Look', run: () => choose('dark') },
    ]
  }, [router, isBench, macros, loops, choose])
}

function Search({ onDone }: { onDone(): void }): ReactNode {
  const commands = useCommands()
  const input = useRef<InputRef>(null)
  const [wanted, setWanted] = useState('')
  const [at, setAt] = useState(0)
  const found = findCommands(commands, wanted).slice(0, maxShown)
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
        ref={input}
        autoFocus
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
        onPressEnter={() => take(found[at])}
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

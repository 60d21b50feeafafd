'use client'

import { Input, Popover } from 'antd'
import { type ReactElement, type ReactNode, useState } from 'react'
import { type Operation, operationGroups, operations } from '@/operations'
import styles from './wire.module.css'

interface Props {
  open: boolean
  onOpen(open: boolean): void
  onAdd(operationId: string): void
  children: ReactElement
}

/** The searchable list of operations, in groups, each with one line on what it is for. */
export function AddStep({ open, onOpen, onAdd, children }: Props): ReactNode {
  return (
    <Popover open={open} onOpenChange={onOpen} trigger="click" placement="topLeft" destroyOnHidden content={<Catalogue onAdd={onAdd} />}>
      {children}
    </Popover>
  )
}

/** Operations whose name holds what is looked for come before those whose purpose does. */
function byName(wanted: string, found: readonly Operation[]): Operation[] {
  const inName = ({ name }: Operation): number => Number(!name.toLowerCase().includes(wanted.trim().toLowerCase()))
  return found.toSorted((a, b) => inName(a) - inName(b))
}

function Catalogue({ onAdd }: { onAdd(operationId: string): void }): ReactNode {
  const [wanted, setWanted] = useState('')
  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean)
  const fitting = byName(
    wanted,
    operations.filter(({ name, purpose, group }) => words.every((word) => `${name} ${purpose} ${group}`.toLowerCase().includes(word))),
  )
  return (
    <div className={styles.catalogue}>
      <Input
        autoFocus
        allowClear
        placeholder="Find an operation"
        aria-label="Find an operation"
        value={wanted}
        onChange={(event) => setWanted(event.target.value)}
        onPressEnter={() => fitting[0] && onAdd(fitting[0].id)}
      />
      <ul>
        {operationGroups.map((group) => {
          const inGroup = fitting.filter((operation) => operation.group === group)
          if (inGroup.length === 0) return null
          return (
            <li key={group}>
              <h3>{group}</h3>
              {inGroup.map((operation) => (
                <button key={operation.id} type="button" onClick={() => onAdd(operation.id)}>
                  <b>{operation.name}</b>
                  <span>{operation.purpose}</span>
                </button>
              ))}
            </li>
          )
        })}
        {fitting.length === 0 && <li>Nothing is called “{wanted}”.</li>}
      </ul>
    </div>
  )
}

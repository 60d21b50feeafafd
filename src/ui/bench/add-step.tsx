'use client'

import { Input, Popover } from 'antd'
import { type ReactElement, type ReactNode, useMemo, useState } from 'react'
import { find } from '@/base/find'
import { newStep, type Step } from '@/macros/step'
import { alsoCalled, findOperation, type Operation, operationGroups, operations, shownBy } from '@/operations'
import { focusOnceThere } from '../controls/focus-once-there'
import { benchActions } from './bench-actions'
import { SampleCanvas } from './samples'
import { useBench, useBenchParts } from './store'
import { isPicture, type SampleState, useSamplePictures } from './use-sample-pictures'
import styles from './wire.module.css'
import type { SampleWish } from './worker/samples-worker'

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

const findable = operations.map((operation) => ({
  ...operation,
  about: `${operation.purpose} ${operation.group}`,
  also: alsoCalled[operation.id],
}))
const actions = benchActions.filter(({ key }) => key !== 'add')

/** Where the best of a group stands among what was found. */
const placeOf = (found: readonly Pick<Operation, 'group'>[], group: string): number => {
  const place = found.findIndex((operation) => operation.group === group)
  return place < 0 ? found.length : place
}

/** Long edge of the copy that small pictures of operations are made of: twice what is seen of it. */
const smallEdge = 160

const smallWishes = (path: string, steps: readonly Step[]): SampleWish[] =>
  operations.flatMap(({ id }) => {
    const settings = shownBy[id]
    return settings ? [{ key: id, path, edge: smallEdge, steps: [...steps, newStep(id, 'shown', settings)] }] : []
  })

/** What each operation does to the picture in hand, where a small picture can tell that. */
function useSmallPictures(): ReadonlyMap<string, SampleState> {
  const { history, selectedId, sample } = useBenchParts('history', 'selectedId', 'sample')
  const { steps } = history.document
  const path = sample?.path
  const wishes = useMemo(() => {
    const selected = steps.findIndex(({ id }) => id === selectedId)
    const before = selected < 0 ? steps : steps.slice(0, selected + 1)
    return path
      ? smallWishes(
          path,
          before.filter(({ operation }) => findOperation(operation)),
        )
      : []
  }, [path, steps, selectedId])
  return useSamplePictures(wishes)
}

function SmallShow({ state }: { state: SampleState | undefined }): ReactNode {
  return <span className={styles.small}>{isPicture(state) && <SampleCanvas picture={state} />}</span>
}

function Catalogue({ onAdd }: { onAdd(operationId: string): void }): ReactNode {
  const [wanted, setWanted] = useState('')
  const pictures = useSmallPictures()
  const set = useBench((bench) => bench.set)
  const fitting = find(findable, wanted)
  const elsewhere = wanted.trim() ? find(actions, wanted) : []
  // Nothing wanted: by group. Otherwise what fits best comes first.
  const groups = operationGroups.toSorted((a, b) => placeOf(fitting, a) - placeOf(fitting, b))
  return (
    <div className={styles.catalogue}>
      <Input
        ref={focusOnceThere}
        allowClear
        placeholder="Find an operation"
        aria-label="Find an operation"
        value={wanted}
        onChange={(event) => setWanted(event.target.value)}
        onPressEnter={(event) => {
          // The key is not to press what comes up under it.
          event.preventDefault()
          if (fitting[0]) onAdd(fitting[0].id)
          else if (elsewhere[0]) set({ adding: false, ...elsewhere[0].part })
        }}
      />
      <ul>
        {(wanted.trim() ? groups : operationGroups).map((group) => {
          const inGroup = fitting.filter((operation) => operation.group === group)
          if (inGroup.length === 0) return null
          return (
            <li key={group}>
              <h3>{group}</h3>
              {inGroup.map((operation) => (
                <button key={operation.id} type="button" className={styles.offered} onClick={() => onAdd(operation.id)}>
                  <SmallShow state={pictures.get(operation.id)} />
                  <span>
                    <b>{operation.name}</b>
                    <span>{operation.purpose}</span>
                  </span>
                </button>
              ))}
            </li>
          )
        })}
        {elsewhere.length > 0 && (
          <li>
            <h3>not a step</h3>
            {elsewhere.map(({ key, name, about, part }) => (
              <button key={key} type="button" onClick={() => set({ adding: false, ...part })}>
                <b>{name}</b>
                <span>{about}</span>
              </button>
            ))}
          </li>
        )}
        {fitting.length + elsewhere.length === 0 && <li>Nothing is called “{wanted}”.</li>}
      </ul>
    </div>
  )
}

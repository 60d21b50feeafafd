'use client'

import { AppstoreOutlined } from '@ant-design/icons'
import { Button, Checkbox, Input, Modal, Popover, Tag, Tooltip } from 'antd'
import { memo, type ReactNode, useEffect, useMemo, useState } from 'react'
import { counted } from '@/base/format'
import type { ShelfMacro } from '@/contract/answers'
import { completeSteps, type Step, stepName } from '@/macros/step'
import { findOperation } from '@/operations'
import { useMacros } from '../api/queries'
import { focusOnceThere } from '../controls/focus-once-there'
import { useTilePlaces } from '../controls/use-tile-places'
import { isSought } from '../macros/is-sought'
import { laySteps } from './bead-actions'
import { SampleCanvas } from './samples'
import { isRawOnItsWay, useBench, useBenchParts } from './store'
import styles from './try-macros.module.css'
import { isPicture, type SampleState, useShown, useWishedPictures } from './use-sample-pictures'
import type { SampleWish } from './worker/samples-worker'

/** Long edge of the copy that macros are tried on. */
const tryEdge = 640
const card = { width: 372, height: 318 }

/** Once the bench has come to rest, what tries macros is made ready: the first picture is then there at once. */
const readyAfterMs = 4000

/** Every macro of the shelf, looks too, on the picture in hand; one click lays it on the wire. */
export const TryMacros = memo(function TryMacros(): ReactNode {
  const { tries, sample, set } = useBenchParts('tries', 'sample', 'set')
  const [isReady, setReady] = useState(false)
  useEffect(() => {
    const timer = setTimeout(() => setReady(true), readyAfterMs)
    return () => {
      clearTimeout(timer)
      useBench.getState().set({ tries: false })
    }
  }, [])
  return (
    <>
      <Tooltip title="Try macros: every one of the shelf on this picture">
        <Button
          size="small"
          icon={<AppstoreOutlined />}
          aria-label="Try macros"
          disabled={!sample}
          onPointerEnter={() => setReady(true)}
          onClick={() => set({ tries: true })}
        />
      </Tooltip>
      {(isReady || tries) && sample && <Tries path={sample.path} />}
    </>
  )
})

/** Holds the worker and its copy of the picture, also while nothing is tried. */
function Tries({ path }: { path: string }): ReactNode {
  const { tries, set } = useBenchParts('tries', 'set')
  const [seen, setSeen] = useState<readonly SampleWish[]>(noWishes)
  const waits = useBench(isRawOnItsWay)
  const wishes = useMemo(() => {
    if (tries && seen.length > 0) return seen
    return waits && !tries ? noWishes : [{ key: 'as it is', path, edge: tryEdge, steps: [] }]
  }, [tries, seen, waits, path])
  const pictures = useShown(useWishedPictures(wishes, 0), (all) => all)
  return (
    <Modal
      title="Try macros on this picture"
      open={tries}
      onCancel={() => set({ tries: false })}
      footer={null}
      width="min(1240px, 96vw)"
      destroyOnHidden
    >
      <Shelf path={path} pictures={pictures} onSeen={setSeen} />
    </Modal>
  )
}
const noWishes: readonly SampleWish[] = []

interface ShelfProps {
  path: string
  pictures: ReadonlyMap<string, SampleState>
  /** What of the shelf is seen, to be shown. */
  onSeen(wishes: readonly SampleWish[]): void
}

function Shelf({ path, pictures, onSeen }: ShelfProps): ReactNode {
  const { data: macros = [] } = useMacros(true)
  const [wanted, setWanted] = useState('')
  const [tag, setTag] = useState<string>()
  /** Steps that are left out, by macro. */
  const [without, setWithout] = useState<ReadonlyMap<string, ReadonlySet<string>>>(new Map())
  const { history, set } = useBenchParts('history', 'set')
  const usable = macros.filter(({ needsNewer }) => !needsNewer)
  const tags = [...new Set(usable.flatMap((macro) => macro.tags))].sort()
  const found = usable.filter((macro) => isSought(macro, wanted) && (tag === undefined || macro.tags.includes(tag)))
  const { scroller, list, places } = useTilePlaces(found.length, card, { overscan: 1 })
  const seen = places.flatMap(({ index }) => found[index] ?? [])
  const stepsOf = ({ id, steps }: ShelfMacro): Step[] => completeSteps(steps).filter((step) => !without.get(id)?.has(step.id))
  const seenKey = JSON.stringify(seen.map(({ id, revision }) => [id, revision, [...(without.get(id) ?? [])]]))
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is seen and left out is in the key
  useEffect(() => {
    const before = history.document.steps.filter(({ operation }) => findOperation(operation))
    onSeen(seen.map((macro) => ({ key: macro.id, path, edge: tryEdge, steps: [...before, ...stepsOf(macro)] })))
  }, [path, history.document.steps, seenKey])
  const lay = (macro: ShelfMacro): void => {
    laySteps(stepsOf(macro))
    set({ tries: false })
  }
  const toggle = (macroId: string, stepId: string): void => {
    const left = new Set(without.get(macroId))
    if (!left.delete(stepId)) left.add(stepId)
    setWithout(new Map(without).set(macroId, left))
  }
  return (
    <>
      <div className={styles.tools}>
        <Input
          allowClear
          ref={focusOnceThere}
          size="small"
          className={styles.find}
          aria-label="Find a macro"
          placeholder="Find by name, tag, loop or operation"
          value={wanted}
          onChange={(event) => setWanted(event.target.value)}
        />
        {tags.map((each) => (
          <Tag.CheckableTag key={each} checked={tag === each} onChange={(checked) => setTag(checked ? each : undefined)}>
            {each}
          </Tag.CheckableTag>
        ))}
        <span className={styles.hint}>
          {history.document.steps.length > 0 ? 'Each behind what lies on the wire. ' : ''}A click lays it on the wire.
        </span>
      </div>
      <div ref={scroller} className={styles.grid}>
        <ul {...list} aria-label="Macros on this picture">
          {places.map(({ index, style }) => {
            const macro = found[index]
            return (
              macro && (
                <li key={macro.id} style={style}>
                  <Card
                    macro={macro}
                    state={pictures.get(macro.id)}
                    without={without.get(macro.id)}
                    onLay={() => lay(macro)}
                    onToggle={(stepId) => toggle(macro.id, stepId)}
                  />
                </li>
              )
            )
          })}
        </ul>
        {found.length === 0 && <p className={styles.hint}>No macro has all of that. Try fewer words, or another tag.</p>}
      </div>
    </>
  )
}

interface CardProps {
  macro: ShelfMacro
  state: SampleState | undefined
  without: ReadonlySet<string> | undefined
  onLay(): void
  onToggle(stepId: string): void
}

function Card({ macro, state, without, onLay, onToggle }: CardProps): ReactNode {
  const left = without?.size ?? 0
  const count = macro.steps.length
  return (
    <>
      <button
        type="button"
        className={styles.picture}
        aria-label={`Lay ${macro.name} on the wire`}
        disabled={left === count}
        onClick={onLay}
      >
        {isPicture(state) ? <SampleCanvas picture={state} /> : <span className={styles.hint}>{state?.sentence}</span>}
      </button>
      <div className={styles.name}>
        <b title={macro.name}>{macro.name}</b>
        <Popover
          trigger="click"
          placement="bottomRight"
          content={
            <div className={styles.steps}>
              {macro.steps.map((step) => (
                <Checkbox key={step.id} checked={!without?.has(step.id)} onChange={() => onToggle(step.id)}>
                  {stepName(step)}
                </Checkbox>
              ))}
            </div>
          }
        >
          <Button size="small" type="text" aria-label={`Steps of ${macro.name}`}>
            {left > 0 ? `${count - left} of ${counted(count, 'step')}` : counted(count, 'step')}
          </Button>
        </Popover>
      </div>
    </>
  )
}

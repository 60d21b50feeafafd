'use client'

import { PlusOutlined } from '@ant-design/icons'
import { closestCenter, DndContext, type DragEndEvent, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core'
import { horizontalListSortingStrategy, SortableContext, sortableKeyboardCoordinates } from '@dnd-kit/sortable'
import { Button, Segmented } from 'antd'
import { memo, type ReactNode, useCallback, useEffect, useRef } from 'react'
import { moveStep } from '@/macros/recorder'
import { TextButton } from '../controls/text-button'
import { addOperation } from './add-operation'
import { AddStep } from './add-step'
import { Bead, BeadImage } from './bead'
import { KeepForPicture } from './keep-for-picture'
import { KeepMacro } from './keep-macro'
import { NewWire } from './new-wire'
import { RecordButton } from './record'
import { RunWireOver } from './run-wire-over'
import type { StagePictures } from './stage-flow'
import { useBench, useBenchParts } from './store'
import { allOf, takenBy, whatTimesAre } from './time-words'
import styles from './wire.module.css'

/** The drawn line along the bottom: the source, then a bead for every step, in the order of work. */
export const Wire = memo(function Wire({ beads, times }: Pick<StagePictures, 'beads' | 'times'>): ReactNode {
  const { history, selectedId, picked, upToHere, adding, showsTimes, commit, set } = useBenchParts(
    'history',
    'selectedId',
    'picked',
    'upToHere',
    'adding',
    'showsTimes',
    'commit',
    'set',
  )
  const picture = useBench((state) => state.picture)
  const { document } = history
  const { steps } = document
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )
  const select = useCallback(
    (id: string, together: boolean): void => {
      const { selectedId: before, picked } = useBench.getState()
      if (together && before && before !== id)
        set({ picked: picked.has(id) ? new Set([...picked].filter((other) => other !== id)) : new Set([...picked, id]) })
      else set({ selectedId: id, picked: new Set() })
    },
    [set],
  )
  const track = useRef<HTMLDivElement>(null)
  useEffect(() => {
    if (selectedId)
      track.current?.querySelector(`[data-bead="${CSS.escape(selectedId)}"]`)?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
  }, [selectedId])

  const dropped = ({ active, over }: DragEndEvent): void => {
    if (over && active.id !== over.id)
      commit(
        moveStep(
          document,
          String(active.id),
          document.steps.findIndex((step) => step.id === over.id),
        ),
      )
  }

  return (
    <section className={styles.wire} data-recording={document.recording !== null || undefined} aria-label="Wire">
      <div ref={track} className={styles.track}>
        <div className={styles.line} aria-hidden="true" />
        <div className={styles.source}>
          <BeadImage picture={beads.get('source')} />
          <span className={styles.words}>
            <b>Source</b>
            {showsTimes && <span title={whatTimesAre}>{allOf(times, steps.length)}</span>}
          </span>
        </div>
        <DndContext id="wire" sensors={sensors} collisionDetection={closestCenter} onDragEnd={dropped}>
          <SortableContext items={steps.map((step) => step.id)} strategy={horizontalListSortingStrategy}>
            {steps.map((step, index) => (
              <Bead
                key={step.id}
                stored={step}
                number={index + 1}
                selected={step.id === selectedId}
                picked={picked.has(step.id)}
                picture={beads.get(step.id)}
                taken={showsTimes ? takenBy(times, index) : undefined}
                onSelect={select}
              />
            ))}
          </SortableContext>
        </DndContext>
        <AddStep open={adding} onOpen={(open) => set({ adding: open })} onAdd={addOperation}>
          <Button className={styles.add} shape="circle" icon={<PlusOutlined />} aria-label="Add a step" title="Add a step (A)" />
        </AddStep>
        {steps.length === 0 && (
          <p className={styles.hint}>
            Add a step, <TextButton onClick={() => set({ tries: true })}>try macros</TextButton>, or press Record and every edit becomes a
            bead here.
          </p>
        )}
      </div>
      <div className={styles.end}>
        <RecordButton />
        <NewWire />
        {picture ? <KeepForPicture picture={picture} /> : <KeepMacro />}
        <RunWireOver />
        <Segmented
          size="small"
          block
          className={styles.whole}
          aria-label="What the stage shows"
          value={upToHere ? 'here' : 'end'}
          options={[
            { value: 'here', label: 'Up to here' },
            { value: 'end', label: 'At the end' },
          ]}
          onChange={(value) => set({ upToHere: value === 'here' })}
        />
      </div>
    </section>
  )
})

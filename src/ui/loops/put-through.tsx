import { DeleteOutlined, HolderOutlined } from '@ant-design/icons'
import { closestCenter, DndContext, type DragEndEvent, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core'
import { arrayMove, SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import { Button, Select } from 'antd'
import Link from 'next/link'
import type { ReactNode } from 'react'
import type { Catch, Problem, ShelfMacro } from '@/contract/answers'
import type { Loop, MacroUse } from '@/jobs/loop'
import { findOperation } from '@/operations'
import { useMacros } from '../api/queries'
import styles from './loops.module.css'
import { Problems } from './problems'

interface Props {
  loop: Loop
  catches: readonly Catch[]
  problems: readonly Problem[]
  onChange(part: Partial<Loop>): void
}

/** The macros that pictures go through, in order; each follows the newest revision or keeps to one. */
export function PutThrough({ loop, catches, problems, onChange }: Props): ReactNode {
  const { data: macros = [] } = useMacros()
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )
  const ids = loop.macros.map(({ macroId }) => macroId)
  const dropped = ({ active, over }: DragEndEvent): void => {
    if (over) onChange({ macros: arrayMove([...loop.macros], ids.indexOf(String(active.id)), ids.indexOf(String(over.id))) })
  }
  const others = macros.filter(({ id }) => !ids.includes(id))
  return (
    <section className={styles.part}>
      <h2>Put through</h2>
      <DndContext id="put-through" sensors={sensors} collisionDetection={closestCenter} onDragEnd={dropped}>
        <SortableContext items={ids} strategy={verticalListSortingStrategy}>
          <ol className={styles.uses}>
            {loop.macros.map((use) => (
              <Use
                key={use.macroId}
                use={use}
                macro={macros.find(({ id }) => id === use.macroId)}
                catches={catches.filter(({ macroId }) => macroId === use.macroId)}
                onChange={(next) => onChange({ macros: loop.macros.map((other) => (other === use ? next : other)) })}
                onRemove={() => onChange({ macros: loop.macros.filter((other) => other !== use) })}
              />
            ))}
          </ol>
        </SortableContext>
      </DndContext>
      <Select
        className={styles.wide}
        aria-label="Add a macro"
        placeholder={ids.length > 0 ? 'Then another macro …' : 'Choose a macro …'}
        showSearch={{ optionFilterProp: 'label' }}
        value={null}
        options={others.map(({ id, name }) => ({ value: id, label: name }))}
        onChange={(macroId: string | null) => macroId && onChange({ macros: [...loop.macros, { macroId, revision: null }] })}
      />
      <Problems list={problems} onMend={onChange} />
    </section>
  )
}

interface UseProps {
  use: MacroUse
  macro: ShelfMacro | undefined
  catches: readonly Catch[]
  onChange(use: MacroUse): void
  onRemove(): void
}

function Use({ use, macro, catches, onChange, onRemove }: UseProps): ReactNode {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id: use.macroId })
  const name = macro?.name ?? 'A macro that is gone'
  const revisions = Array.from({ length: macro?.revision ?? 0 }, (_, i) => (macro?.revision ?? 0) - i)
  return (
    <li ref={setNodeRef} className={styles.use} style={{ transform: CSS.Translate.toString(transform), transition }}>
      <div className={styles.useHead}>
        <button type="button" className={styles.holder} aria-label={`Move ${name}`} {...attributes} {...listeners}>
          <HolderOutlined />
        </button>
        <Link className={styles.useName} href={`/macros/${use.macroId}`}>
          {name}
        </Link>
        {macro && (
          <Select
            size="small"
            aria-label={`Revision of ${name}`}
            popupMatchSelectWidth={false}
            value={use.revision}
            options={[
              { value: null, label: `newest (r${macro.revision})` },
              ...revisions.map((revision) => ({ value: revision, label: `always r${revision}` })),
            ]}
            onChange={(revision: number | null) => onChange({ ...use, revision })}
          />
        )}
        <Button type="text" size="small" icon={<DeleteOutlined />} aria-label={`Take ${name} off the loop`} onClick={onRemove} />
      </div>
      {macro && use.revision === null && <pre className={styles.reading}>{macro.reading}</pre>}
      {use.revision !== null && <span className={styles.quiet}>Keeps to r{use.revision}, whatever is recorded later.</span>}
      {catches.map(({ operation, when, pictures, of }) => (
        <p key={`${operation} ${when}`} className={styles.catch} data-none={pictures === 0 || undefined}>
          {findOperation(operation)?.name ?? operation}: {when} · <b>{pictures}</b> of {of} {of === 1 ? 'picture' : 'pictures'}
        </p>
      ))}
    </li>
  )
}

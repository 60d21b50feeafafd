'use client'

import { PlusOutlined } from '@ant-design/icons'
import { App, Button, Dropdown, Input, Skeleton } from 'antd'
import { type ReactNode, useEffect, useRef, useState } from 'react'
import { counted } from '@/core/format'
import { type Delivery, defaultDelivery, type Loop, standingNeeds } from '@/core/loop'
import type { Problem } from '@/server/preflight'
import type { PreflightView } from '@/server/preflight-view'
import { postWhileLeaving } from '../api/client'
import { useLoops, usePreflight, useSaveLoop } from '../api/queries'
import { DeliveryForm } from './delivery-form'
import { ForeseenList } from './foreseen-list'
import styles from './loops.module.css'
import { Problems } from './problems'
import { PutThrough } from './put-through'
import { StartPart } from './start-part'
import { StartRun } from './start-run'
import { Take } from './take'

/** One loop, written like a sentence along the copper line, beside what will happen. */
export function LoopPage({ id }: { id: string }): ReactNode {
  const { data: loops, error } = useLoops()
  const loop = loops?.find((candidate) => candidate.id === id)
  if (error) return <p className={styles.missing}>{error.message}</p>
  if (!loops) return <Skeleton className={styles.missing} />
  if (!loop) return <p className={styles.missing}>This loop is not here any more.</p>
  return <LoopEditor key={id} stored={loop} />
}

/** Edits are stored this long after the last one. */
const saveAfterMs = 400

function LoopEditor({ stored }: { stored: Loop }): ReactNode {
  const [loop, setLoop] = useState(stored)
  const { message } = App.useApp()
  const save = useSaveLoop()
  const settled = useSettled(loop, saveAfterMs)
  const { check, isFetching, progress } = usePreflight(settled)
  const change = (part: Partial<Loop>): void => setLoop((before) => ({ ...before, ...part }))

  const { mutate } = save
  useEffect(() => {
    if (JSON.stringify(settled) !== JSON.stringify(stored)) mutate(settled, { onError: (problem) => message.error(problem.message, 6) })
  }, [settled, stored, mutate, message])
  useSavedOnLeaving(loop, settled, mutate)

  const problems = (place: Problem['place']): Problem[] => check?.problems.filter((problem) => problem.place === place) ?? []
  const blocked = !check || check.problems.some((problem) => problem.blocks)
  return (
    <div className={styles.loop}>
      <div className={styles.sentence}>
        <div className={styles.title}>
          <Input
            variant="borderless"
            value={loop.name}
            maxLength={120}
            onChange={(event) => change({ name: event.target.value })}
            aria-label="Name of the loop"
          />
          <StartRun
            loopId={loop.id}
            questions={check?.questions ?? []}
            disabled={blocked || isFetching || settled !== loop}
            before={() => save.mutateAsync(loop)}
          />
        </div>
        <ToMend problems={check?.problems.filter((problem) => problem.blocks) ?? []} />
        <Take loop={loop} check={check} progress={progress} problems={problems('intake')} onChange={change} />
        <PutThrough loop={loop} catches={check?.catches ?? []} problems={problems('macros')} onChange={change} />
        <section className={styles.part}>
          <h2>Deliver</h2>
          {loop.deliveries.map((delivery) => (
            <DeliveryForm
              key={delivery.id}
              delivery={delivery}
              examples={examplesFor(delivery, check)}
              onChange={(next) => change({ deliveries: loop.deliveries.map((other) => (other.id === next.id ? next : other)) })}
              onRemove={
                loop.deliveries.length > 1
                  ? () => change({ deliveries: loop.deliveries.filter((other) => other.id !== delivery.id) })
                  : undefined
              }
            />
          ))}
          <AddDelivery loop={loop} onAdd={(delivery) => change({ deliveries: [...loop.deliveries, delivery] })} />
          <Problems list={problems('delivery')} onMend={change} />
        </section>
        <StartPart loopId={loop.id} start={loop.start} onChange={(start) => change({ start })} />
      </div>
      <ForeseenList check={check} checking={isFetching} onMend={change} />
    </div>
  )
}

/** Adds one of the standing needs, beside the delivery that is there. */
function AddDelivery({ loop, onAdd }: { loop: Loop; onAdd(delivery: Delivery): void }): ReactNode {
  const beside = loop.deliveries[0]?.folder || loop.intake.folder
  const parent = beside.slice(0, beside.lastIndexOf('/'))
  return (
    <Dropdown
      trigger={['click']}
      menu={{
        items: standingNeeds.map(({ key, name, about }) => ({
          key,
          label: (
            <>
              <b>{name}</b>
              <br />
              <span className={styles.quiet}>{about}</span>
            </>
          ),
        })),
        onClick: ({ key }) => {
          const need = standingNeeds.find((candidate) => candidate.key === key)
          if (need)
            onAdd({
              ...defaultDelivery(crypto.randomUUID(), `${parent}/${need.name.toLowerCase().replaceAll(' ', '-')}`),
              name: need.name,
              ...need.delivery,
            })
        },
      }}
    >
      <Button icon={<PlusOutlined />}>Add a delivery</Button>
    </Dropdown>
  )
}

export interface PartProps {
  loop: Loop
  problems: readonly Problem[]
  onChange(part: Partial<Loop>): void
}

/** Beside the buttons that can't be pressed: why, and a way to it. */
function ToMend({ problems }: { problems: readonly Problem[] }): ReactNode {
  const wrong = problems.filter((problem) => !problem.toFillIn).length
  if (wrong === 0) return null
  const show = (): void =>
    document.querySelector(`.${styles.problem}[data-blocks]:not([data-open])`)?.scrollIntoView({ block: 'center', behavior: 'smooth' })
  return (
    <Button type="text" size="small" danger className={styles.toMend} onClick={show}>
      ✕ Can’t run yet: {counted(wrong, 'thing')} to mend
    </Button>
  )
}

const mostExamples = 2

/** The names that the first pictures will get in a delivery. */
const examplesFor = ({ id }: Delivery, check: PreflightView | undefined): string[] =>
  (check?.pictures ?? [])
    .slice(0, 20)
    .flatMap(({ targets }) => targets.filter(({ deliveryId }) => deliveryId === id).map(({ name }) => name))
    .slice(0, mostExamples)

/** An edit that has not settled yet is stored when the page is left, by a link or by closing the window. */
function useSavedOnLeaving(loop: Loop, settled: Loop, save: (loop: Loop) => void): void {
  const unsaved = useRef<Loop>(undefined)
  useEffect(() => {
    unsaved.current = loop === settled ? undefined : loop
  }, [loop, settled])
  useEffect(() => {
    const leave = (): void => {
      if (unsaved.current) postWhileLeaving('/api/loops', unsaved.current)
      unsaved.current = undefined
    }
    window.addEventListener('pagehide', leave)
    return () => {
      window.removeEventListener('pagehide', leave)
      if (unsaved.current) save(unsaved.current)
    }
  }, [save])
}

/** A value once it has stopped changing for a while. */
function useSettled<T>(value: T, afterMs: number): T {
  const [settled, setSettled] = useState(value)
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), afterMs)
    return () => clearTimeout(timer)
  }, [value, afterMs])
  return settled
}

'use client'

import { PlusOutlined } from '@ant-design/icons'
import { useQueryClient } from '@tanstack/react-query'
import { App, Button, Dropdown, Input, Skeleton } from 'antd'
import { useRouter } from 'next/navigation'
import { type ReactNode, useCallback, useEffect, useRef, useState } from 'react'
import { flushSync } from 'react-dom'
import { counted } from '@/base/format'
import { freeName } from '@/base/free-name'
import { folderOf } from '@/base/paths'
import type { PreflightView, Problem, Remedy } from '@/contract/answers'
import { routes } from '@/contract/routes'
import { type Delivery, defaultDelivery, deliveryForNeed, folderForNeed, standingNeeds } from '@/jobs/delivery'
import { type Loop, newLoop, partThatMatters } from '@/jobs/loop'
import { ApiError, call } from '../api/client'
import { keys, saveLoopWhileLeaving, useDropLostSteps, useLoops, useMeasureSetAnew, usePreflight, useSaveLoop } from '../api/queries'
import { useSettled } from '../controls/use-settled'
import { DeliveryForm } from './delivery-form'
import { DropOnLoop } from './drop-on-loop'
import { ForeseenList } from './foreseen-list'
import styles from './loops.module.css'
import { Problems } from './problems'
import { PutThrough } from './put-through'
import { StartPart } from './start-part'
import { StartRun } from './start-run'
import { Take } from './take'

/** In the place of a loop's id: one that is not stored before something of it is set. */
export const newLoopId = 'new'

/** One loop, written like a sentence along the copper line, beside what will happen. */
export function LoopPage({ id }: { id: string }): ReactNode {
  const { data: loops, error } = useLoops()
  const loop = loops?.find((candidate) => candidate.id === id)
  if (error) return <p className={styles.missing}>{error.message}</p>
  if (!loops) return <Skeleton className={styles.missing} />
  if (id === newLoopId) return <NewLoop stored={loops} />
  if (!loop) return <p className={styles.missing}>This loop is not here any more.</p>
  return <LoopEditor key={id} stored={loop} />
}

/** A loop that nobody has set leaves nothing behind; its page gets the loop's own address once it is stored. */
function NewLoop({ stored }: { stored: readonly Loop[] }): ReactNode {
  const [loop] = useState(() => newLoop(crypto.randomUUID(), { deliveries: [defaultDelivery(crypto.randomUUID(), '')] }))
  const isStored = stored.some(({ id }) => id === loop.id)
  useEffect(() => {
    if (isStored) window.history.replaceState(null, '', `/loops/${loop.id}`)
  }, [isStored, loop.id])
  return <LoopEditor stored={loop} />
}

/** Edits are stored this long after the last one. */
const saveAfterMs = 400

function LoopEditor({ stored }: { stored: Loop }): ReactNode {
  const [loop, setLoop] = useState(stored)
  const settled = useSettled(loop, saveAfterMs)
  const { check, isFetching, progress } = usePreflight(settled)
  const change = (part: Partial<Loop>): void => setLoop((before) => ({ ...before, ...part }))
  const save = useStoredLoop(stored, setLoop)

  useEffect(() => {
    save(settled).catch(() => undefined)
  }, [settled, save])
  useSavedOnLeaving(loop, settled, save)

  const problems = (area: Problem['area']): Problem[] => check?.problems.filter((problem) => problem.area === area) ?? []
  const toMend = check?.problems.filter((problem) => problem.blocks && !problem.isAsked) ?? []
  const blocked = !check || toMend.length > 0
  const remedies: Record<Remedy['does'], { mutate(id: string): void }> = {
    dropLostSteps: useDropLostSteps(),
    measureSetAnew: useMeasureSetAnew(),
  }
  const router = useRouter()
  // What could not be saved says so itself, and the page stays.
  const openProof = (): void =>
    void save(loop).then(
      () => router.push(`/loops/${loop.id}/proof`),
      () => undefined,
    )
  return (
    <DropOnLoop loop={loop} className={styles.loop} before={() => save(loop)}>
      <div className={styles.sentence}>
        <div className={styles.title}>
          <LoopName name={loop.name} onChange={(name) => change({ name })} />
          <StartRun
            loopId={loop.id}
            questions={check?.questions ?? []}
            check={check?.token}
            disabled={blocked || isFetching || !isSameCheck(settled, loop)}
            before={() => save(loop)}
          />
        </div>
        <ToMend problems={toMend} />
        <Take loop={loop} check={check} progress={progress} problems={problems('intake')} onChange={change} />
        <PutThrough loop={loop} catches={check?.catches ?? []} problems={problems('macros')} onChange={change} />
        <section className={styles.part}>
          <h2>Deliver</h2>
          {loop.deliveries.map((delivery) => (
            <DeliveryForm
              key={delivery.id}
              delivery={delivery}
              nameValues={check && { ...check.nameValues[delivery.id], '{loop}': loop.name }}
              examples={examplesFor(delivery, check)}
              onChange={(next) => change({ deliveries: loop.deliveries.map((other) => (other.id === next.id ? next : other)) })}
              isNameWrong={problems('delivery').some(({ wrongName }) => wrongName === delivery.id)}
              onDuplicate={() => change({ deliveries: withCopyOf(delivery, loop.deliveries) })}
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
      <ForeseenList
        check={check}
        checking={isFetching}
        deliveries={loop.deliveries}
        loopName={loop.name}
        onMend={change}
        onRemedy={(does) => remedies[does].mutate(loop.id)}
        onProof={openProof}
      />
    </DropOnLoop>
  )
}

/** A copy behind its original, under a name of its own. */
function withCopyOf(delivery: Delivery, all: readonly Delivery[]): Delivery[] {
  const name = freeName(delivery.name, all)
  return all.flatMap((other) => (other.id === delivery.id ? [other, { ...other, id: crypto.randomUUID(), name }] : [other]))
}

/** Adds one of the standing needs, beside the delivery that is there. */
function AddDelivery({ loop, onAdd }: { loop: Loop; onAdd(delivery: Delivery): void }): ReactNode {
  const beside = loop.deliveries[0]?.folder || loop.intake.folder
  const parent = folderOf(beside)
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
        onClick: ({ key }) => onAdd(deliveryForNeed(crypto.randomUUID(), key, `${parent}/${folderForNeed(key)}`)),
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

const maxExamples = 2

/** The names that the first pictures will get in a delivery. */
const examplesFor = ({ id }: Delivery, check: PreflightView | undefined): string[] =>
  (check?.pictures ?? [])
    .slice(0, 20)
    .flatMap(({ targets }) => targets.filter(({ deliveryId }) => deliveryId === id).map(({ name }) => name))
    .slice(0, maxExamples)

/** Whether two states of a loop are the same to a preflight. */
const isSameCheck = (a: Loop, b: Loop): boolean => a === b || JSON.stringify(partThatMatters(a)) === JSON.stringify(partThatMatters(b))

/** The name becomes one edit when its field is left; one that is being typed is stored when the page is. */
function LoopName({ name, onChange }: { name: string; onChange(name: string): void }): ReactNode {
  const [text, setText] = useState(name)
  useEffect(() => setText(name), [name])
  const take = (): void => {
    const next = text.trim()
    if (next && next !== name) onChange(next)
    else setText(name)
  }
  const newest = useRef(take)
  newest.current = take
  useEffect(() => {
    const leave = (): void => flushSync(() => newest.current())
    window.addEventListener('pagehide', leave, { capture: true })
    return () => window.removeEventListener('pagehide', leave, { capture: true })
  }, [])
  return (
    <Input
      variant="borderless"
      value={text}
      maxLength={120}
      onChange={(event) => setText(event.target.value)}
      onBlur={take}
      onPressEnter={(event) => event.currentTarget.blur()}
      aria-label="Name of the loop"
    />
  )
}

/** Versions do not count: every change of another is another version. */
const contentOf = (loop: Loop): string => JSON.stringify({ ...loop, version: 0 })

/**
 * Stores a loop whenever it is another than was stored last, one change after the other, each as a change of the version
 * before. Where another window was faster, its state is shown and that is told.
 */
function useStoredLoop(stored: Loop, show: (loop: Loop) => void): (loop: Loop) => Promise<void> {
  const { message } = App.useApp()
  const { mutateAsync } = useSaveLoop()
  const client = useQueryClient()
  const last = useRef(stored)
  const saving = useRef<Promise<void>>(Promise.resolve())
  return useCallback(
    (loop) => {
      const work = async (): Promise<void> => {
        if (contentOf(loop) === contentOf(last.current)) return
        try {
          last.current = await mutateAsync({ ...loop, version: last.current.version })
        } catch (problem) {
          if (problem instanceof ApiError && problem.report.code === 'loopMoved') {
            const loops = await client.fetchQuery({ queryKey: keys.loops, queryFn: () => call(routes.loops, {}), staleTime: 0 })
            const theirs = loops.find(({ id }) => id === loop.id)
            if (theirs) {
              last.current = theirs
              show(theirs)
            }
          }
          throw problem
        }
      }
      const next = saving.current.then(work)
      saving.current = next.catch((problem: Error) => void message.error(problem.message, 8))
      return next
    },
    [mutateAsync, message, client, show],
  )
}

/** An edit that has not settled yet is stored when the page is left, by a link or by closing the window. */
function useSavedOnLeaving(loop: Loop, settled: Loop, save: (loop: Loop) => Promise<void>): void {
  const unsaved = useRef<Loop>(undefined)
  useEffect(() => {
    unsaved.current = loop === settled ? undefined : loop
  }, [loop, settled])
  useEffect(() => {
    const leave = (): void => {
      if (unsaved.current) saveLoopWhileLeaving(unsaved.current)
      unsaved.current = undefined
    }
    window.addEventListener('pagehide', leave)
    return () => {
      window.removeEventListener('pagehide', leave)
      if (unsaved.current) save(unsaved.current).catch(() => undefined)
    }
  }, [save])
}

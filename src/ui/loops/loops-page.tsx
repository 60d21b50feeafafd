'use client'

import { DeleteOutlined, PlusOutlined } from '@ant-design/icons'
import { App, Button, Popconfirm } from 'antd'
import dayjs from 'dayjs'
import Link from 'next/link'
import { useRouter } from 'next/navigation'
import type { ReactNode } from 'react'
import type { RunSummary } from '@/contract/answers'
import { defaultDelivery } from '@/jobs/delivery'
import { foldersOf, type Loop, newLoop } from '@/jobs/loop'
import { useBinLoop, useLastRuns, useLoops, useMacros, useSaveLoop, useStartRun, useStarts } from '../api/queries'
import { describeTotals } from '../runs/words'
import page from '../shell/page.module.css'
import styles from './loops.module.css'
import { describeStart } from './words'

/** All standing jobs, each as its line from intake to deliveries. */
export function LoopsPage(): ReactNode {
  const { data: loops, error } = useLoops()
  const { data: last = {} } = useLastRuns()
  const router = useRouter()
  const save = useSaveLoop()
  const create = async (): Promise<void> => {
    const id = crypto.randomUUID()
    await save.mutateAsync(newLoop(id, { deliveries: [defaultDelivery(crypto.randomUUID(), '')] }))
    router.push(`/loops/${id}`)
  }
  return (
    <div className={page.page}>
      <div className={page.head}>
        <h1>Loops</h1>
        <Button type="primary" icon={<PlusOutlined />} onClick={create}>
          New loop
        </Button>
      </div>
      {error && <p className={page.empty}>{error.message}</p>}
      {loops?.length === 0 && (
        <p className={page.empty}>
          No loops yet. A loop takes pictures from a folder, puts them through macros and delivers them to another folder.
        </p>
      )}
      <ul className={page.rows}>
        {loops?.map((loop) => (
          <LoopRow key={loop.id} loop={loop} last={last[loop.id]} />
        ))}
      </ul>
    </div>
  )
}

function LoopRow({ loop, last }: { loop: Loop; last: RunSummary | undefined }): ReactNode {
  const { data: macros = [] } = useMacros()
  const { message } = App.useApp()
  const router = useRouter()
  const { data: starts = [] } = useStarts()
  const start = useStartRun()
  const bin = useBinLoop()
  const run = async (): Promise<void> => {
    try {
      const started = await start.mutateAsync({ loopId: loop.id })
      router.push(`/runs/${started.id}`)
    } catch (problem) {
      void message.error(problem instanceof Error ? problem.message : String(problem), 8)
    }
  }
  const standing = starts.find(({ loopId }) => loopId === loop.id)
  const next = describeStart(loop.start, standing?.nextAt)
  const names = loop.macros.map((use) => macros.find((macro) => macro.id === use.macroId)?.name ?? 'a macro that is gone')
  return (
    <li className={page.row}>
      <div className={styles.cardName}>
        <h2>
          <Link href={`/loops/${loop.id}`}>{loop.name}</Link>
        </h2>
        <div className={page.quiet}>
          {last ? (
            <Link href={`/runs/${last.id}`}>
              Run {last.number}, {dayjs(last.createdAt).format('D MMM HH:mm')}: {describeTotals(last.totals)}
            </Link>
          ) : (
            'Never run'
          )}
        </div>
        {next && <div className={styles.waits}>{next}</div>}
        {standing?.problem && <div className={styles.failed}>Did not start: {standing.problem}</div>}
      </div>
      <div className={styles.cardLine}>
        <Stretch label="Take" value={foldersOf(loop.intake).join(', ') || 'no folder yet'} path />
        <Stretch label="Put through" value={names.join(', ') || 'no macro yet'} />
        <Stretch label="Deliver" value={loop.deliveries.map((delivery) => delivery.folder).join(', ') || 'no folder yet'} path />
      </div>
      <div className={styles.cardActions}>
        <Button onClick={() => router.push(`/loops/${loop.id}`)}>Open</Button>
        <Button type="primary" onClick={run} loading={start.isPending}>
          Run loop
        </Button>
        <Popconfirm
          title={`Put ${loop.name} in the bin?`}
          description="Its runs and delivered files stay."
          okText="Put in the bin"
          onConfirm={() => bin.mutate(loop.id)}
        >
          <Button icon={<DeleteOutlined />} aria-label={`Put ${loop.name} in the bin`} />
        </Popconfirm>
      </div>
    </li>
  )
}

function Stretch({ label, value, path = false }: { label: string; value: string; path?: boolean }): ReactNode {
  return (
    <div className={styles.stretch}>
      <span className={styles.knot} aria-hidden="true" />
      <span className={page.quiet}>{label}</span>
      <span className={styles.stretchValue} title={value}>
        {path ? <code>{shortPath(value)}</code> : value}
      </span>
    </div>
  )
}

/** The last two folders of a path: what tells one from another. */
const shortPath = (path: string): string => (path.startsWith('/') ? `…/${path.split('/').slice(-2).join('/')}` : path)

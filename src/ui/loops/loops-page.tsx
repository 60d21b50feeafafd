'use client'

import { CopyOutlined, DeleteOutlined, DownloadOutlined, PlusOutlined, UploadOutlined } from '@ant-design/icons'
import { App, Button, Upload } from 'antd'
import dayjs from 'dayjs'
import Link from 'next/link'
import { useRouter } from 'next/navigation'
import type { ReactNode } from 'react'
import { freeName } from '@/base/free-name'
import type { RunSummary } from '@/contract/answers'
import { routes } from '@/contract/routes'
import { describeIntake, type Loop } from '@/jobs/loop'
import { describeEnd } from '@/jobs/run'
import { urlOf } from '../api/client'
import { useBinLoop, useImportLoop, useLastRuns, useLoops, useMacros, useRestoreLoop, useSaveLoop, useStarts } from '../api/queries'
import page from '../shell/page.module.css'
import { useTakeBack } from '../shell/use-take-back'
import { DropOnLoop } from './drop-on-loop'
import { newLoopId } from './loop-page'
import styles from './loops.module.css'
import { useRunLoop } from './use-run-loop'
import { describeStart } from './words'

/** All standing jobs, each as its line from intake to deliveries. */
export function LoopsPage(): ReactNode {
  const { data: loops, error } = useLoops()
  const { data: last = {} } = useLastRuns()
  const router = useRouter()
  return (
    <div className={page.page}>
      <div className={page.head}>
        <h1>Loops</h1>
        <Button type="primary" icon={<PlusOutlined />} onClick={() => router.push(`/loops/${newLoopId}`)}>
          New loop
        </Button>
        <ImportLoop />
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

/** Takes a loop's file in and goes to it: its folders are asked there. */
function ImportLoop(): ReactNode {
  const { message } = App.useApp()
  const router = useRouter()
  const take = useImportLoop()
  const read = (file: File): Promise<void> =>
    take.mutateAsync(file).then(
      (loop) => {
        void message.success(`${loop.name} is here with its macros. Name its folders, and it can run.`, 6)
        router.push(`/loops/${loop.id}`)
      },
      (problem: Error) => void message.error(problem.message, 8),
    )
  return (
    <Upload
      accept=".zip"
      showUploadList={false}
      beforeUpload={(file) => {
        void read(file)
        return false
      }}
    >
      <Button icon={<UploadOutlined />} loading={take.isPending}>
        Import
      </Button>
    </Upload>
  )
}

function LoopRow({ loop, last }: { loop: Loop; last: RunSummary | undefined }): ReactNode {
  const { data: macros = [] } = useMacros()
  const { message } = App.useApp()
  const router = useRouter()
  const { data: starts = [] } = useStarts()
  const { data: loops = [] } = useLoops()
  const { run, isStarting, asking } = useRunLoop(loop.id)
  const save = useSaveLoop()
  const bin = useBinLoop()
  const restore = useRestoreLoop()
  const offerBack = useTakeBack()
  const fail = (problem: Error): void => void message.error(problem.message, 8)
  const duplicate = async (): Promise<void> => {
    const name = freeName(loop.name, loops)
    // What starts by itself would start twice over the same pictures.
    const copy = { ...loop, id: crypto.randomUUID(), name, version: 0, start: { when: 'byHand' as const } }
    await save.mutateAsync(copy).then(() => router.push(`/loops/${copy.id}`), fail)
  }
  const putInBin = (): Promise<void> =>
    bin
      .mutateAsync(loop.id)
      .then(() => offerBack(`${loop.name} is in the bin; its runs and delivered files stay.`, () => restore.mutateAsync(loop.id)), fail)
  const standing = starts.find(({ loopId }) => loopId === loop.id)
  const next = describeStart(loop.start, standing?.nextAt)
  const names = loop.macros.map((use) => macros.find((macro) => macro.id === use.macroId)?.name ?? 'a macro that is gone')
  return (
    <li>
      <DropOnLoop loop={loop} className={page.row}>
        <div className={styles.cardName}>
          <h2>
            <Link href={`/loops/${loop.id}`}>{loop.name}</Link>
          </h2>
          <div className={page.quiet}>
            {last ? (
              <Link href={`/runs/${last.id}`}>
                Run {last.number}, {dayjs(last.createdAt).format('D MMM HH:mm')}: {describeEnd(last)}
              </Link>
            ) : (
              'Never run'
            )}
          </div>
          {next && <div className={styles.waits}>{next}</div>}
          {standing?.problem && <div className={styles.failed}>Did not start: {standing.problem}</div>}
        </div>
        <div className={styles.cardLine}>
          <Stretch label="Take" value={describeIntake(loop.intake) || 'no folder yet'} path />
          <Stretch label="Put through" value={names.join(', ') || 'no macro yet'} />
          <Stretch label="Deliver" value={loop.deliveries.map((delivery) => delivery.folder).join(', ') || 'no folder yet'} path />
        </div>
        <div className={styles.cardActions}>
          <Button onClick={() => router.push(`/loops/${loop.id}`)}>Open</Button>
          <Button type="primary" onClick={run} loading={isStarting}>
            Run loop
          </Button>
          {asking}
          <Button icon={<CopyOutlined />} aria-label={`Duplicate ${loop.name}`} title="Duplicate" onClick={duplicate} />
          <Button
            icon={<DownloadOutlined />}
            aria-label={`Export ${loop.name}`}
            title="As a file, with its macros and without its folders"
            onClick={() => window.location.assign(urlOf(routes.loopFile, { id: loop.id }))}
          />
          <Button icon={<DeleteOutlined />} aria-label={`Put ${loop.name} in the bin`} title="Put in the bin" onClick={putInBin} />
        </div>
      </DropOnLoop>
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

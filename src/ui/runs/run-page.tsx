'use client'

import { DownloadOutlined, MoreOutlined } from '@ant-design/icons'
import { Alert, App, Button, Dropdown, Popconfirm, Segmented, Skeleton, Typography } from 'antd'
import dayjs from 'dayjs'
import Link from 'next/link'
import { useRouter } from 'next/navigation'
import { type ReactNode, useState } from 'react'
import { formatBytes, formatDuration } from '@/base/format'
import type { RunResultRow, RunSummary } from '@/contract/answers'
import { routes } from '@/contract/routes'
import { describeEnd, type ItemState, isOver, itemStates, onePictureId, overOf, totalOf } from '@/jobs/run'
import { urlOf } from '../api/client'
import {
  stepsOfRun,
  useGoOn,
  useLoopOfRun,
  useLoops,
  usePauseRun,
  useRestoreLoop,
  useRun,
  useRuns,
  useStartRun,
  useStartRunNow,
  useStopRun,
} from '../api/queries'
import { putInTray } from '../bench/lay-samples'
import { MakePages } from '../loops/make-pages'
import { TakeIntoLoopButton } from '../loops/take-into-loop-button'
import { useRunLoop } from '../loops/use-run-loop'
import { layOnBench } from '../macros/lay-on-bench'
import page from '../shell/page.module.css'
import { GatheredFiles } from './gathered-files'
import { ProgressLine } from './progress-line'
import { ReportTable } from './report-table'
import { ResultsGrid } from './results-grid'
import styles from './runs.module.css'
import { RunnerAway } from './runs-page'
import { describeState, isWaitingForTime, itemMarks, marksOf } from './words'

/** A single picture, delivered from the bench or the proof: no loop is behind it. */
const isOne = ({ loopId }: RunSummary): boolean => loopId === onePictureId

type Filter = 'all' | 'standingOut' | ItemState
type View = 'pictures' | 'report'

/** One run: how far it is, its results as they come in, its report. */
export function RunPage({ id }: { id: string }): ReactNode {
  const { data: detail, error } = useRun(id)
  const { data: runs } = useRuns()
  const [filter, setFilter] = useState<Filter>('all')
  const [view, setView] = useState<View>('pictures')
  if (error) return <p className={styles.missing}>{error.message}</p>
  if (!detail) return <Skeleton className={styles.missing} />
  // The list follows every event; the detail only once in a while.
  const run = runs?.find((candidate) => candidate.id === id) ?? detail.run
  const standingOut = detail.results.filter((result) => marksOf(result).length > 0)
  const shown = filter === 'standingOut' ? standingOut : detail.results.filter((result) => filter === 'all' || result.state === filter)
  const states = itemStates.filter((state) => run.totals[state] > 0)
  return (
    <div className={styles.run}>
      <header className={styles.runHead}>
        <div className={styles.runTitle}>
          <h1>
            Run {run.number} · {isOne(run) ? run.loopName : <Link href={`/loops/${run.loopId}`}>{run.loopName}</Link>}
          </h1>
          <span className={page.quiet}>
            {[run.macros.map((macro) => `${macro.name} r${macro.revision}`).join(', '), dayjs(run.createdAt).format('D MMM YYYY HH:mm')]
              .filter(Boolean)
              .join(' · ')}
          </span>
          <RunActions run={run} />
        </div>
        <ProgressLine run={run} />
        <div className={styles.runFacts}>
          <b>{describeState(run)}</b>
          {isOver(run.state) ? (
            <span>{describeEnd(run)}</span>
          ) : (
            <span className="figures">
              {overOf(run.totals).toLocaleString('en-GB')} of {totalOf(run.totals).toLocaleString('en-GB')}
            </span>
          )}
          {run.rate !== null && <span>{run.rate.toFixed(1)} pictures a second</span>}
          {run.secondsLeft !== null && <span>{formatDuration(run.secondsLeft)} left</span>}
          {run.startedAt && run.finishedAt && <span>took {formatDuration((run.finishedAt - run.startedAt) / 1000)}</span>}
          {run.deliveredBytes > 0 && <span>{formatBytes(run.deliveredBytes)} delivered</span>}
          {detail.results.length > 0 && !isOver(run.state) && <span className={styles.originals}>{detail.originals}</span>}
        </div>
        {detail.leftOut.length > 0 && <div className={page.quiet}>Not taken: {detail.leftOut.join(' ')}</div>}
        {run.folders.map((folder) => (
          <Typography.Text key={folder} code copyable={{ text: folder, tooltips: ['Copy the folder’s path', 'Copied'] }}>
            {folder}
          </Typography.Text>
        ))}
        <GatheredFiles run={run} />
        <RunnerAway />
        {run.state === 'paused' && (
          <Alert type="warning" showIcon title="Paused" description={run.reason ?? 'Until you let it go on. Nothing is lost meanwhile.'} />
        )}
        <div className={styles.views}>
          <Segmented<Filter>
            size="small"
            aria-label="Which results are shown"
            value={filter}
            options={[
              { value: 'all', label: `All ${detail.results.length.toLocaleString('en-GB')}` },
              ...states.map((state) => ({
                value: state,
                label: `${itemMarks[state].shape} ${run.totals[state].toLocaleString('en-GB')} ${itemMarks[state].word}`,
              })),
              ...(standingOut.length > 0 || filter === 'standingOut'
                ? [{ value: 'standingOut' as const, label: `▲ ${standingOut.length.toLocaleString('en-GB')} standing out` }]
                : []),
            ]}
            onChange={setFilter}
          />
          <TakeIntoLoopButton
            size="small"
            paths={shown.map(({ sourcePath }) => sourcePath)}
            title="Gives the originals of those that are shown to a loop"
          />
          <PagesOfShown run={run} results={shown} />
          {filter === 'standingOut' && standingOut.length > 0 && <LayOnBench run={run} results={standingOut} />}
          <Segmented<View>
            size="small"
            aria-label="As pictures or as a report"
            value={view}
            options={[
              { value: 'pictures', label: 'Pictures' },
              { value: 'report', label: 'Report' },
            ]}
            onChange={setView}
          />
        </div>
      </header>
      {view === 'pictures' ? <ResultsGrid results={shown} /> : <ReportTable results={shown} />}
    </div>
  )
}

/** Gathers what is shown of a run on pages. */
function PagesOfShown({ run, results }: { run: RunSummary; results: readonly RunResultRow[] }): ReactNode {
  const [taken, setTaken] = useState<readonly number[]>()
  const ids = results.flatMap(({ results: files }) => files.find(({ bytes }) => bytes !== null)?.id ?? [])
  return (
    <>
      <Button
        size="small"
        disabled={ids.length === 0}
        onClick={() => setTaken(ids)}
        title="A contact sheet or a PDF of those that are shown"
      >
        Gather on pages
      </Button>
      <MakePages resultIds={taken} suggestedFolder={run.folders[0] ?? ''} onClose={() => setTaken(undefined)} />
    </>
  )
}

/** Takes pictures to the bench, to see there why they came out as they did. */
function LayOnBench({ run, results }: { run: RunSummary; results: readonly RunResultRow[] }): ReactNode {
  const { message } = App.useApp()
  const router = useRouter()
  const layBoth = async (): Promise<void> => {
    const { steps, macroId } = await stepsOfRun(run.id)
    await layOnBench(steps, macroId)
    await putInTray(results.map(({ sourcePath }) => sourcePath))
    router.push('/bench')
  }
  const lay = (): void => void layBoth().catch((problem: Error) => message.error(problem.message))
  return (
    <Button
      size="small"
      onClick={lay}
      title="Put their originals in the bench’s tray, as many as it holds, and what this run put them through on the wire"
    >
      Lay on the bench
    </Button>
  )
}

function RunActions({ run }: { run: RunSummary }): ReactNode {
  const { message } = App.useApp()
  const stop = useStopRun()
  const goOn = useGoOn()
  const pause = usePauseRun()
  const now = useStartRunNow()
  const start = useStartRun()
  const router = useRouter()
  const { data: loops } = useLoops()
  const restore = useRestoreLoop()
  const isGone = loops !== undefined && !loops.some(({ id }) => id === run.loopId)
  const whole = useRunLoop(run.loopId)
  const runWhole = async (): Promise<void> => {
    if (isGone) await restore.mutateAsync(run.loopId).catch(onError)
    await whole.run()
  }
  const onError = (problem: Error): void => void message.error(problem.message)
  const loopOf = useLoopOfRun()
  const makeLoop = (): void => void loopOf.mutateAsync(run.id).then((loop) => router.push(`/loops/${loop.id}`), onError)
  const again = (): void =>
    void start.mutateAsync({ loopId: run.loopId, failedOf: run.id }).then((next) => router.push(`/runs/${next.id}`), onError)
  return (
    <div className={styles.runActions}>
      {isWaitingForTime(run) && <Button onClick={() => now.mutate(run.id, { onError })}>Start now</Button>}
      {(run.state === 'running' || run.state === 'waiting') && <Button onClick={() => pause.mutate(run.id, { onError })}>Pause</Button>}
      {isOver(run.state) && !isOne(run) && (run.totals.failed > 0 || (run.state === 'stopped' && run.totals.skipped > 0)) && (
        <Button onClick={again} loading={start.isPending}>
          Run the {run.totals.failed > 0 ? 'failed' : 'left-out'} again
        </Button>
      )}
      {isOver(run.state) && !isOne(run) && (
        <Button
          onClick={runWhole}
          loading={whole.isStarting}
          title={isGone ? 'The whole loop again; it comes back among the loops' : 'The whole loop again, with what lies in its folders now'}
        >
          Run again
        </Button>
      )}
      {whole.asking}
      {run.state === 'paused' && <Button onClick={() => goOn.mutate(run.id, { onError })}>Go on</Button>}
      {!isOver(run.state) && (
        <Popconfirm
          title="Stop this run?"
          description="Pictures in work are finished, the rest is left out. Delivered files stay."
          okText="Stop run"
          onConfirm={() => stop.mutate(run.id, { onError })}
        >
          <Button>Stop run</Button>
        </Popconfirm>
      )}
      {!isOne(run) && (
        <Button href={`/runs/${run.id}/proof`} title="Look the set through, and put single pictures right">
          Proof
        </Button>
      )}
      {run.totals.done > 0 && isOver(run.state) && (
        <Button icon={<DownloadOutlined />} href={urlOf(routes.zip, { id: run.id })}>
          Pictures (zip)
        </Button>
      )}
      <Dropdown
        trigger={['click']}
        menu={{
          items: [
            { key: 'json', label: <a href={urlOf(routes.report, { id: run.id })}>Report (JSON)</a> },
            { key: 'csv', label: <a href={urlOf(routes.report, { id: run.id, as: 'csv' })}>Report (CSV)</a> },
            ...(isOne(run) ? [] : [{ key: 'loop', label: 'Make a loop of this run', onClick: makeLoop }]),
          ],
        }}
      >
        <Button icon={<MoreOutlined />} aria-label="More of this run" title="Report, and a loop of this run" />
      </Dropdown>
    </div>
  )
}

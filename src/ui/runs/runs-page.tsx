'use client'

import { ArrowUpOutlined } from '@ant-design/icons'
import { Alert, Button } from 'antd'
import dayjs from 'dayjs'
import Link from 'next/link'
import { type ReactNode, useState } from 'react'
import { formatDuration } from '@/base/format'
import type { RunSummary } from '@/contract/answers'
import { describeEnd, describeTotals, isOver, runsAPage } from '@/jobs/run'
import { resultUrl } from '../api/client'
import { useMoveRunUp, useOlderRuns, useRuns, useStartRunNow, useStatus } from '../api/queries'
import { SmallPicture } from '../controls/small-picture'
import page from '../shell/page.module.css'
import { StationsLine } from '../stations/stations'
import { ProgressLine } from './progress-line'
import styles from './runs.module.css'
import { describeState, isWaitingForTime } from './words'

/** Queue and history: one row a run. */
export function RunsPage(): ReactNode {
  const { data: runs, error } = useRuns()
  return (
    <div className={page.page}>
      <div className={page.head}>
        <h1>Runs</h1>
      </div>
      <RunnerAway />
      <StationsLine />
      {error && <p className={page.empty}>{error.message}</p>}
      {runs?.length === 0 && (
        <p className={page.empty}>
          Nothing has run yet. Open <Link href="/loops">Loops</Link> and run one.
        </p>
      )}
      <ul className={page.rows}>
        {runs?.map((run) => (
          <RunRow key={run.id} run={run} />
        ))}
      </ul>
      {runs && <OlderRuns before={oldestEnded(runs)} />}
    </div>
  )
}

/** The number before which older runs begin: once there are as many that are over as come at a time. */
function oldestEnded(runs: readonly RunSummary[]): number | null {
  const ended = runs.filter((run) => isOver(run.state)).map(({ number }) => number)
  return ended.length >= runsAPage ? Math.min(...ended) : null
}

/** Older runs, as far as somebody wants to look back. */
function OlderRuns({ before }: { before: number | null }): ReactNode {
  const [from, setFrom] = useState<number | null>(null)
  const { data, hasNextPage, fetchNextPage, isFetching } = useOlderRuns(from)
  const older = data?.pages.flatMap(({ runs }) => runs) ?? []
  const canLoad = from === null ? before !== null : hasNextPage
  return (
    <>
      <ul className={page.rows}>
        {older.map((run) => (
          <RunRow key={run.id} run={run} />
        ))}
      </ul>
      {canLoad && (
        <Button loading={isFetching} onClick={() => (from === null ? setFrom(before) : void fetchNextPage())}>
          Show older runs
        </Button>
      )}
    </>
  )
}

export function RunnerAway(): ReactNode {
  const { data: status } = useStatus()
  if (!status || (!status.runner.away && !status.runner.trouble)) return null
  return (
    <Alert
      type="warning"
      showIcon
      style={{ marginBottom: 12 }}
      title={status.runner.away ? 'The runner is away' : 'The runner can’t work'}
      description={
        status.runner.trouble ??
        'Pictures wait and nothing is lost. It is started again by itself; if this stays, stop Copper Loop in its terminal and start it anew.'
      }
    />
  )
}

/** Twice what is seen: also for fine screens. */
const thumbEdge = 96

function RunRow({ run }: { run: RunSummary }): ReactNode {
  const up = useMoveRunUp()
  const now = useStartRunNow()
  return (
    <li className={page.row}>
      <div className={styles.rowName}>
        <Link href={`/runs/${run.id}`}>
          <b>
            {run.isTry ? 'Try' : 'Run'} {run.number}
          </b>{' '}
          · {run.loopName.replace(/^Try of /, '')}
        </Link>
        <div className={page.quiet}>{dayjs(run.createdAt).format('D MMM YYYY HH:mm')}</div>
      </div>
      <div className={styles.rowPictures}>
        {run.shown.map((id) => (
          <SmallPicture key={id} src={resultUrl(id, thumbEdge)} />
        ))}
      </div>
      <div className={styles.rowLine}>
        <ProgressLine run={run} />
        <div className={page.quiet}>
          {isOver(run.state) ? describeEnd(run) : describeTotals(run.totals)}
          {run.rate !== null && ` · ${run.rate.toFixed(1)} a second`}
          {run.secondsLeft !== null && ` · ${formatDuration(run.secondsLeft)} left`}
        </div>
      </div>
      <div className={styles.rowActions}>
        {isWaitingForTime(run) && (
          <Button size="small" loading={now.isPending} onClick={() => now.mutate(run.id)}>
            Start now
          </Button>
        )}
        {run.turn !== null && run.turn > 1 && (
          <Button
            size="small"
            icon={<ArrowUpOutlined />}
            aria-label={`Move run ${run.number} up`}
            title="Earlier in the queue"
            loading={up.isPending}
            onClick={() => up.mutate(run.id)}
          />
        )}
      </div>
      <div className={styles.rowState}>{describeState(run)}</div>
    </li>
  )
}

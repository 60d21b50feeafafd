'use client'

import { Table, type TableColumnsType } from 'antd'
import type { ReactNode } from 'react'
import { counted, formatDuration } from '@/base/format'
import type { StationView } from '@/contract/answers'
import { useStations } from '../api/queries'
import page from '../shell/page.module.css'
import styles from './stations.module.css'

const isAtWork = ({ isAway, trouble }: StationView): boolean => !isAway && trouble === null

const pace = (perMinute: number): string => (perMinute === 0 ? '–' : `${perMinute.toFixed(perMinute < 10 ? 1 : 0)} a minute`)

const sinceHeard = ({ heardAt }: StationView): string => formatDuration(Math.max(0, Math.round((Date.now() - heardAt) / 1000)))

/** How it stands with a station, in words. */
function stateOf(station: StationView): string {
  if (station.isAway) return '▲ away. Its pictures go to others.'
  if (station.trouble !== null) return `▲ ${station.trouble}`
  return station.busy > 0 ? `${station.busy} of ${station.workers} at work` : 'waits for pictures'
}

function inShort(station: StationView): string {
  if (!isAtWork(station)) return station.isAway ? '▲ away' : '▲ in trouble'
  return station.picturesPerMinute > 0 ? pace(station.picturesPerMinute) : 'waits'
}

/** Which other machines work on the runs, above them. Nothing, where there are none. */
export function StationsLine(): ReactNode {
  const { data } = useStations()
  if (!data || (data.stations.length === 0 && data.trouble === null)) return null
  const { stations, trouble } = data
  const atWork = stations.filter(isAtWork)
  const together = atWork.reduce((sum, { picturesPerMinute }) => sum + picturesPerMinute, 0)
  return (
    <section aria-label="Stations" className={styles.line}>
      <b>
        {counted(atWork.length, 'station')}
        {together > 0 && ` · ${pace(together)}`}
      </b>
      <ul className={styles.stations}>
        {stations.map((station) => (
          <li key={station.id} className={isAtWork(station) ? styles.station : styles.trouble} title={stateOf(station)}>
            <span className={styles.name}>{station.name}</span>
            <span className={page.quiet}>{inShort(station)}</span>
          </li>
        ))}
      </ul>
      {trouble !== null && (
        <p role="status" className={styles.words}>
          ▲ {trouble}
        </p>
      )}
      {stations
        .filter(({ isAway, trouble }) => !isAway && trouble !== null)
        .map((station) => (
          <p key={station.id} role="status" className={styles.words}>
            {station.name}: {station.trouble}
          </p>
        ))}
    </section>
  )
}

const columns: TableColumnsType<StationView> = [
  { title: 'Name', dataIndex: 'name' },
  { title: 'State', key: 'state', className: styles.state, render: (_, station) => stateOf(station) },
  { title: 'Pace', key: 'pace', align: 'right', render: (_, station) => pace(station.isAway ? 0 : station.picturesPerMinute) },
  { title: 'Done', key: 'done', align: 'right', render: (_, { done }) => done.toLocaleString('en-GB') },
  { title: 'Cores', dataIndex: 'cores', align: 'right' },
  { title: 'Version', dataIndex: 'version' },
  { title: 'Heard', key: 'heard', render: (_, station) => `${sinceHeard(station)} ago` },
]

/** More than these are turned over. */
const rowsAPage = 16

/** All stations with what they say of themselves, for Settings. */
export function StationsPart({ redis }: { redis: string | null }): ReactNode {
  const { stations, trouble } = useStations().data ?? { stations: [], trouble: null }
  return (
    <section aria-label="Stations" id="stations">
      <h2>Stations</h2>
      <p className={page.quiet}>
        {redis === null ? (
          <>
            Other machines can share the work on runs: start Copper Loop with <code>COPPER_LOOP_REDIS</code>, and{' '}
            <code>./loop station</code> on each of them. On one machine nothing is needed. How: docs/stations.md.
          </>
        ) : stations.length === 0 ? (
          <>
            No other machine has joined yet. On each one: <code>./loop station --redis {redis} --root /HERE=/THERE</code>. How:
            docs/stations.md.
          </>
        ) : (
          <>
            Other machines that share the work on runs, through <code>{redis}</code>. One that ends or goes away is forgotten after an hour.
          </>
        )}
      </p>
      {trouble !== null && (
        <p role="status" className={styles.words}>
          ▲ {trouble}
        </p>
      )}
      {stations.length > 0 && (
        <Table<StationView>
          size="small"
          rowKey="id"
          columns={columns}
          dataSource={[...stations]}
          pagination={stations.length > rowsAPage ? { pageSize: rowsAPage, size: 'small', showSizeChanger: false } : false}
          className={styles.table}
        />
      )}
    </section>
  )
}

import { Table, type TableColumnsType } from 'antd'
import { type ReactNode, useEffect, useMemo, useRef, useState } from 'react'
import { formatBytes, formatSize } from '@/base/format'
import { fileNameOf } from '@/base/paths'
import type { RunResultRow } from '@/contract/answers'
import styles from './runs.module.css'
import { itemMarks } from './words'

/** One picture in one delivery; a picture without a delivered file has one row of its own. */
interface Row {
  readonly key: string
  readonly picture: RunResultRow
  readonly delivered?: RunResultRow['results'][number]
}

const rowsOf = (results: readonly RunResultRow[]): Row[] =>
  results.flatMap((picture): Row[] => {
    const made = picture.results.filter(({ bytes }) => bytes !== null)
    return made.length === 0
      ? [{ key: `${picture.itemId}`, picture }]
      : made.map((delivered) => ({ key: `${picture.itemId}-${delivered.id}`, picture, delivered }))
  })

const sizeOf = (size: { width: number | null; height: number | null } | undefined): string =>
  size?.width && size.height ? formatSize({ width: size.width, height: size.height }) : ''

/** Why nothing was delivered goes over the columns that tell of what was. */
const withoutReason = ({ delivered }: Row): { colSpan: number } => ({ colSpan: delivered ? 1 : 0 })

const columns: TableColumnsType<Row> = [
  {
    title: 'State',
    width: 92,
    render: (_, { picture: { state } }) => (
      <span style={{ color: itemMarks[state].colour }}>
        <span aria-hidden="true">{itemMarks[state].shape}</span> {itemMarks[state].word}
      </span>
    ),
  },
  { title: 'Source', ellipsis: true, render: (_, { picture }) => <span title={picture.sourcePath}>{picture.relativePath}</span> },
  { title: 'Before', colSpan: 2, width: 112, render: (_, { picture }) => picture.sizeBefore && `${picture.sizeBefore} px` },
  { colSpan: 0, width: 84, align: 'right', render: (_, { picture }) => formatBytes(picture.sourceBytes) },
  {
    title: 'Delivered',
    ellipsis: true,
    onCell: ({ delivered }) => ({ colSpan: delivered ? 1 : 4 }),
    render: (_, { picture, delivered }) =>
      delivered ? (
        <span title={delivered.path}>{fileNameOf(delivered.path)}</span>
      ) : (
        <span className={styles.reportError} title={picture.error ?? undefined}>
          {picture.error}
        </span>
      ),
  },
  { title: 'After', colSpan: 2, width: 112, onCell: withoutReason, render: (_, { delivered }) => sizeOf(delivered) },
  {
    colSpan: 0,
    width: 84,
    align: 'right',
    onCell: withoutReason,
    render: (_, { delivered }) => delivered && formatBytes(delivered.bytes ?? 0),
  },
  {
    title: 'Noticed',
    onCell: withoutReason,
    width: 200,
    ellipsis: true,
    render: (_, { delivered }) => delivered && <span title={delivered.marks.join(', ')}>{delivered.marks.join(', ')}</span>,
  },
  {
    title: 'Seconds',
    width: 80,
    align: 'right',
    render: (_, { picture }) => picture.milliseconds !== null && (picture.milliseconds / 1000).toFixed(1),
  },
  {
    title: 'Original',
    width: 100,
    render: (_, { picture: { sourceUnchanged } }) => (sourceUnchanged === null ? '' : sourceUnchanged ? 'unchanged' : '▲ changed'),
  },
]

/** Height of the table's head, below which its rows scroll. */
const headPx = 40

/** The run's report as a table: what each picture was and has become. Only rows in view are drawn. */
export function ReportTable({ results }: { results: readonly RunResultRow[] }): ReactNode {
  const box = useRef<HTMLDivElement>(null)
  const [height, setHeight] = useState(400)
  useEffect(() => {
    const element = box.current
    if (!element) return
    const observer = new ResizeObserver(() => setHeight(Math.max(120, element.clientHeight - headPx)))
    observer.observe(element)
    return () => observer.disconnect()
  }, [])
  const rows = useMemo(() => rowsOf(results), [results])
  return (
    <div ref={box} className={styles.report}>
      <Table<Row> virtual size="small" columns={columns} dataSource={rows} pagination={false} scroll={{ x: 1200, y: height }} />
    </div>
  )
}

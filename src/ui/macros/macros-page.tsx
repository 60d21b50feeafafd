'use client'

import { DeleteOutlined, DownloadOutlined, UploadOutlined } from '@ant-design/icons'
import { App, Button, Popconfirm, Tag, Tooltip, Upload } from 'antd'
import { useRouter } from 'next/navigation'
import type { ReactNode } from 'react'
import { replay } from '@/macro/history'
import { layMacro } from '@/macro/recorder'
import type { BenchRecord } from '@/server/bench'
import type { ShelfMacro } from '@/server/macros'
import { get, post } from '../api/client'
import { useBinMacro, useImportMacro, useMacros } from '../api/queries'
import page from '../shell/page.module.css'
import styles from './macros.module.css'
import { ShortWire } from './short-wire'

/** The shelf: every macro with its steps drawn as a short wire. */
export function MacrosPage(): ReactNode {
  const { data: macros, error } = useMacros()
  const { message } = App.useApp()
  const importMacro = useImportMacro()
  const read = async (file: File): Promise<void> => {
    try {
      const macro = await importMacro.mutateAsync(await file.text())
      message.success(`${macro.name} is on the shelf`)
    } catch (problem) {
      message.error(`${file.name}: ${problem instanceof Error ? problem.message : problem}`, 8)
    }
  }
  return (
    <div className={page.page}>
      <div className={page.head}>
        <h1>Macros</h1>
        <Upload
          accept=".json"
          showUploadList={false}
          beforeUpload={(file) => {
            void read(file)
            return false
          }}
        >
          <Button icon={<UploadOutlined />}>Import</Button>
        </Upload>
      </div>
      {error && <p className={page.empty}>{error.message}</p>}
      {macros?.length === 0 && <p className={page.empty}>No macros yet. Record one on the bench and keep it; it will stand here.</p>}
      <ul className={page.rows}>
        {macros?.map((macro) => (
          <MacroRow key={macro.id} macro={macro} />
        ))}
      </ul>
    </div>
  )
}

function MacroRow({ macro }: { macro: ShelfMacro }): ReactNode {
  const router = useRouter()
  const { message } = App.useApp()
  const bin = useBinMacro()
  const open = async (): Promise<void> => {
    try {
      await layOnBench(macro)
      router.push('/bench')
    } catch (problem) {
      message.error(problem instanceof Error ? problem.message : String(problem))
    }
  }
  return (
    <li className={page.row}>
      <div className={styles.name}>
        <h2>{macro.name}</h2>
        <div className={page.quiet}>
          r{macro.revision} · {macro.usedBy.length > 0 ? `in ${macro.usedBy.join(', ')}` : 'in no loop'}
        </div>
        <div className={styles.tags}>
          {macro.tags.map((tag) => (
            <Tag key={tag}>{tag}</Tag>
          ))}
          {macro.needsNewer && <Tag color="warning">needs a newer version</Tag>}
        </div>
      </div>
      <ShortWire steps={macro.steps} />
      <div className={styles.actions}>
        <Button onClick={open}>Open on the bench</Button>
        <Tooltip title="Save as a file">
          <Button icon={<DownloadOutlined />} href={`/api/macros/${macro.id}/file`} aria-label={`Save ${macro.name} as a file`} />
        </Tooltip>
        <Popconfirm
          title={`Put ${macro.name} in the bin?`}
          description={macro.usedBy.length > 0 ? `${macro.usedBy.join(', ')} can’t run without it.` : 'It stays there for thirty days.'}
          okText="Put in the bin"
          onConfirm={() => bin.mutate(macro.id)}
        >
          <Button icon={<DeleteOutlined />} aria-label={`Put ${macro.name} in the bin`} />
        </Popconfirm>
      </div>
    </li>
  )
}

/** Lays a macro's steps on the wire, as one edit that can be undone there. */
async function layOnBench(macro: ShelfMacro): Promise<void> {
  const stored = await get<BenchRecord>('/api/bench')
  const { document } = replay(stored.changes, stored.cursor)
  const change = layMacro(document, macro.steps, () => crypto.randomUUID())
  await post('/api/bench/changes', { from: stored.cursor, expectedCursor: stored.cursor, added: [change], cursor: stored.cursor + 1 })
  await post('/api/bench/place', { macroId: macro.id })
}

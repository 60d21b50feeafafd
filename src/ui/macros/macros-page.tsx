'use client'

import { SearchOutlined, UploadOutlined } from '@ant-design/icons'
import { App, Button, Input, Tag, Upload } from 'antd'
import Link from 'next/link'
import { type ReactNode, useMemo, useState } from 'react'
import type { ShelfMacro } from '@/contract/answers'
import { useBenchSample, useImportFile, useMacros } from '../api/queries'
import { type SampleState, useSamplePictures } from '../bench/use-sample-pictures'
import page from '../shell/page.module.css'
import { BeforeAfter } from './before-after'
import { Bin } from './bin'
import { isSought } from './is-sought'
import { MacroMenu } from './macro-menu'
import styles from './macros.module.css'
import { RunMacroOver } from './run-macro-over'
import { ShortWire } from './short-wire'
import { useOpenOnBench } from './use-open-on-bench'

/** The shelf: every macro with its steps drawn as a short wire, before and after. */
export function MacrosPage(): ReactNode {
  const { data: macros, error } = useMacros(true)
  const { data: sample } = useBenchSample()
  const { message } = App.useApp()
  const [wanted, setWanted] = useState('')
  const [tag, setTag] = useState<string>()
  const importFile = useImportFile()
  const tags = [...new Set(macros?.flatMap((macro) => macro.tags))].sort()
  const found = macros?.filter((macro) => isSought(macro, wanted) && (tag === undefined || macro.tags.includes(tag)))
  const wishes = useMemo(
    () =>
      sample && macros
        ? [
            { key: 'before', path: sample, steps: [] },
            ...macros.filter((macro) => !macro.needsNewer).map(({ id, steps }) => ({ key: id, path: sample, steps })),
          ]
        : [],
    [sample, macros],
  )
  const pictures = useSamplePictures(wishes)
  const read = async (file: File): Promise<void> => {
    try {
      const macro = await importFile.mutateAsync(file)
      void message.success(`${macro.name} is on the shelf`)
    } catch (problem) {
      void message.error(`${file.name}: ${problem instanceof Error ? problem.message : problem}`, 8)
    }
  }
  return (
    <div className={page.page}>
      <div className={page.head}>
        <h1>Macros</h1>
        <Input
          style={{ width: 280, flex: 'none' }}
          allowClear
          prefix={<SearchOutlined />}
          placeholder="Find by name, tag, loop or operation"
          aria-label="Find a macro"
          value={wanted}
          onChange={(event) => setWanted(event.target.value)}
        />
        <div className={styles.filters}>
          {tags.map((each) => (
            <Tag.CheckableTag key={each} checked={tag === each} onChange={(checked) => setTag(checked ? each : undefined)}>
              {each}
            </Tag.CheckableTag>
          ))}
        </div>
        <div className={styles.ends}>
          <Bin />
          <Upload
            accept=".json,.zip,.cube"
            showUploadList={false}
            multiple
            beforeUpload={(file) => {
              void read(file)
              return false
            }}
          >
            <Button icon={<UploadOutlined />}>Import</Button>
          </Upload>
        </div>
      </div>
      {error && <p className={page.empty}>{error.message}</p>}
      {macros?.length === 0 && <p className={page.empty}>No macros yet. Record one on the bench and keep it; it will stand here.</p>}
      {macros && macros.length > 0 && found?.length === 0 && (
        <p className={page.empty}>No macro has all of that. Try fewer words, or another tag.</p>
      )}
      <ul className={page.rows}>
        {found?.map((macro) => (
          <MacroRow key={macro.id} macro={macro} before={pictures.get('before')} after={pictures.get(macro.id)} />
        ))}
      </ul>
    </div>
  )
}

interface RowProps {
  macro: ShelfMacro
  before: SampleState | undefined
  after: SampleState | undefined
}

function MacroRow({ macro, before, after }: RowProps): ReactNode {
  const openOnBench = useOpenOnBench()
  return (
    <li className={page.row}>
      <BeforeAfter before={before} after={after} />
      <div className={styles.name}>
        <h2>
          <Link href={`/macros/${macro.id}`}>{macro.name}</Link>
        </h2>
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
        <Button onClick={() => openOnBench(macro.steps, macro.id)}>Open on the bench</Button>
        <RunMacroOver macro={macro} />
        <MacroMenu macro={macro} />
      </div>
    </li>
  )
}

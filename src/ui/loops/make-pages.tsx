'use client'

import { Alert, App, Button, Modal, Segmented } from 'antd'
import { type ReactNode, useState } from 'react'
import { counted, formatBytes } from '@/base/format'
import { fileNameOf, folderOf } from '@/base/paths'
import { type Gather, type GatherKind, gatherFor } from '@/jobs/gather'
import { useMakePages } from '../api/queries'
import { FolderField } from '../controls/folder-field'
import styles from './deliver-picture.module.css'
import { Field } from './fields'
import { PagesForm } from './pages-form'

interface Props {
  /** Delivered pictures, by their results, in the order of the pages; nothing: nothing is asked now. */
  resultIds: readonly number[] | undefined
  /** Where they may go. */
  suggestedFolder: string
  onClose(): void
}

/** Pages of pictures that are delivered already. */
export function MakePages({ resultIds, suggestedFolder, onClose }: Props): ReactNode {
  return (
    <Modal
      title={`Gather ${counted(resultIds?.length ?? 0, 'picture')} on pages`}
      open={resultIds !== undefined}
      onCancel={onClose}
      footer={null}
      width={560}
      destroyOnHidden
    >
      {resultIds && <Choice resultIds={resultIds} suggestedFolder={suggestedFolder} onClose={onClose} />}
    </Modal>
  )
}

function Choice({ resultIds, suggestedFolder, onClose }: { resultIds: readonly number[] } & Omit<Props, 'resultIds'>): ReactNode {
  const { notification } = App.useApp()
  const [gather, setGather] = useState<Gather>(gatherFor('sheet'))
  const [folder, setFolder] = useState(suggestedFolder)
  const make = useMakePages()
  const start = (): void =>
    void make.mutateAsync({ resultIds: [...resultIds], gather, folder }).then(
      (files) => {
        onClose()
        const [first] = files
        if (!first) return
        notification.success({
          title: `${files.map(({ path }) => fileNameOf(path)).join(', ')}: ${counted(first.pages, 'page')}`,
          description: `${formatBytes(files.reduce((sum, { bytes }) => sum + bytes, 0))} in ${folderOf(first.path)}`,
          duration: 12,
        })
      },
      () => undefined,
    )
  return (
    <div className={styles.fields}>
      <Segmented<GatherKind>
        block
        size="small"
        aria-label="How many on a page"
        value={gather.kind}
        options={[
          { value: 'sheet', label: 'Many on a page' },
          { value: 'set', label: 'A page each' },
        ]}
        onChange={(kind) => setGather(gatherFor(kind))}
      />
      <Field label="Where to">
        <FolderField label="Where the pages go" mayBeNew value={folder} onChange={setFolder} />
      </Field>
      <PagesForm gather={gather} onChange={setGather} />
      {make.error && <Alert type="error" showIcon title={make.error.message} />}
      <Button className={styles.go} type="primary" loading={make.isPending} disabled={folder === ''} onClick={start}>
        Make the pages
      </Button>
    </div>
  )
}

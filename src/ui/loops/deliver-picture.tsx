'use client'

import { Alert, App, Button, Form, Modal } from 'antd'
import Link from 'next/link'
import { type ReactNode, useState } from 'react'
import { formatBytes } from '@/base/format'
import { fileNameOf, folderOf } from '@/base/paths'
import type { RunDetail } from '@/contract/answers'
import { routes } from '@/contract/routes'
import { formats } from '@/jobs/encoding'
import { isOver } from '@/jobs/run'
import type { Step } from '@/macros/step'
import { call, resultUrl } from '../api/client'
import { useDeliverPicture, useSettings } from '../api/queries'
import { focusOnceThere } from '../controls/focus-once-there'
import { FolderField } from '../controls/folder-field'
import styles from './deliver-picture.module.css'
import { EncodingFields } from './encoding-fields'
import { Field, LongEdge } from './fields'
import { lastDelivery, noteDelivery } from './last-delivery'
import { NameField } from './name-field'

/** A picture as it stands: its source, and all steps that it is put through. */
export interface PictureToDeliver {
  readonly sourcePath: string
  readonly steps: readonly Step[]
}

interface Props {
  /** Nothing: nothing is asked now. */
  picture: PictureToDeliver | undefined
  onClose(): void
}

/** Delivers the picture in hand, as the last one was unless somebody says otherwise. */
export function DeliverPicture({ picture, onClose }: Props): ReactNode {
  const { data: settings } = useSettings()
  return (
    <Modal
      title={picture ? `Deliver ${fileNameOf(picture.sourcePath)}` : 'Deliver this picture'}
      open={picture !== undefined}
      onCancel={onClose}
      footer={null}
      width={640}
      destroyOnHidden
    >
      {picture && settings && <Choice picture={picture} roots={settings.roots.map(({ path }) => path)} onClose={onClose} />}
    </Modal>
  )
}

function Choice({ picture, roots, onClose }: { picture: PictureToDeliver; roots: readonly string[]; onClose(): void }): ReactNode {
  const [delivery, setDelivery] = useState(() => lastDelivery(folderOf(picture.sourcePath), roots))
  const [problem, setProblem] = useState<string>()
  const start = useDeliverPicture()
  const tellEnd = useTellEnd()
  const change = (part: Partial<typeof delivery>): void => setDelivery({ ...delivery, ...part })
  const deliver = async (): Promise<void> => {
    setProblem(undefined)
    try {
      const run = await start.mutateAsync({ ...picture, steps: [...picture.steps], delivery })
      noteDelivery(delivery)
      onClose()
      tellEnd(run.id)
    } catch (failure) {
      setProblem(failure instanceof Error ? failure.message : String(failure))
    }
  }
  return (
    <Form onFinish={deliver}>
      <div className={styles.fields}>
        <Field label="Where to">
          <FolderField label="Where to" mayBeNew value={delivery.folder} onChange={(folder) => change({ folder })} />
        </Field>
        <Field label="Name">
          <NameField
            value={delivery.namePattern}
            values={undefined}
            isWrong={false}
            ending={formats[delivery.format].extension}
            onChange={(namePattern) => change({ namePattern })}
          />
        </Field>
        <EncodingFields encoding={delivery} onChange={change} />
        <Field label="Long edge">
          <LongEdge placeholder="as the steps" value={delivery.longEdgePx} onChange={(longEdgePx) => change({ longEdgePx })} />
        </Field>
        {problem && <Alert type="error" showIcon title={problem} />}
        <Button
          className={styles.go}
          type="primary"
          htmlType="submit"
          ref={focusOnceThere}
          loading={start.isPending}
          disabled={delivery.folder === ''}
        >
          Deliver
        </Button>
      </div>
    </Form>
  )
}

const lookEveryMs = 400

/** Waits for a run of one picture, and says what came of it. */
function useTellEnd(): (runId: string) => void {
  const { notification } = App.useApp()
  const follow = async (id: string): Promise<void> => {
    const key = id
    notification.info({ key, title: 'The picture is being delivered …', duration: 0 })
    let detail = await call(routes.run, { asked: { id } })
    while (!isOver(detail.run.state) && detail.run.state !== 'paused') {
      await new Promise((resolve) => setTimeout(resolve, lookEveryMs))
      detail = await call(routes.run, { asked: { id } })
    }
    const { isFault, title, description } = endOf(detail)
    notification[isFault ? 'error' : 'success']({ key, title, description, duration: isFault ? 0 : 12 })
  }
  return (id) => void follow(id).catch((problem: Error) => notification.error({ key: id, title: problem.message }))
}

function endOf({ run, results }: RunDetail): { isFault: boolean; title: string; description: ReactNode } {
  const [result] = results
  const [file] = result?.results ?? []
  const toRun = <Link href={`/runs/${run.id}`}>Run {run.number}</Link>
  if (!file || file.bytes === null)
    return {
      isFault: true,
      title: 'The picture was not delivered',
      description: (
        <>
          {result?.error ?? run.reason} {toRun}
        </>
      ),
    }
  return {
    isFault: false,
    title: `${fileNameOf(file.path)}: ${file.width} × ${file.height} px, ${formatBytes(file.bytes)}`,
    description: (
      <>
        In {folderOf(file.path)}.{' '}
        <a href={resultUrl(file.id)} target="_blank" rel="noreferrer">
          Look at it
        </a>{' '}
        · {toRun}
      </>
    ),
  }
}

'use client'

import { FileTextOutlined } from '@ant-design/icons'
import { Alert, App, Button } from 'antd'
import type { ReactNode } from 'react'
import { counted, formatBytes } from '@/base/format'
import { fileNameOf } from '@/base/paths'
import type { RunSummary } from '@/contract/answers'
import { routes } from '@/contract/routes'
import { urlOf } from '../api/client'
import { useMakePagesAgain } from '../api/queries'
import page from '../shell/page.module.css'

/** The files of pages that a run made, and why one could not be made. */
export function GatheredFiles({ run }: { run: RunSummary }): ReactNode {
  const { message } = App.useApp()
  const again = useMakePagesAgain()
  const makeAgain = (): void => void again.mutateAsync(run.id).catch((problem: Error) => message.error(problem.message, 8))
  return run.gathered.map((file, index) =>
    file.problem === null ? (
      <div key={file.path}>
        <FileTextOutlined />{' '}
        <a href={urlOf(routes.gatheredFile, { id: run.id, index: String(index) })} target="_blank" rel="noreferrer" title={file.path}>
          {fileNameOf(file.path)}
        </a>
        , {counted(file.pictures, 'picture')} on {counted(file.pages, 'page')}, {formatBytes(file.bytes)}
        {file.leftOut.length > 0 && <span className={page.quiet}> · not on it: {file.leftOut.join(', ')}</span>}
      </div>
    ) : (
      <Alert
        key={file.deliveryId}
        type="error"
        showIcon
        title={`The pages could not be made. ${file.problem}`}
        action={
          <Button size="small" loading={again.isPending} onClick={makeAgain}>
            Make the pages again
          </Button>
        }
      />
    ),
  )
}

import { UploadOutlined } from '@ant-design/icons'
import { Button, Tooltip, Upload } from 'antd'
import { type ReactNode, useState } from 'react'
import { routes } from '@/contract/routes'
import type { FileSetting } from '@/operations'
import { keptFileName } from '@/pixels/kept-file'
import { call } from '../api/client'
import styles from './controls.module.css'
import { DrawMark } from './draw-mark'

const accepted = { image: '.png,.jpg,.jpeg,.webp,.tif,.tiff', look: '.cube', font: '.otf,.ttf,.woff,.woff2' } as const

/** Chooses a file that is kept with the macro. */
export function FileControl({
  setting,
  value,
  onCommit,
}: {
  setting: FileSetting
  value: string
  onCommit(value: string): void
}): ReactNode {
  const [problem, setProblem] = useState<string>()
  const [busy, setBusy] = useState(false)
  const keep = async (chosen: File): Promise<void> => {
    setBusy(true)
    setProblem(undefined)
    try {
      const { value: kept } = await call(routes.keepFile, { asked: { name: chosen.name } }, { file: chosen })
      onCommit(kept)
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error))
    } finally {
      setBusy(false)
    }
  }
  return (
    <div className={styles.file}>
      <Tooltip title={setting.help} placement="right" mouseEnterDelay={0.6}>
        <span className={styles.label}>{setting.label}</span>
      </Tooltip>
      <Upload
        accept={accepted[setting.holds]}
        showUploadList={false}
        beforeUpload={(chosen) => {
          void keep(chosen)
          return false
        }}
      >
        <Button size="small" icon={<UploadOutlined />} loading={busy} aria-label={`Choose ${setting.label.toLowerCase()}`}>
          {value === '' ? 'Choose a file' : keptFileName(value)}
        </Button>
      </Upload>
      {setting.holds === 'image' && <DrawMark onDrawn={(drawn) => void keep(drawn)} />}
      {problem && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
    </div>
  )
}

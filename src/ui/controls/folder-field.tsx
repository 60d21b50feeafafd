'use client'

import { FolderOpenOutlined } from '@ant-design/icons'
import { Button, Input, Space } from 'antd'
import { type ReactNode, useState } from 'react'
import { FolderBrowser } from './folder-browser'

interface Props {
  label: string
  value: string
  /** It need not be there yet. */
  mayBeNew?: boolean
  onChange(path: string): void
}

/** A folder's path, typed or chosen. */
export function FolderField({ label, value, mayBeNew, onChange }: Props): ReactNode {
  const [choosing, setChoosing] = useState(false)
  return (
    <>
      <Space.Compact block>
        <Input
          value={value}
          aria-label={label}
          placeholder={label}
          spellCheck={false}
          style={{ fontFamily: 'var(--figures)', fontSize: 12 }}
          onChange={(event) => onChange(event.target.value)}
        />
        <Button icon={<FolderOpenOutlined />} onClick={() => setChoosing(true)} aria-label={`Choose: ${label}`} />
      </Space.Compact>
      <FolderBrowser
        title={label}
        wants="folder"
        open={choosing}
        mayBeNew={mayBeNew}
        start={value || undefined}
        onClose={() => setChoosing(false)}
        onChoose={(path) => {
          setChoosing(false)
          onChange(path)
        }}
      />
    </>
  )
}

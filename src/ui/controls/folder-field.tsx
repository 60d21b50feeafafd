'use client'

import { FolderOpenOutlined } from '@ant-design/icons'
import { Button, Input, Space } from 'antd'
import { type ReactNode, useState } from 'react'
import { FolderBrowser } from './folder-browser'

/** A folder's path, typed or chosen. */
export function FolderField({ label, value, onChange }: { label: string; value: string; onChange(path: string): void }): ReactNode {
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

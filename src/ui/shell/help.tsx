'use client'

import { QuestionCircleOutlined } from '@ant-design/icons'
import { Button, Modal, Tabs, Tooltip } from 'antd'
import { type ReactNode, useState } from 'react'
import { Jobs, Shortcuts } from './help-parts'
import styles from './shell.module.css'
import { useShortcuts } from './shortcuts'

/** Behind `?`, over the work: the jobs that people come with, and the shortcuts. The same is a page, to lie beside it. */
export function Help(): ReactNode {
  const [open, setOpen] = useState(false)
  useShortcuts({ help: () => setOpen(true) })
  return (
    <>
      <Tooltip title="Help (?)">
        <Button type="text" icon={<QuestionCircleOutlined />} aria-label="Help" onClick={() => setOpen(true)} />
      </Tooltip>
      <Modal
        title="Help"
        open={open}
        onCancel={() => setOpen(false)}
        footer={
          <a className={styles.ownWindow} href="/help" target="_blank" rel="noreferrer">
            In a window of its own
          </a>
        }
        width={1080}
        destroyOnHidden
      >
        <Tabs
          className={styles.help}
          items={[
            { key: 'jobs', label: 'Jobs', children: <Jobs /> },
            { key: 'shortcuts', label: 'Shortcuts', children: <Shortcuts /> },
          ]}
        />
      </Modal>
    </>
  )
}

'use client'

import { QuestionCircleOutlined } from '@ant-design/icons'
import { Button, Modal, Tooltip } from 'antd'
import { type ReactNode, useState } from 'react'
import { keysOf } from '@/base/schema'
import styles from './shell.module.css'
import { shortcutLabel, shortcuts, useShortcuts } from './shortcuts'

const pages = ['Everywhere', 'Bench', 'Proof'] as const

/** The list of shortcuts behind `?`, by the page where they hold. */
export function Help(): ReactNode {
  const [open, setOpen] = useState(false)
  useShortcuts({ help: () => setOpen(true) })
  return (
    <>
      <Tooltip title="Shortcuts (?)">
        <Button type="text" icon={<QuestionCircleOutlined />} aria-label="Shortcuts" onClick={() => setOpen(true)} />
      </Tooltip>
      <Modal title="Shortcuts" open={open} onCancel={() => setOpen(false)} footer={null} width={1080}>
        <div className={styles.helpPages}>
          {pages.map((page) => (
            <section key={page}>
              <h3>{page}</h3>
              <dl className={styles.shortcuts}>
                {keysOf(shortcuts)
                  .filter((name) => shortcuts[name].where.includes(page))
                  .map((name) => (
                    <div key={name}>
                      <dt>
                        <kbd>{shortcutLabel(name)}</kbd>
                      </dt>
                      <dd>{shortcuts[name].what}</dd>
                    </div>
                  ))}
              </dl>
            </section>
          ))}
        </div>
      </Modal>
    </>
  )
}

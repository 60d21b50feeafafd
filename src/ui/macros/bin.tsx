'use client'

import { DeleteOutlined } from '@ant-design/icons'
import { Button, Popover } from 'antd'
import dayjs from 'dayjs'
import type { ReactNode } from 'react'
import { useBin, useRestoreMacro } from '../api/queries'
import styles from './macros.module.css'

/** What was put in the bin, with a way back. */
export function Bin(): ReactNode {
  const { data: binned = [] } = useBin()
  const restore = useRestoreMacro()
  if (binned.length === 0) return null
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      title="In the bin"
      content={
        <ul className={styles.bin}>
          {binned.map((macro) => (
            <li key={macro.id}>
              <span>
                <b>{macro.name}</b>
                <br />
                until {dayjs(macro.goneAt).format('D MMMM')}
              </span>
              <Button size="small" loading={restore.isPending} onClick={() => restore.mutate(macro.id)}>
                Take back
              </Button>
            </li>
          ))}
        </ul>
      }
    >
      <Button icon={<DeleteOutlined />}>Bin ({binned.length})</Button>
    </Popover>
  )
}

'use client'

import { Input, InputNumber, Select, Switch } from 'antd'
import type { ReactNode } from 'react'
import { formats } from '@/core/encoding'
import type { Delivery } from '@/core/loop'
import { FolderField } from '../controls/folder-field'
import { EncodingFields } from './encoding-fields'
import styles from './loops.module.css'

const thereOptions = [
  { value: 'number', label: 'Number the new one' },
  { value: 'skip', label: 'Skip the picture' },
]

/** Where finished pictures go, how they are named, and as what. */
export function DeliveryForm({ delivery, onChange }: { delivery: Delivery; onChange(delivery: Delivery): void }): ReactNode {
  const change = (part: Partial<Delivery>): void => onChange({ ...delivery, ...part })
  return (
    <div className={styles.delivery}>
      <FolderField label="Delivery folder" value={delivery.folder} onChange={(folder) => change({ folder })} />
      <div className={styles.field}>
        <span>Names</span>
        <Input
          aria-label="Names"
          value={delivery.namePattern}
          maxLength={200}
          spellCheck={false}
          style={{ fontFamily: 'var(--figures)', fontSize: 12 }}
          onChange={(event) => change({ namePattern: event.target.value })}
          suffix={<code>.{formats[delivery.format].extension}</code>}
        />
      </div>
      <p className={styles.help}>
        Fields in braces: <code>{'{name}'}</code> <code>{'{n:001}'}</code> <code>{'{taken:yyyy-MM-dd}'}</code> <code>{'{folder}'}</code>{' '}
        <code>{'{title|name}'}</code>; <code>/</code> makes subfolders.
      </p>
      <EncodingFields encoding={delivery} onChange={change} />
      <div className={styles.field}>
        <span>Long edge</span>
        <InputNumber
          aria-label="Long edge"
          min={16}
          max={65535}
          precision={0}
          placeholder="as the macro"
          value={delivery.longEdgePx}
          suffix="px"
          style={{ width: 150 }}
          onChange={(longEdgePx) => change({ longEdgePx })}
        />
        <span className={styles.quiet}>empty: as the macro leaves it; never enlarged</span>
      </div>
      <div className={styles.field}>
        <span>If it is there</span>
        <Select
          aria-label="If a file is there already"
          className={styles.grow}
          options={thereOptions}
          value={delivery.whenThere}
          onChange={(whenThere) => change({ whenThere })}
        />
      </div>
      <div className={styles.inline}>
        <Switch
          size="small"
          aria-label="Keep the intake’s subfolders"
          checked={delivery.mirrorFolders}
          onChange={(mirrorFolders) => change({ mirrorFolders })}
        />
        keep the intake’s subfolders
      </div>
      <p className={styles.help}>Profile embedded, upright; camera data, title and keywords are kept.</p>
    </div>
  )
}

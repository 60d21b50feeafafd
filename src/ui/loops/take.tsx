import { DeleteOutlined, PlusOutlined } from '@ant-design/icons'
import { Button, Select, Switch } from 'antd'
import type { ReactNode } from 'react'
import { counted, formatBytes } from '@/core/format'
import type { IntakeOrder, LoopIntake } from '@/core/loop'
import type { Preflight } from '@/server/preflight'
import { Conditions } from '../bench/conditions'
import { FolderField } from '../controls/folder-field'
import { type PartProps, Problems } from './loop-page'
import styles from './loops.module.css'

const orderOptions: { value: IntakeOrder; label: string }[] = [
  { value: 'folder', label: 'folder by folder' },
  { value: 'name', label: 'by name' },
  { value: 'taken', label: 'by the time they were taken' },
]

/** Which pictures a loop takes. */
export function Take({ loop, check, problems, onChange }: PartProps & { check: Preflight | undefined }): ReactNode {
  const { intake } = loop
  const change = (part: Partial<LoopIntake>): void => onChange({ intake: { ...intake, ...part } })
  return (
    <section className={styles.part}>
      <h2>Take</h2>
      <FolderField label="Intake folder" value={intake.folder} onChange={(folder) => change({ folder })} />
      {intake.more.map((folder, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: folders have no identity beyond their place
        <div key={index} className={styles.furtherFolder}>
          <FolderField
            label={`Intake folder ${index + 2}`}
            value={folder}
            onChange={(next) => change({ more: intake.more.map((other, i) => (i === index ? next : other)) })}
          />
          <Button
            type="text"
            icon={<DeleteOutlined />}
            aria-label={`Remove intake folder ${index + 2}`}
            onClick={() => change({ more: intake.more.toSpliced(index, 1) })}
          />
        </div>
      ))}
      <div className={styles.inline}>
        <Switch aria-label="With subfolders" size="small" checked={intake.subfolders} onChange={(subfolders) => change({ subfolders })} />
        with subfolders
        <Button size="small" icon={<PlusOutlined />} onClick={() => change({ more: [...intake.more, ''] })}>
          Another folder
        </Button>
        <Select
          size="small"
          className={styles.grow}
          aria-label="In which order"
          options={orderOptions}
          value={intake.order}
          onChange={(order) => change({ order })}
        />
      </div>
      {intake.subfolders && (
        <Select
          mode="tags"
          size="small"
          className={styles.wide}
          aria-label="Subfolders to pass over"
          placeholder="Passes over no subfolder. Pass over, by name, * for anything …"
          value={[...intake.without]}
          open={false}
          suffixIcon={null}
          onChange={(without: string[]) => change({ without: without.map((name) => name.trim()).filter(Boolean) })}
        />
      )}
      <Conditions
        label="Only some pictures"
        none="Takes all pictures. Only those with …"
        value={intake.only}
        onChange={(only) => change({ only })}
      />
      {check && check.totals.pictures > 0 && (
        <p className={styles.count}>
          {counted(check.totals.pictures, 'picture')} in {counted(check.totals.folders, 'folder')}, {formatBytes(check.totals.bytes)}
          {check.totals.unreadable > 0 && `, ${check.totals.unreadable} can’t be read`}
        </p>
      )}
      <Problems list={problems} />
    </section>
  )
}

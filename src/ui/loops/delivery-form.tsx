'use client'

import { CopyOutlined, DeleteOutlined } from '@ant-design/icons'
import { Button, Input, Select } from 'antd'
import type { ReactNode } from 'react'
import type { Delivery } from '@/jobs/delivery'
import { formats } from '@/jobs/encoding'
import { FolderField } from '../controls/folder-field'
import { EncodingFields } from './encoding-fields'
import { Field, LongEdge, SwitchLine, WholeNumber } from './fields'
import styles from './loops.module.css'
import { MetadataFields } from './metadata-fields'
import { NameField } from './name-field'
import { PagesChoice, PagesForm } from './pages-form'

const thereOptions = [
  { value: 'number', label: 'Number the new one' },
  { value: 'skip', label: 'Skip the picture' },
  { value: 'replace', label: 'Replace it, if this loop delivered it' },
]

/** Where finished pictures go, how they are named, and as what. */
interface Props {
  delivery: Delivery
  /** Names as they will be. */
  examples: readonly string[]
  /** What fields of names are of the first picture. */
  nameValues: Readonly<Record<string, string>> | undefined
  onChange(delivery: Delivery): void
  /** The names can't be made of its pattern. */
  isNameWrong: boolean
  onDuplicate(): void
  /** Nothing for the only one. */
  onRemove?: () => void
}

export function DeliveryForm({ delivery, examples, nameValues, isNameWrong, onChange, onDuplicate, onRemove }: Props): ReactNode {
  const change = (part: Partial<Delivery>): void => onChange({ ...delivery, ...part })
  const { gather } = delivery
  return (
    <div className={styles.delivery}>
      <div className={styles.deliveryHead}>
        <Input
          variant="borderless"
          aria-label="Name of the delivery"
          value={delivery.name}
          maxLength={80}
          onChange={(event) => event.target.value && change({ name: event.target.value })}
        />
        <Button
          type="text"
          size="small"
          icon={<CopyOutlined />}
          aria-label={`Duplicate ${delivery.name}`}
          title="Duplicate"
          onClick={onDuplicate}
        />
        {onRemove && (
          <Button type="text" size="small" icon={<DeleteOutlined />} aria-label={`Remove ${delivery.name}`} onClick={onRemove} />
        )}
      </div>
      <FolderField label="Delivery folder" mayBeNew value={delivery.folder} onChange={(folder) => change({ folder })} />
      <SwitchLine
        name={`Folder asked before each run: ${delivery.name}`}
        checked={delivery.folderAsked}
        onChange={(folderAsked) => change({ folderAsked })}
      >
        asked before each run
      </SwitchLine>
      <PagesChoice delivery={delivery} onChange={change} />
      {gather && <PagesForm gather={gather} onChange={(next) => change({ gather: next })} />}
      <Field label={gather ? (gather.kind === 'set' ? 'Bookmarks' : 'Called') : 'Names'}>
        <NameField
          value={delivery.namePattern}
          isWrong={isNameWrong}
          values={nameValues}
          ending={formats[delivery.format].extension}
          onChange={(namePattern) => change({ namePattern })}
        />
      </Field>
      {examples.length > 0 && (
        <p className={styles.help} title="As the next pictures will be called">
          {examples.map((name) => (
            <span key={name} className={styles.example}>
              {name}
            </span>
          ))}
        </p>
      )}
      <EncodingFields encoding={delivery} isOnPages={gather !== null} onChange={change} />
      <Field label="Long edge">
        <LongEdge placeholder="as the macro" value={delivery.longEdgePx} onChange={(longEdgePx) => change({ longEdgePx })} />
        <span className={styles.quiet}>empty: as the macro leaves it; never enlarged</span>
      </Field>
      <Field label="Sharpen">
        <WholeNumber
          name="Sharpen for the delivered size"
          min={0}
          max={100}
          unit="%"
          value={delivery.sharpenPercent}
          onChange={(value) => change({ sharpenPercent: value ?? 0 })}
        />
        <span className={styles.quiet}>lightness alone, after the change of size</span>
      </Field>
      <MetadataFields metadata={delivery.metadata} onChange={(metadata) => change({ metadata })} />
      <Field label="If it is there">
        <Select
          aria-label="If a file is there already"
          className={styles.grow}
          options={thereOptions}
          value={delivery.whenThere}
          onChange={(whenThere) => change({ whenThere })}
        />
      </Field>
      {!gather && (
        <SwitchLine
          name="Keep the intake’s subfolders"
          checked={delivery.mirrorFolders}
          onChange={(mirrorFolders) => change({ mirrorFolders })}
        >
          keep the intake’s subfolders
        </SwitchLine>
      )}
      <SwitchLine name="With the macro’s stamps" checked={delivery.stamps} onChange={(stamps) => change({ stamps })}>
        with the macro’s stamps
      </SwitchLine>
      {!gather && (
        <SwitchLine name="Say how beside each picture" checked={delivery.sidecar} onChange={(sidecar) => change({ sidecar })}>
          beside each picture, a file that says how it was made
        </SwitchLine>
      )}
      <SwitchLine name="Report beside the pictures" checked={delivery.report} onChange={(report) => change({ report })}>
        the run’s report beside the pictures, as JSON and CSV
      </SwitchLine>
    </div>
  )
}

'use client'

import { Select } from 'antd'
import type { ReactNode } from 'react'
import { type MetadataPolicy, type MetadataWishes, type WrittenField, writtenFields } from '@/jobs/metadata-policy'
import { captionChips } from '@/jobs/name-chips'
import { TokenInput } from '../controls/token-input'
import { Field } from './fields'
import styles from './loops.module.css'

const policyOptions: { value: MetadataPolicy; label: string }[] = [
  { value: 'all', label: 'Keep all of it' },
  { value: 'noLocation', label: 'Keep it, but not the location' },
  { value: 'rights', label: 'Only title, creator and rights' },
  { value: 'none', label: 'None' },
]

const fieldLabels: Readonly<Record<WrittenField, string>> = {
  title: 'Title',
  description: 'Description',
  creator: 'Creator',
  rights: 'Rights',
  keywords: 'Keywords',
}

/** What the delivered files tell about themselves. */
export function MetadataFields({ metadata, onChange }: { metadata: MetadataWishes; onChange(metadata: MetadataWishes): void }): ReactNode {
  return (
    <>
      <Field label="Metadata">
        <Select
          aria-label="Metadata of the source"
          className={styles.grow}
          options={policyOptions}
          value={metadata.policy}
          onChange={(policy) => onChange({ ...metadata, policy })}
        />
      </Field>
      <details className={styles.more} open={writtenFields.some((field) => metadata.fields[field] !== '') || undefined}>
        <summary>Write into every file</summary>
        {writtenFields.map((field) => (
          <Field key={field} label={fieldLabels[field]}>
            <TokenInput
              isQuiet
              label={fieldLabels[field]}
              chips={captionChips}
              maxLength={200}
              placeholder={field === 'keywords' ? 'as the source; several with commas' : 'as the source'}
              value={metadata.fields[field]}
              onChange={(text) => onChange({ ...metadata, fields: { ...metadata.fields, [field]: text } })}
            />
          </Field>
        ))}
      </details>
    </>
  )
}

'use client'

import { CloseOutlined } from '@ant-design/icons'
import { Button, Segmented, Select, Switch } from 'antd'
import type { ReactNode } from 'react'
import { keysOf } from '@/base/schema'
import { type Limit, type LimitJoin, type LimitKind, limitKinds, newLimit } from '@/macros/limit'
import { NumberControl } from '../controls/number-control'
import { BrushFields } from './brush-fields'
import styles from './desk.module.css'
import { LimitTravel } from './limit-travel'
import { useBench } from './store'

const kindOptions = keysOf(limitKinds).map((kind) => ({
  value: kind,
  label: limitKinds[kind].label,
  title: limitKinds[kind].help,
}))

const joinOptions: { value: LimitJoin; label: string }[] = [
  { value: 'and', label: 'within' },
  { value: 'or', label: 'and also' },
  { value: 'without', label: 'but not' },
]

interface Props {
  stepId: string
  value: readonly Limit[]
  onDraft(value: readonly Limit[]): void
  onCommit(value: readonly Limit[]): void
}

/** Where in the picture a step applies. */
export function Limits({ stepId, value, onDraft, onCommit }: Props): ReactNode {
  const replaced = (index: number, next: Limit): Limit[] => value.map((limit, i) => (i === index ? next : limit))
  const showsLimit = useBench((state) => state.showsLimit)
  const set = useBench((state) => state.set)
  const add = (kind: LimitKind): void => {
    onCommit([...value, newLimit(kind)])
    if (kind === 'brush') set({ tool: { kind: 'brush', limit: value.length } })
  }
  return (
    <div className={styles.conditions}>
      <div className={styles.limitStart}>
        <Select
          size="small"
          className={styles.wide}
          aria-label="Only on a part of the picture"
          placeholder={value.length === 0 ? 'On all of the picture. Only on …' : 'and only on …'}
          options={kindOptions}
          value={null}
          onSelect={(kind: LimitKind | null) => kind && add(kind)}
        />
        <LimitTravel stepId={stepId} value={value} onCommit={onCommit} />
      </div>
      {value.length > 0 && (
        <Button
          size="small"
          type={showsLimit ? 'primary' : 'default'}
          aria-pressed={showsLimit}
          onClick={() => set({ showsLimit: !showsLimit })}
        >
          {showsLimit ? 'Hide where it applies' : 'Show where it applies'}
        </Button>
      )}
      {value.map((limit, index) => (
        <LimitFields
          // biome-ignore lint/suspicious/noArrayIndexKey: limits have no identity of their own
          key={index}
          limit={limit}
          index={index}
          isFirst={index === 0}
          onDraft={(next) => onDraft(replaced(index, next))}
          onCommit={(next) => onCommit(replaced(index, next))}
          onRemove={() => {
            set({ tool: null })
            onCommit(value.toSpliced(index, 1))
          }}
        />
      ))}
    </div>
  )
}

interface FieldsProps {
  limit: Limit
  index: number
  isFirst: boolean
  onDraft(limit: Limit): void
  onCommit(limit: Limit): void
  onRemove(): void
}

function LimitFields({ limit, index, isFirst, onDraft, onCommit, onRemove }: FieldsProps): ReactNode {
  const { label, settings } = limitKinds[limit.kind]
  const withSetting = (key: string, number: number): Limit => ({ ...limit, settings: { ...limit.settings, [key]: number } })
  return (
    <fieldset className={styles.limit} aria-label={label}>
      {!isFirst && (
        <Segmented
          block
          size="small"
          aria-label="How it joins the limit above"
          options={joinOptions}
          value={limit.join}
          onChange={(join) => onCommit({ ...limit, join })}
        />
      )}
      <div className={styles.limitHead}>
        <b>{label}</b>
        <span className={styles.inverted}>
          Inverted
          <Switch
            size="small"
            checked={limit.inverted}
            onChange={(inverted) => onCommit({ ...limit, inverted })}
            aria-label={`${label} inverted`}
          />
        </span>
        <Button type="text" size="small" icon={<CloseOutlined />} aria-label={`Remove ${label.toLowerCase()}`} onClick={onRemove} />
      </div>
      {limit.kind === 'brush' && <BrushFields limit={limit} index={index} onCommit={onCommit} />}
      {Object.entries(settings).map(([key, setting]) => (
        <NumberControl
          key={key}
          setting={setting}
          value={limit.settings[key] ?? setting.default}
          onDraft={(number) => onDraft(withSetting(key, number))}
          onCommit={(number) => onCommit(withSetting(key, number))}
        />
      ))}
    </fieldset>
  )
}

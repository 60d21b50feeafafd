'use client'

import { CloseOutlined } from '@ant-design/icons'
import { Button, DatePicker, InputNumber, Select } from 'antd'
import dayjs from 'dayjs'
import type { ReactNode } from 'react'
import { keysOf } from '@/base/schema'
import {
  type Condition,
  type ConditionKind,
  conditionKinds,
  conditionLike,
  formatName,
  joinPatterns,
  patternFor,
  pictureFormats,
  type Subject,
  splitPatterns,
} from '@/macros/condition'
import { LateText } from '../controls/late-text'
import styles from './desk.module.css'

const kindOptions = keysOf(conditionKinds).map((kind) => ({ value: kind, label: conditionKinds[kind].label }))

/** For which pictures a step applies: all conditions must hold. */
interface Props {
  value: readonly Condition[]
  onChange(value: readonly Condition[]): void
  label?: string
  /** What stands in the list while there are none. */
  none?: string
  /** The picture that a new condition is to hold for. */
  subject?: Subject | undefined
  /** Names to pick from. */
  names?: readonly string[]
}

export function Conditions(props: Props): ReactNode {
  const { value, onChange, label = 'Only for some pictures', none = 'For all pictures. Only for …', subject, names = [] } = props
  return (
    <div className={styles.conditions}>
      <Select
        size="small"
        className={styles.wide}
        aria-label={label}
        placeholder={value.length === 0 ? none : 'and only for …'}
        options={kindOptions}
        value={null}
        onSelect={(kind: ConditionKind | null) =>
          kind && onChange([...value, subject ? conditionLike(kind, subject) : conditionKinds[kind].start])
        }
      />
      {value.map((condition, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: conditions have no identity of their own
        <div key={index} className={styles.condition} data-kind={condition.kind}>
          <span>{conditionKinds[condition.kind].label}</span>
          <Button
            size="small"
            type={condition.not ? 'primary' : 'default'}
            ghost={condition.not}
            aria-pressed={condition.not ?? false}
            aria-label="Not"
            title="Turn it round: all but these"
            onClick={() => onChange(value.with(index, turnedRound(condition)))}
          >
            not
          </Button>
          <ConditionFields condition={condition} names={names} onChange={(next) => onChange(value.with(index, next))} />
          <Button
            type="text"
            size="small"
            icon={<CloseOutlined />}
            aria-label="Remove this condition"
            onClick={() => onChange(value.toSpliced(index, 1))}
          />
        </div>
      ))}
    </div>
  )
}

function turnedRound({ not, ...condition }: Condition): Condition {
  return not ? condition : { ...condition, not: true }
}

const listed = (values: readonly string[], label = (value: string) => value) => values.map((value) => ({ value, label: label(value) }))

interface FieldsProps {
  condition: Condition
  names: readonly string[]
  onChange(condition: Condition): void
}

function ConditionFields({ condition, names, onChange }: FieldsProps): ReactNode {
  switch (condition.kind) {
    case 'orientation':
      return (
        <Select
          size="small"
          aria-label="Orientation"
          options={listed(['portrait', 'landscape', 'square'])}
          value={condition.is}
          onChange={(is) => onChange({ ...condition, is })}
        />
      )
    case 'tone':
      return (
        <Select
          size="small"
          aria-label="Mono or colour"
          options={listed(['mono', 'colour'])}
          value={condition.is}
          onChange={(is) => onChange({ ...condition, is })}
        />
      )
    case 'format':
      return (
        <Select
          size="small"
          aria-label="File kind"
          options={listed(pictureFormats, formatName)}
          value={condition.is}
          onChange={(is) => onChange({ ...condition, is })}
        />
      )
    case 'iso':
    case 'megapixels':
      return (
        <>
          <InputNumber
            size="small"
            controls={false}
            min={0}
            aria-label="From"
            placeholder="from"
            value={condition.from}
            onChange={(from) => onChange({ ...condition, from })}
          />
          <InputNumber
            size="small"
            controls={false}
            min={0}
            aria-label="To"
            placeholder="to"
            value={condition.to}
            onChange={(to) => onChange({ ...condition, to })}
          />
        </>
      )
    case 'name':
      return (
        <Select
          mode="tags"
          size="small"
          aria-label="Names, with commas between; * for anything"
          tokenSeparators={[',', ';']}
          maxTagTextLength={24}
          options={listed([...new Set(names.map(patternFor))])}
          value={splitPatterns(condition.like)}
          onChange={(patterns: string[]) => onChange({ ...condition, like: joinPatterns(patterns) })}
        />
      )
    case 'keyword':
      return <LateText label="Keyword" value={condition.has} onChange={(has) => onChange({ ...condition, has })} />
    case 'camera':
      return <LateText label="Part of its name" value={condition.has} onChange={(has) => onChange({ ...condition, has })} />
    case 'taken':
      return (
        <>
          {(['from', 'to'] as const).map((end) => (
            <DatePicker
              key={end}
              size="small"
              aria-label={end === 'from' ? 'From' : 'To'}
              placeholder={end}
              format="YYYY-MM-DD"
              value={condition[end] === null ? null : dayjs(condition[end])}
              onChange={(chosen) => onChange({ ...condition, [end]: chosen ? chosen.format('YYYY-MM-DD') : null })}
            />
          ))}
        </>
      )
  }
}

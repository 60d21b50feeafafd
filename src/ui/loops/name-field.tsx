import { InputNumber, Switch } from 'antd'
import type { ReactNode } from 'react'
import { type Counter, counterOf, nameChips, withCounter } from '@/jobs/name-chips'
import { TokenInput } from '../controls/token-input'
import styles from './name-field.module.css'

interface Props {
  value: string
  isWrong?: boolean
  /** The ending that files get. */
  ending?: string
  /** What fields are of the first picture, by field. */
  values?: Readonly<Record<string, string>> | undefined
  onChange(value: string): void
}

const maxStart = 999_999_999
const maxDigits = 9

/** How files are called: a line with fields in braces; what a number among them begins with, and how it counts. */
export function NameField({ value, isWrong = false, ending, values, onChange }: Props): ReactNode {
  const counter = counterOf(value)
  return (
    <div className={styles.names}>
      <TokenInput
        label="Names"
        value={value}
        chips={nameChips}
        values={values}
        isWrong={isWrong}
        maxLength={200}
        suffix={ending && <code>.{ending}</code>}
        onChange={onChange}
      />
      {counter && <CounterLine counter={counter} onChange={(next) => onChange(withCounter(value, next))} />}
    </div>
  )
}

function CounterLine({ counter, onChange }: { counter: Counter; onChange(counter: Counter): void }): ReactNode {
  const { start, digits, inFolder } = counter
  return (
    <div className={styles.counter}>
      Numbers from
      <Whole name="Numbers start at" min={0} max={maxStart} value={start} onChange={(next) => onChange({ ...counter, start: next })} />
      with
      <Whole
        name="Digits"
        min={1}
        max={maxDigits}
        value={digits}
        onChange={(next) => onChange({ ...counter, digits: next, start: Math.min(start, 10 ** next - 1) })}
      />
      digits
      <span>
        <Switch
          size="small"
          aria-label="Each folder anew"
          checked={inFolder}
          onChange={(checked) => onChange({ ...counter, inFolder: checked })}
        />{' '}
        each folder anew
      </span>
      <span className={styles.rule}>A picture keeps its number in later runs; new ones go on after the highest.</span>
    </div>
  )
}

interface WholeProps {
  name: string
  min: number
  max: number
  value: number
  onChange(value: number): void
}

const Whole = ({ name, onChange, ...rest }: WholeProps): ReactNode => (
  <InputNumber size="small" aria-label={name} precision={0} {...rest} onChange={(next) => next !== null && onChange(next)} />
)

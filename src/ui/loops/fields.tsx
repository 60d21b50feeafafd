import { InputNumber, Switch } from 'antd'
import type { ReactNode } from 'react'
import styles from './loops.module.css'

/* Lines of a form whose labels stand in one column. */

export function Field({ label, children }: { label: string; children: ReactNode }): ReactNode {
  return (
    <div className={styles.field}>
      <span>{label}</span>
      {children}
    </div>
  )
}

interface NumberProps {
  /** For who does not see the label beside it. */
  name: string
  value: number | null
  min: number
  max: number
  unit: string
  placeholder?: string
  width?: number
  /** null: emptied. */
  onChange(value: number | null): void
}

export function WholeNumber({ name, unit, width = 150, ...rest }: NumberProps): ReactNode {
  return <InputNumber aria-label={name} precision={0} suffix={unit} style={{ width }} {...rest} />
}

/** The longest a delivered picture may be; empty: as it comes. */
export function LongEdge({
  value,
  placeholder,
  onChange,
}: {
  value: number | null
  placeholder: string
  onChange(value: number | null): void
}): ReactNode {
  return <WholeNumber name="Long edge" min={16} max={65535} unit="px" placeholder={placeholder} value={value} onChange={onChange} />
}

interface SwitchProps {
  name: string
  checked: boolean
  onChange(checked: boolean): void
  /** What holds when it is on. */
  children: ReactNode
}

export function SwitchLine({ name, checked, onChange, children }: SwitchProps): ReactNode {
  return (
    <div className={styles.inline}>
      <Switch size="small" aria-label={name} checked={checked} onChange={onChange} />
      {children}
    </div>
  )
}

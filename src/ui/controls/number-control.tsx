'use client'

import { UndoOutlined } from '@ant-design/icons'
import { InputNumber, Slider, Tooltip } from 'antd'
import { type ReactNode, type SyntheticEvent, useEffect, useId, useMemo, useState } from 'react'
import { shortNumber } from '@/base/format'
import type { NumberSetting } from '@/operations'
import styles from './controls.module.css'

interface Props {
  setting: NumberSetting
  value: number
  /** While the pointer moves. */
  onDraft(value: number): void
  /** When it is let go, or a number was typed. */
  onCommit(value: number): void
}

const decimals = (step: number): number => Math.max(0, -Math.floor(Math.log10(step) + 1e-9))
const snap = (value: number, { min, max, step }: NumberSetting): number =>
  Number(Math.min(max, Math.max(min, Math.round(value / step) * step)).toFixed(decimals(step)))

/** A slider may run on a logarithmic scale of 0–1000 steps, so that small values get as much room as large ones. */
const sliderSteps = 1000
const toSlider = (value: number, s: NumberSetting): number =>
  s.logarithmic ? (Math.log(value / s.min) / Math.log(s.max / s.min)) * sliderSteps : value
const fromSlider = (position: number, s: NumberSetting): number =>
  snap(s.logarithmic ? s.min * (s.max / s.min) ** (position / sliderSteps) : position, s)

/** Slider and number field for one setting. A small button, or a double-click on the name, takes the default. */
export function NumberControl({ setting, value, onDraft, onCommit }: Props): ReactNode {
  const id = useId()
  // A new formatter would make the field forget what is being typed: it must stay the same from render to render.
  const format = useMemo(() => formatterFor(setting), [setting])
  // While it is held, the slider does not wait for the page to come round to it.
  const [held, setHeld] = useState<number | null>(null)
  useEffect(() => {
    if (held === null) return
    const letGo = (): void => setHeld(null)
    window.addEventListener('pointercancel', letGo)
    return () => window.removeEventListener('pointercancel', letGo)
  }, [held])
  const shown = held ?? value
  const range = setting.logarithmic ? { min: 0, max: sliderSteps, step: 1 } : { min: setting.min, max: setting.max, step: setting.step }
  return (
    <div className={styles.number}>
      <span className={styles.named}>
        <Tooltip title={setting.help} placement="right" mouseEnterDelay={0.6}>
          <label id={id} htmlFor={`${id}-field`} className={styles.label} onDoubleClick={() => onCommit(setting.default)}>
            {setting.label}
          </label>
        </Tooltip>
        {value !== setting.default && held === null && (
          <button
            type="button"
            className={styles.reset}
            aria-label={`${setting.label}: back to ${shortNumber(setting.default)}`}
            title={`Back to ${shortNumber(setting.default)}`}
            onClick={() => onCommit(setting.default)}
          >
            <UndoOutlined />
          </button>
        )}
      </span>
      <InputNumber
        id={`${id}-field`}
        className={styles.field}
        style={{ width: '100%' }}
        size="small"
        controls={false}
        min={setting.min}
        max={setting.max}
        step={setting.step}
        value={shown}
        suffix={setting.unit || undefined}
        formatter={format}
        parser={parse}
        onStep={(next) => onCommit(snap(Number(next), setting))}
        onPressEnter={commitField}
        onBlur={commitField}
      />
      {!setting.typed && (
        <Slider
          className={styles.slider}
          {...range}
          value={toSlider(shown, setting)}
          tooltip={{ open: false }}
          ariaLabelForHandle={setting.label}
          onChange={(position) => {
            setHeld(fromSlider(position, setting))
            onDraft(fromSlider(position, setting))
          }}
          onChangeComplete={(position) => {
            setHeld(null)
            onCommit(fromSlider(position, setting))
          }}
        />
      )}
    </div>
  )

  function commitField({ target }: SyntheticEvent): void {
    if (!(target instanceof HTMLInputElement)) return
    const typed = readNumber(target.value)
    if (Number.isFinite(typed) && snap(typed, setting) !== value) onCommit(snap(typed, setting))
  }
}

const parse = (text: string | undefined): number => readNumber(text ?? '')

const formatterFor =
  (setting: NumberSetting) =>
  (shown: number | string | undefined, info: { userTyping: boolean; input: string }): string =>
    info.userTyping ? info.input : shortNumber(Number(shown ?? 0), decimals(setting.step))

/** Reads a number as people type it: with a true minus sign or a decimal comma. Empty is not a number. */
const readNumber = (text: string): number => (text.trim() === '' ? Number.NaN : Number(text.replace('−', '-').replace(',', '.')))

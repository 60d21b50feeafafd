'use client'

import { AimOutlined } from '@ant-design/icons'
import { Button, ColorPicker, Input, InputNumber, Segmented, Select, Switch, Tooltip } from 'antd'
import { createContext, type ReactNode, useContext } from 'react'
import { type CurvePoints, isPoints, type PlayedMacro, type Setting, type SettingValue } from '@/operations'
import styles from './controls.module.css'
import { CurveHandles, curveHeight } from './curve-handles'
import { FileControl } from './file-control'
import { Histogram } from './histogram'
import { MacroControl } from './macro-control'
import { NumberControl } from './number-control'
import { TextControl } from './text-control'

/* How each kind of setting is set: at the bench, and as a question before a run. What else belongs to a kind: src/operations/declare/kinds. */

interface ControlProps<S extends Setting = Setting> {
  /** What the setting is called in a step. */
  readonly name: string
  readonly setting: S
  readonly value: SettingValue
  /** What can be taken from the picture on the bench. */
  readonly measured: readonly number[] | null
  onDraft(value: SettingValue): void
  onCommit(value: SettingValue): void
}

interface AnswerProps<S extends Setting = Setting> {
  readonly setting: S
  /** The question: what the control is called. */
  readonly question: string
  readonly value: SettingValue
  onChange(value: string | number | boolean | CurvePoints): void
}

interface Controls<S extends Setting> {
  Control(props: ControlProps<S>): ReactNode
  /** Where a person can be asked for it. */
  Answer?(props: AnswerProps<S>): ReactNode
}

/** Options with more letters than this, all together, do not fit beside a label: they become a menu. */
const maxLettersInRow = 26
const fitsInRow = (options: readonly { label: string }[]): boolean =>
  options.length <= 3 && options.reduce((sum, option) => sum + option.label.length, 0) <= maxLettersInRow

const hexOf = (colour: { toHexString(): string }): string => colour.toHexString().slice(0, 7).toLowerCase()

/** A label with a small control behind it. */
const Row = ({ setting, children }: { setting: Setting; children: ReactNode }): ReactNode => (
  <div className={styles.row}>
    <Tooltip title={setting.help} placement="right" mouseEnterDelay={0.6}>
      <span className={styles.label}>{setting.label}</span>
    </Tooltip>
    {children}
  </div>
)

/** Where a colour can be clicked on a picture: for which setting that is asked now, and how it is asked. */
interface ColourPicking {
  readonly picking: string | null
  pick(setting: string | null): void
}
export const ColourPickingContext = createContext<ColourPicking | undefined>(undefined)

function PickFromPicture({ name, label }: { name: string; label: string }): ReactNode {
  const colours = useContext(ColourPickingContext)
  if (!colours) return null
  const isOn = colours.picking === name
  return (
    <Button
      size="small"
      type={isOn ? 'primary' : 'default'}
      icon={<AimOutlined />}
      aria-pressed={isOn}
      aria-label={`${label} from the picture`}
      title="Click it on the picture, as it is before this step"
      onClick={() => colours.pick(isOn ? null : name)}
    />
  )
}

const isPlayed = (value: SettingValue): value is PlayedMacro => typeof value === 'object' && 'macroId' in value

const kinds: { readonly [K in Setting['kind']]: Controls<Extract<Setting, { kind: K }>> } = {
  number: {
    Control: ({ setting, value, onDraft, onCommit }) => (
      <NumberControl setting={setting} value={Number(value)} onDraft={onDraft} onCommit={onCommit} />
    ),
    Answer: ({ setting, question, value, onChange }) => (
      <InputNumber
        aria-label={question}
        style={{ width: 180 }}
        min={setting.min}
        max={setting.max}
        step={setting.step}
        suffix={setting.unit || undefined}
        value={Number(value)}
        onChange={(next) => onChange(next ?? setting.default)}
      />
    ),
  },
  toggle: {
    Control: ({ setting, value, onCommit }) => (
      <Row setting={setting}>
        <Switch size="small" checked={value === true} onChange={onCommit} aria-label={setting.label} />
      </Row>
    ),
    Answer: ({ question, value, onChange }) => <Switch aria-label={question} checked={value === true} onChange={onChange} />,
  },
  choice: {
    Control: ({ setting, value, onCommit }) => (
      <Row setting={setting}>
        {fitsInRow(setting.options) ? (
          <Segmented size="small" options={[...setting.options]} value={String(value)} onChange={onCommit} aria-label={setting.label} />
        ) : (
          <Select
            size="small"
            className={styles.select}
            options={[...setting.options]}
            value={String(value)}
            onChange={onCommit}
            aria-label={setting.label}
          />
        )}
      </Row>
    ),
    Answer: ({ setting, question, value, onChange }) => (
      <Select aria-label={question} options={[...setting.options]} value={String(value)} onChange={onChange} />
    ),
  },
  points: {
    // At the bench they are set on the histogram.
    Control: () => null,
    Answer: ({ value, onChange }) => (
      <div style={{ width: 320 }}>
        <Histogram counts={null} height={curveHeight}>
          {isPoints(value) && <CurveHandles points={value} onDraft={onChange} onCommit={onChange} />}
        </Histogram>
      </div>
    ),
  },
  colour: {
    Control: ({ name, setting, value, onDraft, onCommit }) => (
      <Row setting={setting}>
        <ColorPicker
          size="small"
          disabledAlpha
          showText
          value={String(value)}
          onChange={(next) => onDraft(hexOf(next))}
          onChangeComplete={(next) => onCommit(hexOf(next))}
          aria-label={setting.label}
        />
        <PickFromPicture name={name} label={setting.label} />
      </Row>
    ),
    Answer: ({ value, onChange }) => (
      <ColorPicker disabledAlpha showText value={String(value)} onChangeComplete={(next) => onChange(hexOf(next))} />
    ),
  },
  measured: {
    Control: ({ setting, measured, onCommit }) =>
      setting.action ? (
        <Row setting={setting}>
          <Button size="small" disabled={measured === null} onClick={() => measured && onCommit(measured)}>
            {setting.action}
          </Button>
        </Row>
      ) : null,
  },
  file: {
    Control: ({ setting, value, onCommit }) => <FileControl setting={setting} value={String(value)} onCommit={onCommit} />,
    Answer: ({ setting, value, onChange }) => <FileControl setting={setting} value={String(value)} onCommit={onChange} />,
  },
  text: {
    Control: ({ setting, value, onCommit }) => <TextControl setting={setting} value={String(value)} onCommit={onCommit} />,
    Answer: ({ setting, question, value, onChange }) => (
      <TextAnswer question={question} value={value} maxCharacters={setting.maxCharacters} onChange={onChange} />
    ),
  },
  macro: {
    Control: ({ setting, value, onCommit }) =>
      isPlayed(value) ? <MacroControl setting={setting} value={value} onCommit={onCommit} /> : null,
  },
}

interface TextAnswerProps {
  question: string
  value: SettingValue
  maxCharacters?: number
  onChange(value: string): void
}

/** A line of text: also for what only names of files ask. */
export const TextAnswer = ({ question, value, maxCharacters = 200, onChange }: TextAnswerProps): ReactNode => (
  <Input aria-label={question} value={String(value)} maxLength={maxCharacters} onChange={(event) => onChange(event.target.value)} />
)

/** Ask them of that very setting, or of one of the same kind. */
const controlsOf = ({ kind }: Setting): Controls<Setting> => kinds[kind]

/** The control of a setting, whatever its kind. */
export const SettingControl = (props: ControlProps): ReactNode => controlsOf(props.setting).Control(props)

/** Asks for a setting before a run, whatever its kind. */
export const SettingAnswer = (props: AnswerProps): ReactNode => controlsOf(props.setting).Answer?.(props) ?? <TextAnswer {...props} />

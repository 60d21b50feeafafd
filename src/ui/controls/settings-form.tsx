'use client'

import { Button, ColorPicker, Segmented, Select, Switch, Tooltip } from 'antd'
import { Fragment, memo, type ReactNode, useCallback, useLayoutEffect, useRef, useState } from 'react'
import { isShown, type Operation, type PlayedMacro, type Setting, type Settings, type SettingValue } from '@/operations'
import styles from './controls.module.css'
import { FileControl } from './file-control'
import { MacroControl } from './macro-control'
import { NinePoints } from './nine-points'
import { NumberControl } from './number-control'
import { TextControl } from './text-control'

interface Props {
  operation: Operation
  settings: Settings
  onDraft(settings: Settings): void
  onCommit(settings: Settings): void
  /** Leaves out settings that a hand-made control serves. */
  hidden?: readonly string[]
  /** The group shown, where the settings have groups. */
  group?: string
  onGroup?(group: string): void
  /** The group is chosen elsewhere. */
  hidesGroups?: boolean
  /** What can be taken from the picture on the bench. */
  measured?: readonly number[] | null
}

/** Controls for any operation, made from its declaration. Curve points are set on the histogram instead. */
export function SettingsForm({
  operation,
  settings,
  onDraft,
  onCommit,
  hidden = [],
  group,
  onGroup,
  hidesGroups = false,
  measured = null,
}: Props): ReactNode {
  const [ownGroup, setOwnGroup] = useState<string>()
  const groups = [...new Set(Object.values(operation.settings).flatMap((setting) => setting.group ?? []))]
  const open = group ?? ownGroup ?? groups[0]
  const entries = Object.entries(operation.settings).filter(
    ([key, setting]) =>
      isShown(setting, settings, operation.settings) && !hidden.includes(key) && (setting.group === undefined || setting.group === open),
  )
  // What a control changes is laid over the settings of that moment: no control needs drawing anew because another has changed.
  const now = useRef({ settings, onDraft, onCommit })
  useLayoutEffect(() => {
    now.current = { settings, onDraft, onCommit }
  })
  const draft = useCallback((key: string, value: SettingValue) => now.current.onDraft({ ...now.current.settings, [key]: value }), [])
  const commit = useCallback((key: string, value: SettingValue) => now.current.onCommit({ ...now.current.settings, [key]: value }), [])
  const placed = 'positionXPercent' in operation.settings && entries.some(([key]) => key === 'positionXPercent')
  return (
    <div className={styles.form}>
      {groups.length > 0 && !hidesGroups && (
        <Segmented
          block
          className={styles.groups}
          size="small"
          options={groups}
          value={open}
          onChange={(next) => (onGroup ?? setOwnGroup)(next)}
          aria-label="Channel"
        />
      )}
      {entries.map(([key, setting], place) => (
        // The controls of one group serve for the next: making new ones takes longer.
        <Fragment key={setting.group === undefined ? key : place}>
          {placed && key === 'positionXPercent' && (
            <NinePoints
              across={Number(settings.positionXPercent)}
              down={Number(settings.positionYPercent)}
              onChoose={(positionXPercent, positionYPercent) => onCommit({ ...settings, positionXPercent, positionYPercent })}
            />
          )}
          <SettingControl
            name={key}
            setting={setting}
            measured={setting.kind === 'measured' ? measured : null}
            value={settings[key] ?? setting.default}
            onDraft={draft}
            onCommit={commit}
          />
        </Fragment>
      ))}
    </div>
  )
}

/** So many letters stand side by side beside a label; longer lists become a menu. */
const mostLettersInRow = 26
const fitsInRow = (options: readonly { label: string }[]): boolean =>
  options.length <= 3 && options.reduce((sum, option) => sum + option.label.length, 0) <= mostLettersInRow

const hexOf = (colour: { toHexString(): string }): string => colour.toHexString().slice(0, 7).toLowerCase()

interface ControlProps {
  name: string
  setting: Setting
  value: SettingValue
  measured: readonly number[] | null
  onDraft(name: string, value: SettingValue): void
  onCommit(name: string, value: SettingValue): void
}

const SettingControl = memo(function SettingControl({ name, setting, value, measured, ...props }: ControlProps): ReactNode {
  const onDraft = (next: SettingValue): void => props.onDraft(name, next)
  const onCommit = (next: SettingValue): void => props.onCommit(name, next)
  if (setting.kind === 'number') return <NumberControl setting={setting} value={Number(value)} onDraft={onDraft} onCommit={onCommit} />
  if (setting.kind === 'points') return null
  if (setting.kind === 'text') return <TextControl setting={setting} value={String(value)} onCommit={onCommit} />
  if (setting.kind === 'file') return <FileControl setting={setting} value={String(value)} onCommit={onCommit} />
  if (setting.kind === 'macro') return <MacroControl setting={setting} value={value as PlayedMacro} onCommit={onCommit} />
  return (
    <div className={styles.row}>
      <Tooltip title={setting.help} placement="right" mouseEnterDelay={0.6}>
        <span className={styles.label}>{setting.label}</span>
      </Tooltip>
      {setting.kind === 'measured' ? (
        <Button size="small" disabled={measured === null} onClick={() => measured && onCommit(measured)}>
          {setting.action}
        </Button>
      ) : setting.kind === 'toggle' ? (
        <Switch size="small" checked={value === true} onChange={onCommit} aria-label={setting.label} />
      ) : setting.kind === 'colour' ? (
        <ColorPicker
          size="small"
          disabledAlpha
          showText
          value={String(value)}
          onChange={(next) => onDraft(hexOf(next))}
          onChangeComplete={(next) => onCommit(hexOf(next))}
          aria-label={setting.label}
        />
      ) : fitsInRow(setting.options) ? (
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
    </div>
  )
})

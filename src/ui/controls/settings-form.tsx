'use client'

import { Segmented } from 'antd'
import { Fragment, memo, type ReactNode, useCallback, useLayoutEffect, useRef, useState } from 'react'
import { isShown, type Operation, type Setting, type Settings, type SettingValue } from '@/operations'
import styles from './controls.module.css'
import { SettingControl } from './kinds'
import { NinePoints } from './nine-points'

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
      {entries.map(([key, setting], index) => (
        // The controls of one group serve for the next: making new ones takes longer.
        <Fragment key={setting.group === undefined ? key : index}>
          {/* Two settings that say where something stands, across and down, are also set by nine points. */}
          {key === 'positionXPercent' && (
            <NinePoints
              across={Number(settings.positionXPercent)}
              down={Number(settings.positionYPercent)}
              onChoose={(positionXPercent, positionYPercent) => onCommit({ ...settings, positionXPercent, positionYPercent })}
            />
          )}
          <NamedControl
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

interface ControlProps {
  name: string
  setting: Setting
  value: SettingValue
  measured: readonly number[] | null
  onDraft(name: string, value: SettingValue): void
  onCommit(name: string, value: SettingValue): void
}

const NamedControl = memo(function NamedControl({ name, onDraft, onCommit, ...props }: ControlProps): ReactNode {
  return <SettingControl {...props} name={name} onDraft={(value) => onDraft(name, value)} onCommit={(value) => onCommit(name, value)} />
})

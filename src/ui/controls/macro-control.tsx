'use client'

import { Button, Select, Tooltip } from 'antd'
import type { ReactNode } from 'react'
import type { ShelfMacro } from '@/contract/answers'
import { readSteps, stepsOf } from '@/macros/step'
import type { MacroSetting, PlayedMacro } from '@/operations'
import { useMacros } from '../api/queries'
import styles from './controls.module.css'

interface Props {
  setting: MacroSetting
  value: PlayedMacro
  onCommit(value: PlayedMacro): void
}

const playedFrom = ({ id, name, revision, steps }: ShelfMacro): PlayedMacro => ({
  macroId: id,
  name,
  revision,
  steps: steps.map((step) => ({ ...step })),
})

/** Chooses a macro from the shelf, and tells when the shelf has a newer revision of it. */
export function MacroControl({ setting, value, onCommit }: Props): ReactNode {
  const { data: macros = [] } = useMacros()
  const newest = macros.find((macro) => macro.id === value.macroId)
  return (
    <div className={styles.file}>
      <Tooltip title={setting.help} placement="right" mouseEnterDelay={0.6}>
        <span className={styles.label}>{setting.label}</span>
      </Tooltip>
      <Select
        size="small"
        showSearch={{ optionFilterProp: 'label' }}
        placeholder="Choose from the shelf"
        aria-label={setting.label}
        options={macros.filter((macro) => !macro.needsNewer).map((macro) => ({ value: macro.id, label: macro.name }))}
        value={value.revision === 0 ? undefined : (newest?.id ?? value.name)}
        onChange={(id) => {
          const chosen = macros.find((macro) => macro.id === id)
          if (chosen) onCommit(playedFrom(chosen))
        }}
      />
      {newest && newest.revision > value.revision && (
        <Button size="small" onClick={() => onCommit(playedFrom(newest))}>
          Take r{newest.revision} (here: r{value.revision})
        </Button>
      )}
      {value.steps.length > 0 && <p className={styles.reading}>{readSteps(stepsOf(value))}</p>}
    </div>
  )
}

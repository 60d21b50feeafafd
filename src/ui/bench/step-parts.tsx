'use client'

import { DeleteOutlined } from '@ant-design/icons'
import { Button, Segmented, Switch, Tooltip } from 'antd'
import { memo, type ReactNode, useCallback, useContext, useMemo } from 'react'
import { fileNameOf } from '@/base/paths'
import { macroLimits } from '@/macros/codec'
import type { WireStep } from '@/macros/history'
import { editStep, type StepEdit } from '@/macros/recorder'
import { type Blend, stepName } from '@/macros/step'
import { number } from '@/operations'
import { LateText } from '../controls/late-text'
import { NumberControl } from '../controls/number-control'
import { PictureInHand } from '../controls/text-control'
import { removePicked } from './bead-actions'
import { Conditions } from './conditions'
import styles from './desk.module.css'
import { OpenSettings } from './open-settings'
import { StepMenu } from './step-menu'
import { useBench, useBenchParts } from './store'

/* What every step has on the desk besides its own settings. None of it is drawn anew while one of those is held. */

const strengthSetting = number({
  label: 'Strength',
  unit: '%',
  min: 0,
  max: 100,
  step: 1,
  default: 100,
  help: 'How much of this step is mixed with the picture before it.',
})

const blendOptions: { value: Blend; label: string }[] = [
  { value: 'normal', label: 'All of it' },
  { value: 'lightness', label: 'Lightness' },
  { value: 'colour', label: 'Colour' },
]

/** An edit of a step as it lies on the wire now. */
function useEditStep(id: string): (edit: StepEdit) => void {
  const commit = useBench((bench) => bench.commit)
  return useCallback((edit) => commit(editStep(useBench.getState().history.document, id, edit)), [id, commit])
}

interface StoredProps {
  /** As it lies on the wire. */
  readonly stored: WireStep
}

export const StepHead = memo(function StepHead({ stored }: StoredProps): ReactNode {
  const edit = useEditStep(stored.id)
  return (
    <div className={styles.head}>
      <h2>{stepName(stored)}</h2>
      <Tooltip title={stored.enabled ? 'Switch this step off' : 'Switch this step on'}>
        <Switch size="small" checked={stored.enabled} onChange={(enabled) => edit({ enabled })} aria-label="Step is on" />
      </Tooltip>
      <StepMenu />
      <Tooltip title="Remove this step">
        <Button type="text" size="small" icon={<DeleteOutlined />} aria-label="Remove this step" onClick={removePicked} />
      </Tooltip>
    </div>
  )
})

/** For which pictures the step applies, and what it asks for before a run. */
export const StepTerms = memo(function StepTerms({ stored }: StoredProps): ReactNode {
  const edit = useEditStep(stored.id)
  const subject = useContext(PictureInHand)
  const samples = useBench((state) => state.samples)
  const names = useMemo(() => samples.map(fileNameOf), [samples])
  return (
    <>
      <Conditions value={stored.when} subject={subject} names={names} onChange={(when) => edit({ when })} />
      <OpenSettings step={stored} onChange={(open) => edit({ open })} />
    </>
  )
})

/** How much of the result is mixed in, and what of it. */
interface MixingProps extends Pick<WireStep, 'id' | 'strengthPercent'> {
  /** null: the steps it plays have theirs. */
  blend: Blend | null
}

export const Mixing = memo(function Mixing({ id, strengthPercent, blend }: MixingProps): ReactNode {
  const { setDraft, commitDraft } = useBenchParts('setDraft', 'commitDraft')
  const edit = useEditStep(id)
  return (
    <div className={styles.strength}>
      <NumberControl
        setting={strengthSetting}
        value={strengthPercent}
        onDraft={(strengthPercent) => setDraft({ stepId: id, edit: { strengthPercent } }, true)}
        onCommit={(strengthPercent) => commitDraft({ stepId: id, edit: { strengthPercent } })}
      />
      {blend !== null && (
        <Segmented<Blend>
          block
          size="small"
          aria-label="What of the result is taken"
          options={blendOptions}
          value={blend}
          onChange={(blend) => edit({ blend })}
        />
      )}
    </div>
  )
})

export const StepNote = memo(function StepNote({ stored }: StoredProps): ReactNode {
  const edit = useEditStep(stored.id)
  return <LateText label="Note" long max={macroLimits.noteLength} value={stored.note ?? ''} onChange={(note) => edit({ note })} />
})

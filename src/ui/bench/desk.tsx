'use client'

import { Select } from 'antd'
import { memo, type ReactNode, useCallback, useMemo, useState } from 'react'
import { fileNameOf } from '@/base/paths'
import type { WireStep } from '@/macros/history'
import type { Limit } from '@/macros/limit'
import { keepSteps } from '@/macros/recorder'
import { type CurvePoints, findOperation, isPoints, type Settings, type SettingValue } from '@/operations'
import { CurveHandles, curveHeight } from '../controls/curve-handles'
import { Histogram } from '../controls/histogram'
import { ColourPickingContext } from '../controls/kinds'
import { SettingsForm } from '../controls/settings-form'
import { TextButton } from '../controls/text-button'
import { PictureInHand } from '../controls/text-control'
import { CropRatios } from './crop-ratios'
import styles from './desk.module.css'
import { groupOf, HueRing } from './hue-ring'
import { LevelsHandles } from './levels-handles'
import { Limits } from './limits'
import { Mixing, StepHead, StepNote, StepTerms } from './step-parts'
import { StepTools } from './step-tools'
import { useBenchParts } from './store'
import { ToneScale } from './tone-scale'
import type { RenderedView } from './worker/protocol'

const bandOptions = (bands: readonly string[]) => bands.map(groupOf).map((value) => ({ value, label: value }))
const pointsOf = (value: SettingValue | undefined): CurvePoints | undefined => (isPoints(value) ? value : undefined)

const LimitsForm = memo(Limits)
const noLimits: readonly Limit[] = []

/** The selected step: the histogram it works on, its settings, on or off, strength. */
export function Desk({ shown }: { shown: RenderedView | null }): ReactNode {
  const { history, selectedId, pageDraft: draft, sample } = useBenchParts('history', 'selectedId', 'pageDraft', 'sample')
  const inHand = useMemo(() => (sample?.facts ? { name: fileNameOf(sample.path), facts: sample.facts } : undefined), [sample])
  const { tool, set } = useBenchParts('tool', 'set')
  const picking = tool?.kind === 'colour' ? tool.setting : null
  const colours = useMemo(
    () => ({ picking, pick: (setting: string | null) => set({ tool: setting === null ? null : { kind: 'colour', setting } }) }),
    [picking, set],
  )
  const stored = history.document.steps.find((step) => step.id === selectedId)
  const step = stored && (draft?.stepId === stored.id ? { ...stored, ...draft.edit } : stored)
  return (
    // A new step begins at the top of the desk.
    <aside key={step?.id} className={styles.desk} aria-label="Desk">
      <PictureInHand value={inHand}>
        <ColourPickingContext value={colours}>
          {step && stored ? <StepDesk key={step.id} step={step} stored={stored} shown={shown} /> : <EmptyDesk shown={shown} />}
        </ColourPickingContext>
      </PictureInHand>
    </aside>
  )
}

function EmptyDesk({ shown }: { shown: RenderedView | null }): ReactNode {
  return (
    <>
      <Histogram counts={shown?.histogram?.after ?? null} />
      <p className={styles.purpose}>Nothing on the wire yet. Press Record, then add a step: its settings appear here.</p>
    </>
  )
}

/** What a hollow bead means, where it is looked at. */
function NotRecorded({ id }: { id: string }): ReactNode {
  const { history, picture, commit } = useBenchParts('history', 'picture', 'commit')
  if (picture) return null
  return (
    <p className={styles.purpose}>
      Made while not recording: a macro leaves it out.{' '}
      <TextButton onClick={() => commit(keepSteps(history.document, new Set([id])))}>Record it too</TextButton>
    </p>
  )
}

interface StepProps {
  /** With what is being changed on it: another one at every move of a slider. */
  readonly step: WireStep
  /** As it lies on the wire: what takes this is not drawn anew while a slider is held. */
  readonly stored: WireStep
  readonly shown: RenderedView | null
}

function StepDesk({ step, stored, shown }: StepProps): ReactNode {
  const { setDraft, commitDraft } = useBenchParts('setDraft', 'commitDraft')
  const [group, setGroup] = useState('All')
  const operation = findOperation(step.operation)
  const { id } = step
  const draftSettings = useCallback((settings: Settings): void => setDraft({ stepId: id, edit: { settings } }), [id, setDraft])
  // What has handles on the picture moves them along.
  const isShown = operation?.group !== 'geometry' && operation?.group !== 'finishing'
  const slideSettings = useCallback(
    (settings: Settings): void => setDraft({ stepId: id, edit: { settings } }, isShown),
    [id, isShown, setDraft],
  )
  const commitSettings = useCallback((settings: Settings): void => commitDraft({ stepId: id, edit: { settings } }), [id, commitDraft])
  const draftLimit = useCallback((limit: readonly Limit[]): void => setDraft({ stepId: id, edit: { limit } }), [id, setDraft])
  const commitLimit = useCallback((limit: readonly Limit[]): void => commitDraft({ stepId: id, edit: { limit } }), [id, commitDraft])
  const beside = operation?.beside
  const isLevels = beside?.kind === 'levels'
  const isHueBands = beside?.kind === 'hueRing'
  const bandGroup = group === 'All' ? 'Red' : group
  const channel = group.toLowerCase()
  const curve = operation?.settings[channel]?.kind === 'points' ? pointsOf(step.settings[channel]) : undefined
  // What moves pixels is done or left: it has no strength and no place.
  const mixes = operation !== undefined && operation.group !== 'geometry'
  const onHistogram = isLevels || curve !== undefined
  const found = shown?.found[step.id]
  const problem = shown?.problems[step.id]
  return (
    <>
      <StepHead stored={stored} />
      {!stored.kept && <NotRecorded id={stored.id} />}
      <Histogram
        counts={(onHistogram ? shown?.histogram?.before : shown?.histogram?.after) ?? null}
        height={curve ? curveHeight : undefined}
      >
        {isLevels ? (
          <LevelsHandles settings={step.settings} prefix={channel} onDraft={draftSettings} onCommit={commitSettings} />
        ) : curve ? (
          <CurveHandles
            key={channel}
            points={curve}
            onDraft={(points) => draftSettings({ ...step.settings, [channel]: points })}
            onCommit={(points) => commitSettings({ ...step.settings, [channel]: points })}
          />
        ) : null}
      </Histogram>
      <p className={styles.purpose}>
        {operation?.purpose ?? 'This step needs a newer version of Copper Loop. It is kept as it is and can’t be run here.'}
      </p>
      {operation && (
        <>
          {beside?.kind === 'ratios' && beside.isShown(step.settings) && <CropRatios settings={step.settings} onChoose={commitSettings} />}
          {beside?.kind === 'hueRing' && (
            <>
              <HueRing
                bands={beside.bands}
                settings={step.settings}
                group={bandGroup}
                onGroup={setGroup}
                onDraft={draftSettings}
                onCommit={commitSettings}
              />
              <Select size="small" aria-label="Band" options={bandOptions(beside.bands)} value={bandGroup} onChange={setGroup} />
            </>
          )}
          {beside?.kind === 'toneScale' && (
            <ToneScale scale={beside} settings={step.settings} onDraft={draftSettings} onCommit={commitSettings} />
          )}
          {operation.tools && <StepTools offered={operation.tools} />}
          <SettingsForm
            operation={operation}
            settings={step.settings}
            onDraft={slideSettings}
            onCommit={commitSettings}
            group={isHueBands ? bandGroup : onHistogram ? group : undefined}
            onGroup={isHueBands || onHistogram ? setGroup : undefined}
            hidesGroups={isHueBands}
            measured={shown?.measured}
          />
          {found && <p className={styles.found}>{found}</p>}
          {problem && (
            <p className={styles.broken} role="alert">
              ✕ This step can’t be shown and is left out of the picture here: {problem}
            </p>
          )}
          {mixes && <LimitsForm stepId={id} value={step.limit ?? noLimits} onDraft={draftLimit} onCommit={commitLimit} />}
          <StepTerms stored={stored} />
          {mixes && <Mixing id={id} strengthPercent={step.strengthPercent} blend={operation.plays ? null : step.blend} />}
        </>
      )}
      <StepNote stored={stored} />
    </>
  )
}

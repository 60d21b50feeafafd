import type { ReactNode } from 'react'
import type { Size } from '@/base/geometry'
import { hexOfCodes } from '@/colour/hex'
import type { Limit } from '@/macros/limit'
import type { Step } from '@/macros/step'
import { findOperation, type Settings } from '@/operations'
import { useBenchParts } from '../store'
import type { RenderedView } from '../worker/protocol'
import { BrushLayer } from './brush-layer'
import { CornerLayer } from './corner-layer'
import { LinearHandles, RadialHandles } from './gradient-handles'
import styles from './handles.module.css'
import { mappingOf } from './mapping'
import { HorizonLayer, PickLayer } from './pick-layer'
import { StampHandles } from './stamp-handles'

interface Props {
  step: Step
  view: RenderedView
  /** Size of the picture on the page. */
  shown: Size
}

/** What the selected step can be set by on the picture itself. */
export function StageHandles({ step, view, shown }: Props): ReactNode {
  const { tool, brush, setDraft, commitDraft, set } = useBenchParts('tool', 'brush', 'setDraft', 'commitDraft', 'set')
  const mapping = mappingOf(view, shown)
  const limits = step.limit ?? []
  const withLimit = (index: number, limit: Limit): readonly Limit[] => limits.map((other, i) => (i === index ? limit : other))
  const draftLimit = (index: number) => (limit: Limit) => setDraft({ stepId: step.id, edit: { limit: withLimit(index, limit) } })
  const commitLimit = (index: number) => (limit: Limit) => commitDraft({ stepId: step.id, edit: { limit: withLimit(index, limit) } })
  const commitSettings = (settings: Settings): void => commitDraft({ stepId: step.id, edit: { settings } })
  const finish = (settings: Settings): void => {
    commitSettings(settings)
    set({ tool: null })
  }
  const { tools, stamp } = findOperation(step.operation) ?? {}
  const taken = tools?.find((offered) => offered.tool === tool?.kind)
  const brushed = tool?.kind === 'brush' ? limits[tool.limit] : undefined
  return (
    <svg className={styles.layer} width={shown.width} height={shown.height} data-layer aria-hidden="true">
      {tool === null &&
        limits.map((limit, index) => {
          const props = { limit, mapping, onDraft: draftLimit(index), onCommit: commitLimit(index) }
          // biome-ignore lint/suspicious/noArrayIndexKey: limits have no identity of their own
          if (limit.kind === 'linear') return <LinearHandles key={index} {...props} />
          // biome-ignore lint/suspicious/noArrayIndexKey: limits have no identity of their own
          return limit.kind === 'radial' ? <RadialHandles key={index} {...props} /> : null
        })}
      {tool === null && view.place && stamp?.isPlaced(step.settings) && (
        <StampHandles
          handles={stamp}
          settings={step.settings}
          place={view.place}
          mapping={mapping}
          onDraft={(settings) => setDraft({ stepId: step.id, edit: { settings } })}
          onCommit={commitSettings}
        />
      )}
      {tool?.kind === 'brush' && brushed && (
        <BrushLayer limit={brushed} brush={brush} mapping={mapping} onCommit={commitLimit(tool.limit)} />
      )}
      {taken?.tool === 'corners' && (
        <CornerLayer
          settings={step.settings}
          mapping={mapping}
          onDraft={(settings) => setDraft({ stepId: step.id, edit: { settings } })}
          onCommit={commitSettings}
        />
      )}
      {taken?.tool === 'horizon' && (
        <HorizonLayer mapping={mapping} onAngle={(angleDegrees) => finish(taken.drawn(step.settings, angleDegrees))} />
      )}
      {tool?.kind === 'colour' && (
        <PickLayer view={view} mapping={mapping} onPick={(codes) => finish({ ...step.settings, [tool.setting]: hexOfCodes(codes) })} />
      )}
      {taken && 'picked' in taken && (
        <PickLayer view={view} mapping={mapping} onPick={(codes) => finish(taken.picked(step.settings, codes))} />
      )}
    </svg>
  )
}

import type { Step } from '@/macros/step'
import { findOperation } from '@/operations'
import type { BenchView, Tool } from './store'

interface Looking {
  readonly selectedId: string | null
  readonly upToHere: boolean
  readonly view: BenchView
  readonly tool: Tool | null
  readonly showsLimit: boolean
}

/** What the stage shows of the wire. */
export interface Scope {
  /** The picture is shown after this many steps. */
  readonly end: number
  /** Index of the step whose settings are in hand. */
  readonly focus: number
  /** The frame of a crop is drawn on the picture before it. */
  readonly cropping: boolean
  /** The selected step's handles lie on the picture that is shown. */
  readonly handles: boolean
}

const pullsOnPicture = (step: Step): boolean =>
  (step.limit ?? []).some(({ kind }) => kind === 'linear' || kind === 'radial') ||
  findOperation(step.operation)?.stamp?.isPlaced(step.settings) === true

function movesPixels(step: Step): boolean {
  const operation = findOperation(step.operation)
  return step.enabled && (operation?.group === 'geometry' || operation?.plays !== undefined)
}

/**
 * Which steps the stage shows. Whatever is set on the picture itself needs the picture as the step sees it: picking and cropping
 * the one before it, gradients and stamps one that no later step has cropped or turned.
 */
export function stageScope(steps: readonly Step[], { selectedId, upToHere, view, tool, showsLimit }: Looking): Scope {
  const selected = steps.findIndex((step) => step.id === selectedId)
  const step = steps[selected]
  if (!step) return { end: steps.length, focus: 0, cropping: false, handles: false }
  const cropping = findOperation(step.operation)?.frame !== undefined && view.kind === 'fit' && !upToHere && tool === null
  if (cropping) return { end: selected, focus: selected, cropping, handles: false }
  if (tool !== null && tool.kind !== 'brush') return { end: selected, focus: selected, cropping, handles: true }
  const onPicture = tool !== null || pullsOnPicture(step)
  const isMovedLater = steps.slice(selected + 1).some(movesPixels)
  const stopsHere = upToHere || (showsLimit && (step.limit ?? []).length > 0) || (onPicture && isMovedLater)
  return { end: stopsHere ? selected + 1 : steps.length, focus: selected, cropping, handles: onPicture }
}

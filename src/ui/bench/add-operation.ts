import { isRaw, placeOnRaw } from '@/macros/raw-start'
import { addStep } from '@/macros/recorder'
import { findOperation } from '@/operations'
import { useBench } from './store'

/** Adds a step of an operation behind the selected bead and takes it in hand. */
export function addOperation(operation: string): void {
  const { history, selectedId, sample, commit, set } = useBench.getState()
  const { document } = history
  const id = crypto.randomUUID()
  const selected = document.steps.findIndex((step) => step.id === selectedId)
  const behind = selected < 0 ? document.steps.length : selected + 1
  const facts = sample?.facts
  const index = isRaw(facts) ? placeOnRaw(document, operation, behind) : behind
  const settings = facts?.raw && findOperation(operation)?.startOnRaw?.(facts.raw)
  commit(addStep(document, operation, id, index, settings))
  set({ selectedId: id, adding: false })
}

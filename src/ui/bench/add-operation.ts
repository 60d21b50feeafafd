import { addStep } from '@/macros/recorder'
import { useBench } from './store'

/** Adds a step of an operation behind the selected bead and takes it in hand. */
export function addOperation(operation: string): void {
  const { history, selectedId, commit, set } = useBench.getState()
  const { document } = history
  const id = crypto.randomUUID()
  const selected = document.steps.findIndex((step) => step.id === selectedId)
  commit(addStep(document, operation, id, selected < 0 ? document.steps.length : selected + 1))
  set({ selectedId: id, adding: false })
}

import { isBaseCurve, layBaseCurve } from '@/macros/raw-start'
import { keepSteps } from '@/macros/recorder'
import { useBench } from './store'

const document = () => useBench.getState().history.document

/** A raw file on an empty wire, or recorded on, gets the step that makes a picture of it: seen, and removed, like any other. */
export function startOnRaw(): void {
  const { commit, history, picture, set } = useBench.getState()
  // Whoever took it off does not want it back.
  const last = history.changes[history.cursor - 1]
  const alone = last?.type === 'all' && last.changes.length === 1 ? last.changes[0] : last
  const isTakenOff = alone?.type === 'remove' && isBaseCurve(alone.step)
  const { steps, recording } = document()
  if ((steps.length > 0 && recording === null) || isTakenOff || picture) return
  const id = crypto.randomUUID()
  commit(layBaseCurve(document(), id))
  if (steps.length === 0) set({ selectedId: id })
}

/** What is recorded on a raw file begins with that step. */
export function recordBaseCurve(): void {
  const { commit } = useBench.getState()
  const laid = document().steps.filter(isBaseCurve)
  if (laid.length > 0) commit(keepSteps(document(), new Set(laid.map(({ id }) => id))))
  else commit(layBaseCurve(document(), crypto.randomUUID()))
}

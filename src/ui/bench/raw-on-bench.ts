import { isBaseCurve, layBaseCurve } from '@/macros/raw-start'
import { keepSteps } from '@/macros/recorder'
import { useBench } from './store'

const document = () => useBench.getState().history.document

/** A raw file on an empty wire gets the step that makes a picture of it: seen, and removed, like any other. */
export function startOnRaw(): void {
  const { commit, history, picture, set } = useBench.getState()
  // Whoever took it off does not want it back.
  const last = history.changes[history.cursor - 1]
  const isTakenOff = last?.type === 'remove' && isBaseCurve(last.step)
  if (document().steps.length > 0 || isTakenOff || picture) return
  const id = crypto.randomUUID()
  commit(layBaseCurve(document(), id))
  set({ selectedId: id })
}

/** What is recorded on a raw file begins with that step. */
export function recordBaseCurve(): void {
  const { commit } = useBench.getState()
  const laid = document().steps.filter(isBaseCurve)
  if (laid.length > 0) commit(keepSteps(document(), new Set(laid.map(({ id }) => id))))
  else commit(layBaseCurve(document(), crypto.randomUUID()))
}

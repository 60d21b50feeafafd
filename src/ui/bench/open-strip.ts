import { useBench } from './store'
import { stripLimits } from './strip-values'
import { stripSettings } from './test-strip'

/** Opens a test strip on the selected step's first numeric setting, or closes the one that is open. */
export function openStrip(): undefined {
  const { history, selectedId, strip, set } = useBench.getState()
  const step = history.document.steps.find((candidate) => candidate.id === selectedId)
  const setting = step && stripSettings(step)[0]?.[0]
  set({ strip: strip || !setting ? null : { setting, span: stripLimits.start, second: null }, tool: null })
}

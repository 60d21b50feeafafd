'use client'

import { App } from 'antd'
import { freeName } from '@/base/free-name'
import type { ShelfMacro } from '@/contract/answers'
import { routes } from '@/contract/routes'
import { isSameSteps } from '@/macros/compare'
import type { BenchDocument } from '@/macros/history'
import { draftTag, isDraft } from '@/macros/macro'
import { isRaw } from '@/macros/raw-start'
import { endRecording, keptSteps, startRecording } from '@/macros/recorder'
import { call } from '../api/client'
import { useKeepMacro, useMacros, useReviseMacro } from '../api/queries'
import { nameOfSteps } from './name-of-steps'
import { recordBaseCurve } from './raw-on-bench'
import { recordingName, useBench } from './store'
import { wireIsOf } from './take-back-laid'

/** What a recording is called until somebody names it. */
export const firstName = 'My macro'

/** What a recording was called by somebody, if anybody did. */
export const givenName = (name: string | null): string | null => (name === null || /^My macro( \d+)?$/.test(name) ? null : name)

/** What new steps may be called that no macro is: as the recording was named, or after what they do. */
export const nameForNew = (name: string | null, document: BenchDocument, macros: readonly ShelfMacro[]): string =>
  freeName(givenName(name) ?? nameOfSteps(keptSteps(document)), macros)

/**
 * Begins a recording, or ends it. What was recorded from nothing lies on the shelf from then on, as a draft, and its name is asked for once;
 * what was recorded on a macro is kept as its next revision, or as a new one, by whoever is asked that.
 */
export function useToggleRecording(): () => void {
  const { message } = App.useApp()
  const { data: known } = useMacros()
  const keep = useKeepMacro()
  const revise = useReviseMacro()

  const begin = (): void => {
    const { history, macroId, sample, commit } = useBench.getState()
    const macros = known ?? []
    const origin = macros.find(({ id }) => id === macroId)
    commit(startRecording(history.document, origin?.name ?? freeName(firstName, macros)))
    if (isRaw(sample?.facts)) recordBaseCurve()
  }
  const end = async (): Promise<void> => {
    const { history, macroId, picture, commit, set } = useBench.getState()
    const name = recordingName(history)
    commit(endRecording(history.document))
    const steps = keptSteps(history.document)
    // Without knowing the shelf nobody can tell whose steps these are.
    const macros = known ?? (await call(routes.macros, {}))
    const origin = macros.find(({ id }) => id === macroId)
    if (picture || steps.length === 0 || (origin && isSameSteps(origin.steps, steps))) return
    if (!origin) {
      const draft = await keep.mutateAsync({ name: nameForNew(name, history.document, macros), notes: '', tags: [draftTag], steps })
      await wireIsOf(draft.id)
    } else if (isDraft(origin)) {
      await revise.mutateAsync({ id: origin.id, steps })
      return
    }
    set({ keeping: true })
  }
  return () => {
    if (useBench.getState().history.document.recording === null) begin()
    else void end().catch((problem: Error) => message.error(problem.message))
  }
}

import { errorSentence } from '@/base/errors'
import type { Loop } from '@/jobs/loop'
import { unknownOperations } from '@/macros/codec'
import { completeSteps } from '@/macros/step'
import * as macroStore from '@/store/macros'
import type { FrozenMacro } from '@/store/schema'
import type { Context } from '../context'
import type { AddProblem } from './problems'

/** A loop's macros as a run would freeze them; what is wrong with them is added. */
export function frozenMacros({ db }: Context, loop: Loop, add: AddProblem): FrozenMacro[] {
  if (loop.macros.length === 0) add('macros', true, 'Choose a macro to put the pictures through.', { toFillIn: true })
  return loop.macros.flatMap(({ macroId, revision }) => {
    const macro = macroStore.findMacro(db, macroId, revision)
    if (!macro) {
      const mend = { label: 'Take it off the loop', change: { macros: loop.macros.filter((use) => use.macroId !== macroId) } }
      add('macros', true, errorSentence({ code: 'macroMissing', details: { macro: 'that this loop used' } }), { mend })
      return []
    }
    const steps = completeSteps(macro.steps)
    for (const index of unknownOperations(steps)) {
      const operation = steps[index]?.operation ?? ''
      add(
        'macros',
        true,
        errorSentence({ code: 'macroUnknownOperation', details: { where: `Step ${index + 1} of ${macro.name}`, operation } }),
      )
    }
    return [{ macroId, revision: macro.revision, name: macro.name, steps }]
  })
}

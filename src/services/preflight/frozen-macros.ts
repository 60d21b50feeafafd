import { createHash } from 'node:crypto'
import { errorSentence } from '@/base/errors'
import type { Loop } from '@/jobs/loop'
import { unknownOperations } from '@/macros/codec'
import { type FilledMacros, fillSetSteps } from '@/macros/set-steps'
import { completeSteps } from '@/macros/step'
import * as macroStore from '@/store/macros'
import type { FrozenMacro } from '@/store/schema'
import { middlesOf } from '@/store/set-middles'
import type { Context } from '../context'
import type { AddProblem } from './problems'

/** A loop's macros as a run would freeze them, with what is known of its set; what is wrong with them is added. */
export const frozenMacros = (context: Context, loop: Loop, add: AddProblem): readonly FrozenMacro[] =>
  setStepsOf(context, loop, macrosOf(context, loop, add)).macros

/** Rises when something else is measured. */
const measuringVersion = 1

/** Under which key the middle of a loop's set is kept; numbering all anew begins another set. */
export const middleKey = ({ numberSet }: Loop, stepKey: string): string =>
  createHash('sha1')
    .update(JSON.stringify([measuringVersion, numberSet, stepKey]))
    .digest('hex')

/** What is kept of the loop's set, put into the steps that look at it. */
export function setStepsOf({ db }: Pick<Context, 'db'>, loop: Loop, macros: readonly FrozenMacro[]): FilledMacros<FrozenMacro> {
  const known = new Map(middlesOf(db, loop.id).map(({ key, values }) => [key, values]))
  return fillSetSteps(macros, (key) => known.get(middleKey(loop, key)))
}

/** A loop's macros as they are on the shelf. */
export function macrosOf({ db }: Pick<Context, 'db'>, loop: Loop, add: AddProblem): FrozenMacro[] {
  if (loop.macros.length === 0) add('macros', false, 'No macro: pictures only get another size, format and name.')
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

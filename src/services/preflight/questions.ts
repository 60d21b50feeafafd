import { askedBy } from '@/files/names'
import { folderQuestions } from '@/jobs/folder-questions'
import type { Loop } from '@/jobs/loop'
import { eachOnce, type Question, questionsOf } from '@/macros/open'
import type { FrozenMacro } from '@/store/schema'
import type { Context } from '../context'
import { frozenMacros } from './frozen-macros'

/** What a loop asks before a run: its folders, its macros, and its name patterns; each question once. */
export const questionsFor = (loop: Loop, macros: readonly FrozenMacro[]): Question[] =>
  eachOnce([...folderQuestions(loop), ...questionsOf(macros.flatMap(({ steps }) => steps)), ...namesAsk(loop)])

/** The same without checking anything else. */
export const questionsOfLoop = (context: Context, loop: Loop): Question[] =>
  questionsFor(
    loop,
    frozenMacros(context, loop, () => undefined),
  )

/** What the name patterns ask, and the lines under pictures on pages. */
const namesAsk = ({ deliveries }: Loop): Question[] =>
  deliveries
    .flatMap(({ namePattern, gather }) => [namePattern, ...(gather?.captions ?? [])].flatMap(askedBy))
    .map((question) => ({ question, operation: '', setting: '', default: '' }))

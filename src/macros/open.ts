import { AppError } from '@/base/errors'
import { type CurvePoints, findOperation, type Setting, type SettingValue } from '@/operations'
import { settingsSchema } from '@/operations/declare/validation'
import { changeInner, innerSteps, type Step } from './step'

/** Something asked before a run: one answer goes to every step, and every name, that asks it. */
export interface Question {
  readonly question: string
  /** Empty for what only names ask: a line of text. */
  readonly operation: string
  readonly setting: string
  /** What the macro says without an answer. */
  readonly default: AnswerValue
}

/** What can be answered: what settings of the kinds that can be left open take. */
export type AnswerValue = string | number | boolean | CurvePoints

/** Answers by question. */
export type Answers = Readonly<Record<string, AnswerValue>>

const isAnswer = (value: SettingValue | undefined): value is AnswerValue =>
  Array.isArray(value) ? value.every(Array.isArray) : ['string', 'number', 'boolean'].includes(typeof value)

/** All that steps ask, each question once, in their order; those of macros that are played too. */
export function questionsOf(steps: readonly Step[]): Question[] {
  const found = new Map<string, Question>()
  for (const step of steps) {
    if (!step.enabled) continue
    for (const { setting, question } of step.open ?? []) {
      const value = step.settings[setting]
      if (isAnswer(value) && !found.has(question)) found.set(question, { question, operation: step.operation, setting, default: value })
    }
    for (const inner of questionsOf(innerSteps(step))) if (!found.has(inner.question)) found.set(inner.question, inner)
  }
  return [...found.values()]
}

/**
 * Steps with the answers in the places that ask for them. What is not answered keeps its default: no run ever waits.
 * @throws AppError `answerInvalid` for a value that a setting does not take
 */
export function answerSteps(steps: readonly Step[], answers: Answers): Step[] {
  return steps.map((step) => {
    const given = (step.open ?? []).filter(({ question }) => Object.hasOwn(answers, question))
    const answered = {
      ...step.settings,
      ...Object.fromEntries(given.map(({ setting, question }) => [setting, answers[question] ?? ''])),
    }
    const operation = findOperation(step.operation)
    for (const { setting, question } of given)
      if (operation && !settingsSchema(operation).isValidSync(answered, { strict: true }))
        throw new AppError('answerInvalid', { question, answer: String(answers[question]), range: rangeOf(operation.settings[setting]) })
    return changeInner(given.length > 0 ? { ...step, settings: answered } : step, (inner) => answerSteps(inner, answers))
  })
}

/** Whether the answer is a file that is kept. */
export const asksForFile = ({ operation, setting }: Question): boolean => findOperation(operation)?.settings[setting]?.kind === 'file'

/** What a setting takes, in words. */
function rangeOf(setting: Setting | undefined): string {
  switch (setting?.kind) {
    case 'number':
      return `a number from ${setting.min} to ${setting.max}`
    case 'toggle':
      return 'true or false'
    case 'choice':
      return `one of ${setting.options.map(({ value }) => value).join(', ')}`
    case 'colour':
      return 'a colour like #a4542a'
    case 'points':
      return 'the points of a curve like 0,0 64,58 255,255'
    case 'file':
      return setting.holds === 'look' ? 'a .cube file' : 'a picture file'
    default:
      return 'a line of text'
  }
}

/**
 * Answers as they are typed on a line, by question.
 * @throws AppError `notNamed` for one that nobody asked
 */
export function readAnswers(questions: readonly Question[], typed: Readonly<Record<string, string>>): Answers {
  return Object.fromEntries(
    Object.entries(typed).map(([question, answer]) => {
      const asked = questions.find((candidate) => candidate.question === question)
      const names = questions.map((each) => each.question).join(', ') || 'none'
      if (!asked) throw new AppError('notNamed', { what: 'question', name: question, names })
      return [question, readAnswer(findOperation(asked.operation)?.settings[asked.setting], answer)]
    }),
  )
}

/** `0,0 64,58 255,255`: input and output of each point. */
function readPoints(typed: string): CurvePoints | undefined {
  const points = typed
    .trim()
    .split(/\s+/)
    .map((pair): readonly [number, number] => {
      const [input = Number.NaN, output = Number.NaN, ...more] = pair.split(',').map(Number)
      return more.length === 0 ? [input, output] : [Number.NaN, Number.NaN]
    })
  return points.flat().every(Number.isFinite) ? points : undefined
}

/** An answer as it is typed, in the kind its setting has. A word that is none stays text, and is refused with the answer. */
function readAnswer(setting: Setting | undefined, typed: string): AnswerValue {
  if (setting?.kind === 'number') return typed.trim() === '' || Number.isNaN(Number(typed)) ? typed : Number(typed)
  if (setting?.kind === 'points') return readPoints(typed) ?? typed
  if (setting?.kind === 'toggle') return typed === 'true' ? true : typed === 'false' ? false : typed
  return typed
}

import { AppError } from '@/base/errors'
import { type CurvePoints, findOperation, kindOf, type Setting, type SettingValue } from '@/operations'
import { settingsSchema } from '@/operations/declare/validation'
import { changeInner, innerSteps, type Step } from './step'

/** Something asked before a run: one answer goes to every step, and every name, that asks it. */
export interface Question {
  readonly question: string
  /** Empty for what no step asks: a folder, or what only names ask, a line of text. */
  readonly operation: string
  readonly setting: string
  /** What the macro says without an answer. */
  readonly default: AnswerValue
  /** The answer is a folder: one that is there, or one that is made. */
  readonly folder?: 'there' | 'new'
}

/** What can be answered: what settings of the kinds that can be left open take. */
export type AnswerValue = string | number | boolean | CurvePoints

/** Answers by question. */
export type Answers = Readonly<Record<string, AnswerValue>>

const isAnswer = (value: SettingValue | undefined): value is AnswerValue =>
  Array.isArray(value) ? value.every(Array.isArray) : ['string', 'number', 'boolean'].includes(typeof value)

/** Each question once: the first that asks it. */
export const eachOnce = (questions: readonly Question[]): Question[] =>
  questions.filter(({ question }, i) => questions.findIndex((other) => other.question === question) === i)

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
        throw new AppError('answerInvalid', { question, answer: String(answers[question]), range: expected(operation.settings[setting]) })
    return changeInner(given.length > 0 ? { ...step, settings: answered } : step, (inner) => answerSteps(inner, answers))
  })
}

/** What an answer must be, in words. */
const expected = (setting: Setting | undefined): string => (setting && kindOf(setting).asked?.expects(setting)) ?? 'a line of text'

/** Whether the answer is a file that is kept. */
export const asksForFile = ({ operation, setting }: Question): boolean => findOperation(operation)?.settings[setting]?.kind === 'file'

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
      const setting = findOperation(asked.operation)?.settings[asked.setting]
      const read = setting && kindOf(setting).asked?.read(answer)
      return [question, isAnswer(read) ? read : answer]
    }),
  )
}

import { type Answers, eachOnce, type Question } from '@/macros/open'
import type { Delivery } from './delivery'
import type { Loop } from './loop'

/* Folders of a loop that are asked before each run. Each stands at the one that was picked last. */

const whichPictures = 'Which pictures?'

/** Pictures that were picked need no folder. */
export const asksWhich = ({ asked, picked }: Loop['intake']): boolean => asked && picked === null

/** The only delivery needs no name. */
const whereTo = ({ deliveries }: Pick<Loop, 'deliveries'>, { name }: Delivery): string =>
  deliveries.length > 1 ? `Where to: ${name}?` : 'Where to?'

const asking = (question: string, folder: string, kind: NonNullable<Question['folder']>): Question => ({
  ...{ question, operation: '', setting: '', default: folder },
  folder: kind,
})

/** The folders that a loop asks for, each question once. */
export const folderQuestions = ({ intake, deliveries }: Pick<Loop, 'intake' | 'deliveries'>): Question[] =>
  eachOnce([
    ...(asksWhich(intake) ? [asking(whichPictures, intake.folder, 'there')] : []),
    ...deliveries
      .filter(({ folderAsked }) => folderAsked)
      .map((delivery) => asking(whereTo({ deliveries }, delivery), delivery.folder, 'new')),
  ])

/** The loop with the folders that were answered; without an answer each stays as it is. */
export function answerFolders<L extends Pick<Loop, 'intake' | 'deliveries'>>(loop: L, answers: Answers): L {
  const answered = (isAsked: boolean, question: string, folder: string): string => {
    const answer = isAsked && Object.hasOwn(answers, question) ? answers[question] : undefined
    return typeof answer === 'string' ? answer.trim() : folder
  }
  return {
    ...loop,
    intake: { ...loop.intake, folder: answered(asksWhich(loop.intake), whichPictures, loop.intake.folder) },
    deliveries: loop.deliveries.map((delivery) => ({
      ...delivery,
      folder: answered(delivery.folderAsked, whereTo(loop, delivery), delivery.folder),
    })),
  }
}

/** The loop with its folders as they are: none is asked any more. */
export const withFoldersAsTheyAre = (loop: Loop): Loop => ({
  ...loop,
  intake: { ...loop.intake, asked: false },
  deliveries: loop.deliveries.map((delivery) => ({ ...delivery, folderAsked: false })),
})

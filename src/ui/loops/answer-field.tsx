import type { ReactNode } from 'react'
import type { AnswerValue, Question } from '@/macros/open'
import { findOperation } from '@/operations'
import { SettingAnswer, TextAnswer } from '../controls/kinds'

interface Props {
  question: Question
  value: AnswerValue
  onChange(value: AnswerValue): void
}

/** What a macro asks before a run. What only names of files ask has no setting: it is a line of text. */
export function AnswerField({ question, value, onChange }: Props): ReactNode {
  const setting = findOperation(question.operation)?.settings[question.setting]
  const props = { question: question.question, value, onChange }
  return setting ? <SettingAnswer setting={setting} {...props} /> : <TextAnswer {...props} />
}

import type { ReactNode } from 'react'
import type { AnswerValue, Question } from '@/macros/open'
import { findOperation } from '@/operations'
import { FolderField } from '../controls/folder-field'
import { SettingAnswer, TextAnswer } from '../controls/kinds'

interface Props {
  question: Question
  value: AnswerValue
  onChange(value: AnswerValue): void
}

/** What is asked before a run: a folder, a setting of a step, or, for what only names of files ask, a line of text. */
export function AnswerField({ question, value, onChange }: Props): ReactNode {
  if (question.folder)
    return <FolderField label={question.question} value={String(value)} mayBeNew={question.folder === 'new'} onChange={onChange} />
  const setting = findOperation(question.operation)?.settings[question.setting]
  const props = { question: question.question, value, onChange }
  return setting ? <SettingAnswer setting={setting} {...props} /> : <TextAnswer {...props} />
}

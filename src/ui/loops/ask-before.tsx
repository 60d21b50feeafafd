'use client'

import { Button, DatePicker, Form, Modal } from 'antd'
import dayjs, { type Dayjs } from 'dayjs'
import { type ReactNode, useState } from 'react'
import type { RunWishes } from '@/contract/answers'
import type { Answers, Question } from '@/macros/open'
import { focusOnceThere } from '../controls/focus-once-there'
import { AnswerField } from './answer-field'

/** Over everything, over what has changed, over everything at a later time, or over three pictures for a try. */
export type Way = 'all' | 'changed' | 'later' | 'try'

export type Wishes = Pick<RunWishes, 'startAt'> & { readonly answers: Answers }

/** What the button says that answers everything. */
const doing: Readonly<Record<Way, string>> = { all: 'Run loop', changed: 'Run loop', later: 'Put in line', try: 'Try on 3' }

interface Props {
  /** How it is to run once it is answered; nothing: nothing is asked now. */
  way: Way | undefined
  questions: readonly Question[]
  onClose(): void
  onAnswer(wishes: Wishes): void
}

/** What a loop asks, asked once before a run. */
export function AskBefore({ way, questions, onClose, onAnswer }: Props): ReactNode {
  return (
    <Modal title="Before it runs" open={way !== undefined} onCancel={onClose} footer={null} destroyOnHidden>
      {way && <AskForm questions={questions} way={way} onAnswer={onAnswer} />}
    </Modal>
  )
}

/** At the next full hour. */
const soon = (): Dayjs => dayjs().add(1, 'hour').startOf('hour')

function AskForm({ questions, way, onAnswer }: { way: Way } & Pick<Props, 'questions' | 'onAnswer'>): ReactNode {
  const [answers, setAnswers] = useState<Answers>(() =>
    Object.fromEntries(questions.map((question) => [question.question, question.default])),
  )
  const [time, setTime] = useState(soon)
  const [isAsked, setAsked] = useState(false)
  const later = way === 'later'
  const isEmpty = ({ question }: Question): boolean => typeof answers[question] === 'string' && String(answers[question]).trim() === ''
  const send = (): void => {
    setAsked(true)
    if (!questions.some(isEmpty)) onAnswer({ answers, startAt: later ? time.valueOf() : undefined })
  }
  return (
    <Form layout="vertical" onFinish={send} ref={focusFirst}>
      {later && (
        <Form.Item label="Not before" extra="The list of pictures is made now. What comes into the folder later is for another run.">
          <DatePicker
            aria-label="Not before"
            showTime={{ format: 'HH:mm' }}
            format="ddd D MMM YYYY HH:mm"
            allowClear={false}
            minDate={dayjs()}
            value={time}
            onChange={(next) => next && setTime(next)}
          />
        </Form.Item>
      )}
      {questions.map((question) => (
        <Form.Item
          key={question.question}
          label={question.question}
          {...(isAsked && isEmpty(question) ? { validateStatus: 'error', help: 'Nothing is written here yet.' } : {})}
        >
          <AnswerField
            question={question}
            value={answers[question.question] ?? question.default}
            onChange={(value) => setAnswers({ ...answers, [question.question]: value })}
          />
        </Form.Item>
      ))}
      <Button type="primary" htmlType="submit">
        {doing[way]}
      </Button>
    </Form>
  )
}

/** Whoever is asked can type at once. */
const focusFirst = (form: { nativeElement?: HTMLElement } | null): void =>
  focusOnceThere(form?.nativeElement?.querySelector<HTMLElement>('input, textarea') ?? null)

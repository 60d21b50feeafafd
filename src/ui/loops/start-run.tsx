'use client'

import { DownOutlined } from '@ant-design/icons'
import { useQueryClient } from '@tanstack/react-query'
import { App, Button, DatePicker, Dropdown, Form, Modal, Space } from 'antd'
import dayjs, { type Dayjs } from 'dayjs'
import { useRouter } from 'next/navigation'
import { type ReactNode, useState } from 'react'
import type { RunWishes } from '@/contract/answers'
import type { Answers, AnswerValue, Question } from '@/macros/open'
import { findOperation } from '@/operations'
import { ApiError } from '../api/client'
import { keys, useStartRun, useTryLoop } from '../api/queries'
import { SettingAnswer, TextAnswer } from '../controls/kinds'

/** Over everything, over what has changed, over everything at a later time, or over three pictures for a try. */
type Way = 'all' | 'changed' | 'later' | 'try'

type Wishes = Pick<RunWishes, 'startAt'> & { readonly answers: Answers }

interface Props {
  loopId: string
  questions: readonly Question[]
  /** Token of the check that is on the page. */
  check?: string
  disabled: boolean
  /** What is to be done before, such as storing the loop. */
  before?(): Promise<unknown>
}

/** Starts a loop: over everything, or over what is new or changed. What its macros ask is asked once, here. */
export function StartRun({ loopId, questions, check, disabled, before }: Props): ReactNode {
  const { message } = App.useApp()
  const router = useRouter()
  const start = useStartRun()
  const attempt = useTryLoop()
  const client = useQueryClient()
  const [asking, setAsking] = useState<Way>()
  const run = async (way: Way, { answers, startAt }: Wishes): Promise<void> => {
    setAsking(undefined)
    try {
      await before?.()
      const only = way === 'changed' ? 'changed' : 'all'
      const started = await (way === 'try'
        ? attempt.mutateAsync({ loopId, answers })
        : start.mutateAsync({ loopId, only, answers, startAt, check }))
      router.push(`/runs/${started.id}`)
    } catch (problem) {
      if (problem instanceof ApiError && problem.report.code === 'preflightMoved')
        await client.invalidateQueries({ queryKey: keys.preflight })
      void message.error(problem instanceof Error ? problem.message : String(problem), 8)
    }
  }
  const begin = (way: Way): void => (questions.length > 0 || way === 'later' ? setAsking(way) : void run(way, { answers: {} }))
  return (
    <>
      <Button
        disabled={disabled}
        loading={attempt.isPending}
        onClick={() => begin('try')}
        title="Three real results in a folder of their own"
      >
        Try on 3
      </Button>
      <Space.Compact>
        <Button type="primary" disabled={disabled} loading={start.isPending} onClick={() => begin('all')}>
          Run loop
        </Button>
        <Dropdown
          trigger={['click']}
          disabled={disabled}
          menu={{
            items: [
              { key: 'changed', label: 'Only what is new or changed' },
              { key: 'later', label: 'Everything, at a later time …' },
            ],
            onClick: ({ key }) => begin(key as Way),
          }}
        >
          <Button type="primary" icon={<DownOutlined />} aria-label="Other ways to run" />
        </Dropdown>
      </Space.Compact>
      <Modal title="Before it runs" open={asking !== undefined} onCancel={() => setAsking(undefined)} footer={null} destroyOnHidden>
        <AskForm questions={questions} later={asking === 'later'} onAnswer={(wishes) => asking && void run(asking, wishes)} />
      </Modal>
    </>
  )
}

interface AskProps {
  questions: readonly Question[]
  /** Asks for a time too. */
  later: boolean
  onAnswer(wishes: Wishes): void
}

/** At the next full hour. */
const soon = (): Dayjs => dayjs().add(1, 'hour').startOf('hour')

function AskForm({ questions, later, onAnswer }: AskProps): ReactNode {
  const [answers, setAnswers] = useState<Answers>(() =>
    Object.fromEntries(questions.map((question) => [question.question, question.default])),
  )
  const [time, setTime] = useState(soon)
  return (
    <Form layout="vertical" onFinish={() => onAnswer({ answers, startAt: later ? time.valueOf() : undefined })}>
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
        <Form.Item key={question.question} label={question.question}>
          <Answer
            question={question}
            value={answers[question.question] ?? question.default}
            onChange={(value) => setAnswers({ ...answers, [question.question]: value })}
          />
        </Form.Item>
      ))}
      <Button type="primary" htmlType="submit">
        {later ? 'Put in line' : 'Run loop'}
      </Button>
    </Form>
  )
}

interface AnswerProps {
  question: Question
  value: AnswerValue
  onChange(value: AnswerValue): void
}

/** What only names of files ask has no setting: it is a line of text. */
function Answer({ question, value, onChange }: AnswerProps): ReactNode {
  const setting = findOperation(question.operation)?.settings[question.setting]
  const props = { question: question.question, value, onChange }
  return setting ? <SettingAnswer setting={setting} {...props} /> : <TextAnswer {...props} />
}

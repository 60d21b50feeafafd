'use client'

import { DownOutlined } from '@ant-design/icons'
import { useQueryClient } from '@tanstack/react-query'
import { App, Button, Dropdown, Space } from 'antd'
import { useRouter } from 'next/navigation'
import { type ReactNode, useState } from 'react'
import type { Question } from '@/macros/open'
import { ApiError } from '../api/client'
import { keys, useStartRun, useTryLoop } from '../api/queries'
import { AskBefore, type Way, type Wishes } from './ask-before'

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
      <AskBefore
        way={asking}
        questions={questions}
        onClose={() => setAsking(undefined)}
        onAnswer={(wishes) => asking && void run(asking, wishes)}
      />
    </>
  )
}

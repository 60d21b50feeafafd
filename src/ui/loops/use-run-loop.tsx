'use client'

import { App } from 'antd'
import { useRouter } from 'next/navigation'
import { type ReactNode, useState } from 'react'
import type { Answers, Question } from '@/macros/open'
import { questionsOfLoop, useStartRun } from '../api/queries'
import { AskBefore } from './ask-before'

interface RunAndGo {
  /** Runs a loop and goes to its run; what has to be asked first goes to `ask`. */
  run(loopId: string, ask: (questions: readonly Question[]) => void): Promise<void>
  /** The same with the answers. */
  answer(loopId: string, answers: Answers): Promise<void>
  readonly isStarting: boolean
}

/** Starts loops from wherever they are shown; over what they take, or over these files. What goes wrong is told. */
export function useRunAndGo(files?: readonly string[]): RunAndGo {
  const { message } = App.useApp()
  const router = useRouter()
  const start = useStartRun()
  const told = (work: Promise<unknown>): Promise<void> =>
    work.then(
      () => undefined,
      (problem: Error) => void message.error(problem.message, 8),
    )
  const go = async (loopId: string, answers: Answers): Promise<void> => {
    const { id } = await start.mutateAsync({ loopId, answers, ...(files ? { files: [...files] } : {}) })
    router.push(`/runs/${id}`)
  }
  const run: RunAndGo['run'] = async (loopId, ask) => {
    const questions = await questionsOfLoop(loopId)
    if (questions.length > 0) ask(questions)
    else await go(loopId, {})
  }
  return {
    run: (loopId, ask) => told(run(loopId, ask)),
    answer: (loopId, answers) => told(go(loopId, answers)),
    isStarting: start.isPending,
  }
}

interface RunLoop {
  /** Asks what the loop asks, runs it, and goes to the run. */
  run(): Promise<void>
  readonly isStarting: boolean
  /** Where it is asked: to be laid out somewhere. */
  readonly asking: ReactNode
}

/** Starts one loop, asking as on its own page. */
export function useRunLoop(loopId: string): RunLoop {
  const { run, answer, isStarting } = useRunAndGo()
  const [questions, setQuestions] = useState<readonly Question[]>()
  const asking = (
    <AskBefore
      way={questions && 'all'}
      questions={questions ?? []}
      onClose={() => setQuestions(undefined)}
      onAnswer={({ answers }) => {
        setQuestions(undefined)
        void answer(loopId, answers)
      }}
    />
  )
  return { run: () => run(loopId, setQuestions), isStarting, asking }
}

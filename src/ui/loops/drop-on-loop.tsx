'use client'

import { App, Button, Modal, Progress } from 'antd'
import { useRouter } from 'next/navigation'
import { type DragEvent, type ReactNode, useRef, useState } from 'react'
import { counted, formatBytes } from '@/base/format'
import { routes } from '@/contract/routes'
import type { Loop } from '@/jobs/loop'
import type { Answers, Question } from '@/macros/open'
import { call } from '../api/client'
import { questionsOfLoop } from '../api/queries'
import { AskBefore } from './ask-before'
import styles from './drop-on-loop.module.css'
import { filesOfDrop } from './dropped-files'
import { type DropProgress, sendDrop } from './send-drop'

interface Props {
  loop: Pick<Loop, 'id' | 'name'>
  /** What is to be done before it runs, such as storing the loop. */
  before?(): Promise<unknown>
  className?: string
  children: ReactNode
}

/** Most sentences on what was not taken. */
const maxTold = 5

/** A place that takes pictures from the desktop: they go into the loop's inbox, and the loop runs over them. */
export function DropOnLoop({ loop, before, className, children }: Props): ReactNode {
  const { message, modal } = App.useApp()
  const router = useRouter()
  const [isOver, setOver] = useState(false)
  const [progress, setProgress] = useState<DropProgress>()
  const [asked, setAsked] = useState<{ readonly drop: string; readonly questions: readonly Question[] }>()
  const cancel = useRef<AbortController>(undefined)

  const run = async (drop: string, answers: Answers): Promise<void> => {
    const started = await call(routes.runDrop, { asked: { id: loop.id, drop }, body: { answers } })
    router.push(`/runs/${started.id}`)
  }
  const take = async (data: DataTransfer): Promise<void> => {
    const { pictures, others } = await filesOfDrop(data)
    if (pictures.length === 0)
      return void message.info(`There are no pictures in what was dropped${others > 0 ? `: ${counted(others, 'other file')}` : ''}.`, 6)
    cancel.current = new AbortController()
    await before?.()
    const { drop, progress: ended } = await sendDrop(loop.id, pictures, setProgress, cancel.current.signal)
    setProgress(undefined)
    if (others > 0)
      void message.info(
        `${counted(others, 'file')} that ${others === 1 ? 'is' : 'are'} no picture stayed where ${others === 1 ? 'it was' : 'they were'}.`,
        8,
      )
    if (ended.refused.length > 0)
      modal.warning({
        title: `${counted(ended.refused.length, 'file')} ${ended.refused.length === 1 ? 'was' : 'were'} not taken`,
        content: [...ended.refused.slice(0, maxTold), ended.refused.length > maxTold && '…']
          .filter(Boolean)
          .map((sentence) => <p key={String(sentence)}>{sentence}</p>),
      })
    if (ended.refused.length === pictures.length) return
    // The folder of an intake is not asked: the pictures are here.
    const questions = (await questionsOfLoop(loop.id)).filter(({ folder }) => folder !== 'there')
    if (questions.length > 0) setAsked({ drop, questions })
    else await run(drop, {})
  }
  const told = (work: Promise<void>): void =>
    void work.catch((problem: Error) => {
      setProgress(undefined)
      if (cancel.current?.signal.aborted) void message.info('Nothing of the drop was kept.')
      else void message.error(problem.message, 8)
    })
  const drop = (event: DragEvent): void => {
    if (!event.dataTransfer.types.includes('Files')) return
    event.preventDefault()
    event.stopPropagation()
    setOver(false)
    if (progress) void message.info('The pictures before are still on their way.')
    else told(take(event.dataTransfer))
  }
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping is a short way; picking and folders are the others
    <div
      className={[styles.place, className].filter(Boolean).join(' ')}
      data-over={isOver || undefined}
      onDragOver={(event) => {
        if (!event.dataTransfer.types.includes('Files')) return
        event.preventDefault()
        setOver(true)
      }}
      onDragLeave={(event) => {
        if (!event.currentTarget.contains(event.relatedTarget as Node | null)) setOver(false)
      }}
      onDrop={drop}
    >
      {children}
      {isOver && (
        <div className={styles.here} aria-hidden="true">
          Drop: {loop.name} runs over them
        </div>
      )}
      <Modal
        title={`Into ${loop.name}`}
        open={progress !== undefined}
        closable={false}
        footer={null}
        mask={{ closable: false }}
        keyboard={false}
      >
        {progress && <Sending progress={progress} onCancel={() => cancel.current?.abort()} />}
      </Modal>
      <AskBefore
        way={asked && 'all'}
        questions={asked?.questions ?? []}
        onClose={() => setAsked(undefined)}
        onAnswer={({ answers }) => {
          if (asked) told(run(asked.drop, answers))
          setAsked(undefined)
        }}
      />
    </div>
  )
}

function Sending({ progress, onCancel }: { progress: DropProgress; onCancel(): void }): ReactNode {
  const { files, of, bytes, ofBytes, elapsedMs, refused } = progress
  const rate = elapsedMs > 0 ? (bytes / elapsedMs) * 1000 : 0
  return (
    <div className={styles.sending} role="status">
      <Progress percent={ofBytes > 0 ? Math.floor((bytes / ofBytes) * 100) : 0} />
      <span className="figures">
        {files.toLocaleString('en-GB')} of {counted(of, 'picture')}, {formatBytes(bytes)} of {formatBytes(ofBytes)}
        {rate > 0 && `, ${formatBytes(rate)} a second`}
        {refused.length > 0 && ` · ${refused.length} not taken`}
      </span>
      <Button onClick={onCancel}>Cancel</Button>
    </div>
  )
}

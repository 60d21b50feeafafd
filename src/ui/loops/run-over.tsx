'use client'

import { Alert, App, Button, Checkbox, Input, Modal, Radio, Switch } from 'antd'
import { useRouter } from 'next/navigation'
import { type ReactNode, useMemo, useState } from 'react'
import { counted, formatBytes } from '@/base/format'
import { freeName } from '@/base/free-name'
import type { PreflightView } from '@/contract/answers'
import { standingNeeds } from '@/jobs/delivery'
import type { Loop, MacroUse } from '@/jobs/loop'
import { loopOver, patternOf } from '@/jobs/over-folder'
import { type Answers, eachOnce, type Question } from '@/macros/open'
import { useBinLoop, useLoops, usePreflight, useSaveLoop, useSettings, useStartRun } from '../api/queries'
import { FolderField } from '../controls/folder-field'
import { useSettled } from '../controls/use-settled'
import { AnswerField } from './answer-field'
import { describePages } from './foreseen-pages'
import { NameField } from './name-field'
import { Problems } from './problems'
import styles from './run-over.module.css'

export interface RunOverProps {
  /** What it is called, unless somebody says otherwise. */
  readonly suggestedName: string
  /** What the pictures are put through, in words. */
  readonly through: string
  /** Where its pictures may lie. */
  readonly suggestedFolder: string
  /** What is known of the macros before they are kept. */
  readonly macros: readonly MacroUse[]
  readonly questions?: readonly Question[]
  /** Keeps what is not on the shelf yet. */
  prepare?(name: string): Promise<readonly MacroUse[]>
}

/** One job over one folder, from here to its run: which pictures, what for, where to. */
export function RunOver({ open, onClose, ...props }: RunOverProps & { open: boolean; onClose(): void }): ReactNode {
  return (
    <Modal title="Run over a folder" open={open} onCancel={onClose} width={720} footer={null} destroyOnHidden>
      <RunOverForm {...props} />
    </Modal>
  )
}

/** What is typed is looked at this long after the last letter. */
const lookAfterMs = 300

function RunOverForm({ suggestedName, through, suggestedFolder, macros, questions = [], prepare }: RunOverProps): ReactNode {
  const { data: settings } = useSettings()
  const { data: loops = [] } = useLoops()
  const roots = settings?.roots.map(({ path }) => path) ?? []
  const [id] = useState(() => crypto.randomUUID())
  const [folder, setFolder] = useState(suggestedFolder)
  const [subfolders, setSubfolders] = useState(true)
  const [need, setNeed] = useState('web')
  const [deliverTo, setDeliverTo] = useState<string | null>(null)
  const [namePattern, setNamePattern] = useState<string | null>(null)
  const [typedName, setName] = useState<string>()
  const [keeps, setKeeps] = useState(true)
  const [answers, setAnswers] = useState<Answers>({})
  const name = (typedName ?? freeName(suggestedName, loops)).trim()
  const loop = loopOver({ id, name: name || '–', folder, subfolders, macros, need, deliverTo, namePattern }, roots)
  const text = JSON.stringify(loop)
  const settled = useSettled(text, lookAfterMs)
  const { check, isFetching } = usePreflight(useMemo(() => JSON.parse(settled) as Loop, [settled]))
  const asked = eachOnce([...questions, ...(check?.questions ?? [])])
  const { run, problem, isStarting } = useRunOver({ prepare, keeps })
  const [delivery] = loop.deliveries
  const isReady = check !== undefined && !isFetching && settled === text && !check.problems.some(({ blocks }) => blocks) && name !== ''
  const start = (): void => {
    const given = Object.fromEntries(asked.map((question) => [question.question, answers[question.question] ?? question.default]))
    void run(loop, given)
  }
  return (
    <form
      className={styles.form}
      onSubmit={(event) => {
        event.preventDefault()
        if (isReady && !isStarting) start()
      }}
    >
      <Line label="Which pictures">
        <FolderField label="Which pictures" value={folder} onChange={setFolder} />
        <span className={styles.quiet}>
          <Switch size="small" checked={subfolders} onChange={setSubfolders} aria-label="With subfolders" /> with subfolders
        </span>
      </Line>
      <Line label="Put through">
        <span>{through}</span>
      </Line>
      <Line label="What for">
        <Radio.Group className={styles.needs} value={need} onChange={(event) => setNeed(event.target.value)} aria-label="What for">
          {standingNeeds.map(({ key, name: title, about }) => (
            <Radio key={key} value={key} className={styles.need}>
              <b>{title}</b> <span className={styles.quiet}>{about}</span>
            </Radio>
          ))}
        </Radio.Group>
      </Line>
      <Line label="Where to">
        <FolderField label="Where to" mayBeNew value={delivery?.folder ?? ''} onChange={setDeliverTo} />
      </Line>
      {!delivery?.gather && (
        <Line label="Names">
          <NameField
            value={namePattern ?? patternOf(need)}
            values={check && { ...check.nameValues[delivery?.id ?? ''], '{loop}': name }}
            isWrong={check?.problems.some(({ blocks, wrongName }) => blocks && wrongName !== undefined) ?? false}
            onChange={setNamePattern}
          />
        </Line>
      )}
      {asked.map((question) => (
        <Line key={question.question} label={question.question}>
          <AnswerField
            question={question}
            value={answers[question.question] ?? question.default}
            onChange={(value) => setAnswers({ ...answers, [question.question]: value })}
          />
        </Line>
      ))}
      <div className={styles.foreseen} aria-live="polite">
        <Foreseen check={folder ? check : undefined} isLooking={isFetching && folder !== ''} loop={loop} />
        {folder !== '' && (
          <Problems list={check?.problems.filter(({ area, blocks }) => blocks || area !== 'macros' || macros.length > 0) ?? []} />
        )}
        {problem && <Alert type="error" showIcon title={problem} />}
      </div>
      <div className={styles.end}>
        <Checkbox checked={keeps} onChange={(event) => setKeeps(event.target.checked)}>
          Keep it as a loop, called
        </Checkbox>
        <Input
          aria-label="Name of the loop"
          className={styles.name}
          value={typedName ?? name}
          maxLength={120}
          onChange={(event) => setName(event.target.value)}
        />
        <Button type="primary" htmlType="submit" disabled={!isReady} loading={isStarting}>
          {check && isReady ? `Run ${counted(check.totals.pictures - check.totals.unreadable, 'picture')}` : 'Run'}
        </Button>
      </div>
    </form>
  )
}

function Line({ label, children }: { label: string; children: ReactNode }): ReactNode {
  return (
    <div className={styles.line}>
      <span className={styles.label}>{label}</span>
      <div className={styles.fields}>{children}</div>
    </div>
  )
}

const maxExamples = 3

/** What the check found, in a line; and what the first pictures will be called. */
function Foreseen({ check, isLooking, loop }: { check: PreflightView | undefined; isLooking: boolean; loop: Loop }): ReactNode {
  if (!check) return <p className={styles.quiet}>{isLooking ? 'Looking …' : 'Choose a folder, and what will happen is said here.'}</p>
  if (check.totals.pictures === 0) return null
  const [delivery] = loop.deliveries
  const pages = delivery && describePages(check, delivery, loop.name)
  if (pages)
    return (
      <p>
        <b>{counted(check.totals.pictures, 'picture')}</b>, {formatBytes(check.totals.bytes)} → <code>{pages}</code>
      </p>
    )
  const targets = check.pictures.flatMap((picture) => picture.targets.slice(0, 1)).slice(0, maxExamples)
  return (
    <p>
      <b>{counted(check.totals.pictures, 'picture')}</b>, {formatBytes(check.totals.bytes)} →{' '}
      {targets.map((target) => (
        <code key={target.name} className={styles.example}>
          {target.name}
        </code>
      ))}
      {check.totals.pictures > targets.length && '…'}
    </p>
  )
}

/** Keeps what has to be kept, runs it, and goes to the run. A loop that is not wanted goes into the bin once its run is made. */
function useRunOver({ prepare, keeps }: { prepare: RunOverProps['prepare']; keeps: boolean }) {
  const { message } = App.useApp()
  const router = useRouter()
  const save = useSaveLoop()
  const startRun = useStartRun()
  const bin = useBinLoop()
  const [problem, setProblem] = useState<string>()
  const [isStarting, setStarting] = useState(false)
  const run = async (job: Loop, answers: Answers): Promise<void> => {
    setStarting(true)
    setProblem(undefined)
    try {
      const macros = prepare ? [...(await prepare(job.name))] : job.macros
      // Another try is another loop: what could not be started leaves nothing behind.
      const loop = { ...job, id: crypto.randomUUID(), macros }
      await save.mutateAsync(loop)
      const started = await startRun.mutateAsync({ loopId: loop.id, answers }).catch(async (failure: unknown) => {
        await bin.mutateAsync(loop.id).catch(() => undefined)
        throw failure
      })
      if (!keeps) await bin.mutateAsync(loop.id).catch((failure: Error) => void message.error(failure.message))
      router.push(`/runs/${started.id}`)
    } catch (failure) {
      setProblem(failure instanceof Error ? failure.message : String(failure))
    } finally {
      setStarting(false)
    }
  }
  return { run, problem, isStarting }
}

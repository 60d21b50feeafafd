'use client'

import { ArrowLeftOutlined } from '@ant-design/icons'
import { App, Button, Select, Skeleton } from 'antd'
import dayjs from 'dayjs'
import Link from 'next/link'
import { useRouter } from 'next/navigation'
import { type ReactNode, useMemo, useState } from 'react'
import { counted } from '@/base/format'
import type { MacroRevision, ShelfMacro } from '@/contract/answers'
import { macroLimits } from '@/macros/codec'
import { compareSteps, type StepDifference } from '@/macros/compare'
import { readSteps } from '@/macros/step'
import { useBenchSample, useDescribeMacro, useMacro, useReviseMacro, useRevisions } from '../api/queries'
import { useSamplePictures } from '../bench/use-sample-pictures'
import { LateText } from '../controls/late-text'
import page from '../shell/page.module.css'
import { BeforeAfter } from './before-after'
import { MacroMenu } from './macro-menu'
import styles from './macros.module.css'
import { RunMacroOver } from './run-macro-over'
import { useOpenOnBench } from './use-open-on-bench'

/** One macro: what it is, what it does, and what it was. */
export function MacroPage({ id }: { id: string }): ReactNode {
  const { data: macro, error } = useMacro(id)
  const { data: revisions = [] } = useRevisions(id)
  if (error) return <p className={page.empty}>{error.message}</p>
  return <div className={page.page}>{macro ? <Loaded macro={macro} revisions={revisions} /> : <Skeleton active />}</div>
}

function Loaded({ macro, revisions }: { macro: ShelfMacro; revisions: readonly MacroRevision[] }): ReactNode {
  const router = useRouter()
  const { message } = App.useApp()
  const describe = useDescribeMacro()
  const revise = useReviseMacro()
  const { data: sample } = useBenchSample()
  const [chosen, setChosen] = useState<number>()
  const shown = revisions.find(({ revision }) => revision === chosen) ?? revisions[0]
  const previous = shown && revisions.find(({ revision }) => revision === shown.revision - 1)
  const wishes = useMemo(
    () =>
      sample && shown
        ? [
            { key: 'before', path: sample, steps: [] },
            { key: 'after', path: sample, steps: shown.steps },
          ]
        : [],
    [sample, shown],
  )
  const pictures = useSamplePictures(wishes)
  const { id, name, notes, tags } = macro
  const fail = (problem: unknown): void => void message.error(problem instanceof Error ? problem.message : String(problem), 6)
  const change = (about: Partial<Pick<ShelfMacro, 'name' | 'notes' | 'tags'>>): void =>
    void describe.mutateAsync({ id, name, notes, tags, ...about }).catch(fail)
  const openOnBench = useOpenOnBench()
  const takeBack = (): void =>
    void revise
      .mutateAsync({ id, steps: shown?.steps ?? [] })
      .then((next) => {
        setChosen(undefined)
        void message.success(`r${shown?.revision} is r${next.revision} now; nothing was lost`)
      })
      .catch(fail)
  return (
    <>
      <div className={page.head}>
        <Link href="/macros" aria-label="All macros">
          <Button icon={<ArrowLeftOutlined />} tabIndex={-1} />
        </Link>
        <h1>{name}</h1>
        <div className={styles.ends}>
          <Button type="primary" onClick={() => openOnBench(shown?.steps ?? macro.steps, id)}>
            Open {shown && shown.revision !== macro.revision ? `r${shown.revision} ` : ''}on the bench
          </Button>
          <RunMacroOver macro={macro} />
          <MacroMenu macro={macro} onGone={() => router.push('/macros')} />
        </div>
      </div>
      <div className={styles.about}>
        <section aria-label="About">
          <BeforeAfter large before={pictures.get('before')} after={pictures.get('after')} />
          <div className={styles.field}>
            Name
            <LateText
              label="Name"
              max={macroLimits.nameLength}
              value={name}
              onChange={(next) => next.trim() && change({ name: next.trim() })}
            />
          </div>
          <div className={styles.field}>
            Notes
            <LateText
              label="What it is for"
              long
              max={macroLimits.notesLength}
              value={notes}
              onChange={(next) => change({ notes: next })}
            />
          </div>
          <div className={styles.field}>
            Tags
            <Select
              mode="tags"
              size="small"
              aria-label="Tags"
              value={[...tags]}
              maxCount={macroLimits.tags}
              tokenSeparators={[',']}
              onChange={(next: string[]) => change({ tags: next.map((tag) => tag.trim().slice(0, 40)).filter(Boolean) })}
            />
          </div>
        </section>
        <section aria-label="Steps">
          <h2>r{shown?.revision ?? macro.revision} in plain sentences</h2>
          <p className={styles.sentences}>{shown ? readSteps(shown.steps) : macro.reading}</p>
        </section>
        <section aria-label="Revisions">
          <h2>Revisions</h2>
          <ol className={styles.revisions}>
            {revisions.map(({ revision, createdAt, steps }) => (
              <li key={revision}>
                <button type="button" aria-pressed={revision === shown?.revision} onClick={() => setChosen(revision)}>
                  <b>r{revision}</b> {dayjs(createdAt).format('D MMM YYYY, HH:mm')} · {counted(steps.length, 'step')}
                </button>
              </li>
            ))}
          </ol>
          {shown && previous && (
            <>
              <h3>
                r{previous.revision} → r{shown.revision}
              </h3>
              <Differences lines={compareSteps(previous.steps, shown.steps)} />
            </>
          )}
          {shown && shown.revision !== macro.revision && (
            <Button onClick={takeBack} loading={revise.isPending}>
              Take r{shown.revision} back
            </Button>
          )}
        </section>
      </div>
    </>
  )
}

const signs: Record<StepDifference['kind'], string> = { same: '=', changed: '~', added: '+', removed: '−' }
const words: Record<StepDifference['kind'], string> = { same: 'as before', changed: 'changed', added: 'added', removed: 'removed' }

function Differences({ lines }: { lines: readonly StepDifference[] }): ReactNode {
  return (
    <ul className={styles.differences}>
      {lines.map((line, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the same line may stand there twice
        <li key={index} data-kind={line.kind}>
          <span role="img" aria-label={words[line.kind]}>
            {signs[line.kind]}
          </span>
          <span>
            <b>{line.name}</b> {line.was !== undefined && line.was !== line.setting ? `${line.was} → ` : ''}
            {line.setting}
          </span>
        </li>
      ))}
    </ul>
  )
}

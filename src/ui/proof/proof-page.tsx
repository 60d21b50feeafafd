'use client'

import { App, Button, Skeleton } from 'antd'
import { useRouter } from 'next/navigation'
import { type ReactNode, useCallback, useMemo, useState } from 'react'
import type { Proof } from '@/contract/answers'
import { describeTouchUp, isSameWork, type TouchUp, touchedSteps, untouched } from '@/jobs/touch-up'
import { thumbnailUrl } from '../api/client'
import { useProof, useStartRun } from '../api/queries'
import { SampleCanvas } from '../bench/samples'
import { isPicture, useSamplePictures } from '../bench/use-sample-pictures'
import type { SampleWish } from '../bench/worker/samples-worker'
import { SmallPicture } from '../controls/small-picture'
import { NudgeButtons } from './nudge-buttons'
import { framedStep } from './nudges'
import styles from './proof.module.css'
import { ProofSet } from './proof-set'
import { useProofShortcuts } from './use-proof-shortcuts'
import { type TouchUps, useTouchUps } from './use-touch-ups'

/** Long edge that the picture in hand is worked on, and the ones that come next. */
const largeEdge = 1280
/** Pictures to either side that are shown beside it. */
const neighbours = 2

export function ProofPage({ loopId }: { loopId: string }): ReactNode {
  const { data: proof, error } = useProof(loopId)
  if (error) return <p className={styles.problem}>{error.message}</p>
  if (!proof) return <Skeleton active style={{ padding: 32 }} paragraph={{ rows: 10 }} />
  if (proof.pictures.length === 0) return <p className={styles.problem}>There are no pictures in the loop’s folders yet.</p>
  return <LoadedProof proof={proof} />
}

/** A loop's set, looked through: each picture large, its neighbours beside it, and what it has of its own. */
function LoadedProof({ proof }: { proof: Proof }): ReactNode {
  const { message } = App.useApp()
  const say = useCallback((sentence: string) => void message.error(sentence, 8), [message])
  const touchUps = useTouchUps(proof.loopId, proof.touchUps, say)
  const [at, setAt] = useState(0)
  const [showsSource, setShowsSource] = useState(false)
  const { pictures, macros } = proof
  const picture = pictures[at] ?? pictures[0]
  const path = picture?.sourcePath ?? ''
  const touchUp = touchUps.of(path)
  const go = (to: number): void => setAt(Math.min(Math.max(to, 0), pictures.length - 1))
  const change = (next: TouchUp): void => touchUps.change(path, next)
  useProofShortcuts({ at, go, path, touchUp, touchUps, change, macros, before: pictures[at - 1]?.sourcePath, setShowsSource })

  const wishes = useWishes(proof, at, touchUps)
  const shown = useSamplePictures(wishes)
  const large = shown.get(keyOf(path, true)) ?? shown.get(keyOf(path, false))
  const beside = [-2, -1, 1, 2].flatMap((by) => {
    const other = pictures[at + by]
    return other ? [{ ...other, index: at + by }] : []
  })
  const words = describeTouchUp(touchUp, macros)
  const touched = pictures.filter(({ sourcePath }) => describeTouchUp(touchUps.of(sourcePath), macros).length > 0).length
  const changed = pictures.filter(({ sourcePath, deliveredWith, error: problem }) => {
    const own = touchUps.of(sourcePath)
    return deliveredWith && !problem && !own.setAside && !isSameWork(own, deliveredWith)
  }).length
  return (
    <div className={styles.proof}>
      <header className={styles.head}>
        <h1>Proof of {proof.loop}</h1>
        <span className={styles.quiet}>
          {pictures.length.toLocaleString('en-GB')} pictures · {touched} touched up
        </span>
        <DeliverChanged loopId={proof.loopId} count={changed} before={touchUps.stored} />
      </header>
      <aside className={styles.desk} aria-label="This picture">
        <h2>{picture?.relativePath}</h2>
        <span className={styles.quiet}>
          {at + 1} of {pictures.length}
          {touchUp.lookedAt && ' · ● looked at'}
        </span>
        <ul className={styles.words} aria-label="Of its own">
          {words.length === 0 && <li className={styles.quiet}>As the loop makes it</li>}
          {words.map((part) => (
            <li key={part}>◆ {part}</li>
          ))}
        </ul>
        <NudgeButtons touchUp={touchUp} hasFrame={framedStep(macros) !== undefined} change={change} macros={macros} />
        <div className={styles.buttons}>
          <Button size="small" disabled={!touchUps.canUndo(path)} onClick={() => touchUps.step(path, -1)}>
            Undo
          </Button>
          <Button size="small" disabled={!touchUps.canRedo(path)} onClick={() => touchUps.step(path, 1)}>
            Redo
          </Button>
          <Button size="small" disabled={words.length === 0} onClick={() => change({ ...untouched, lookedAt: touchUp.lookedAt })}>
            Take all back
          </Button>
        </div>
      </aside>
      <div className={styles.stage} data-aside={touchUp.setAside ? true : undefined}>
        {showsSource ? (
          <SmallPicture src={thumbnailUrl(path, largeEdge)} alt="The source" />
        ) : isPicture(large) ? (
          <SampleCanvas picture={large} />
        ) : (
          <p className={styles.waiting}>{large?.sentence ?? picture?.error ?? ''}</p>
        )}
        {showsSource && <span className={styles.badge}>Source</span>}
        {touchUp.setAside && <span className={styles.badge}>✕ set aside</span>}
      </div>
      <aside className={styles.beside} aria-label="Its neighbours">
        {beside.map(({ sourcePath, relativePath, index }) => {
          const state = shown.get(keyOf(sourcePath, false))
          return (
            <button type="button" key={sourcePath} onClick={() => go(index)} aria-label={`Go to ${relativePath}`}>
              {isPicture(state) ? <SampleCanvas picture={state} /> : <span className={styles.empty} />}
              <span className={styles.quiet}>{relativePath}</span>
            </button>
          )
        })}
      </aside>
      <ProofSet proof={proof} at={at} of={touchUps.of} onGo={go} />
    </div>
  )
}

const keyOf = (path: string, isLarge: boolean): string => `${isLarge ? 'large' : 'small'} ${path}`

/** The picture in hand first, then its neighbours, then the next ones large, so that they are there when they are wanted. */
function useWishes({ pictures, macros }: Proof, at: number, touchUps: TouchUps): readonly SampleWish[] {
  const around = Array.from({ length: 2 * neighbours + 1 }, (_, i) => at + i - neighbours).flatMap((index) => pictures[index] ?? [])
  const steps = around.map(({ sourcePath }) => touchedSteps(macros, touchUps.of(sourcePath)).filter(({ enabled }) => enabled))
  const said = JSON.stringify([around.map(({ sourcePath }) => sourcePath), at, steps])
  // biome-ignore lint/correctness/useExhaustiveDependencies: wishes that say the same are the same
  return useMemo(() => {
    const wish = (index: number, isLarge: boolean): SampleWish[] => {
      const picture = pictures[index]
      if (!picture || picture.error) return []
      const own = touchedSteps(macros, touchUps.of(picture.sourcePath)).filter(({ enabled }) => enabled)
      return [{ key: keyOf(picture.sourcePath, isLarge), path: picture.sourcePath, steps: own, edge: isLarge ? largeEdge : undefined }]
    }
    return [...wish(at, true), ...[1, -1, 2, -2].flatMap((by) => wish(at + by, false)), ...[1, 2, -1].flatMap((by) => wish(at + by, true))]
  }, [said])
}

interface DeliverProps {
  loopId: string
  /** How many are to be delivered again. */
  count: number
  /** What is to be done before. */
  before(): Promise<unknown>
}

function deliverWords(count: number): string {
  if (count === 0) return 'Deliver the changed'
  return count === 1 ? 'Deliver the changed one' : `Deliver the ${count.toLocaleString('en-GB')} changed`
}

/** Delivers those again that were touched up since they were delivered, each in the place of its own file. */
function DeliverChanged({ loopId, count, before }: DeliverProps): ReactNode {
  const { message } = App.useApp()
  const router = useRouter()
  const start = useStartRun()
  const deliver = (): void =>
    void before()
      .then(() => start.mutateAsync({ loopId, only: 'touched' }))
      .then(
        (run) => router.push(`/runs/${run.id}`),
        (problem: Error) => void message.error(problem.message, 8),
      )
  return (
    <Button
      type="primary"
      disabled={count === 0}
      loading={start.isPending}
      onClick={deliver}
      title="Those that this loop delivered and that were touched up since; only files that are as they were delivered are replaced"
    >
      {deliverWords(count)}
    </Button>
  )
}

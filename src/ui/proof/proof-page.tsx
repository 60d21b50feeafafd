'use client'

import { App, Button, Segmented, Skeleton } from 'antd'
import { memo, type ReactNode, useEffect, useMemo, useState } from 'react'
import type { Proof } from '@/contract/answers'
import { useProof, useProofOfRun } from '../api/queries'
import { type SamplePictures, useReadyPictures, useShown, useWishesFor } from '../bench/use-sample-pictures'
import { useLatest } from '../controls/use-latest'
import { Beside } from './beside'
import { DeliverChanged } from './deliver-changed'
import { DeliverThis } from './deliver-this'
import { Desk } from './desk'
import styles from './proof.module.css'
import { ProofGrid, ProofStrip } from './proof-set'
import { SetMenu } from './set-menu'
import { SpreadPlot } from './spread-plot'
import { Stage } from './stage'
import { useProofShortcuts } from './use-proof-shortcuts'
import { useProofState } from './use-proof-state'
import { largeOf, standingOf, useWishes } from './use-wishes'
import { useSilentKinds, WhatStandsOut } from './what-stands-out'

interface At {
  /** Path of the picture that is in hand at first. */
  at?: string
}

export function ProofPage({ loopId, at }: { loopId: string } & At): ReactNode {
  return <AnyProof {...useProof(loopId)} at={at} />
}

/** The proof of a run: its pictures as they were delivered. */
export function RunProofPage({ runId, at }: { runId: string } & At): ReactNode {
  return <AnyProof {...useProofOfRun(runId)} at={at} />
}

function AnyProof({ data: proof, error, at }: { data?: Proof; error: Error | null } & At): ReactNode {
  const shown = useReadyPictures()
  if (error) return <p className={styles.problem}>{error.message}</p>
  if (!proof) return <Skeleton active style={{ padding: 32 }} paragraph={{ rows: 10 }} />
  if (proof.pictures.length === 0) return <p className={styles.problem}>There are no pictures in the loop’s folders yet.</p>
  return <LoadedProof proof={proof} shown={shown} at={at} />
}

const views = ['strip', 'grid', 'spread'] as const
export type ProofView = (typeof views)[number]
const viewNames: Readonly<Record<ProofView, string>> = { strip: 'Strip', grid: 'Grid', spread: 'Spread' }

/** A set looked through: each picture large, its neighbours beside it, and what it has of its own. */
function LoadedProof({ proof, shown, at }: { proof: Proof; shown: SamplePictures } & At): ReactNode {
  const { message } = App.useApp()
  const [silent, setSilent] = useSilentKinds(proof.silent, (sentence) => void message.error(sentence, 8))
  const [isReady, setReady] = useState(false)
  const inRun = useMemo(() => proof.pictures.filter((picture) => picture.inRun), [proof])
  const state = useProofState(proof, { silent, first: at ?? inRun[0]?.sourcePath, isReady })
  const [view, setView] = useState<ProofView>('strip')
  const [showsSource, setShowsSource] = useState(false)
  const [isClose, setClose] = useState(false)
  useWishesFor(shown, useWishes(state), 0)
  const { path, pictures } = state
  const hasPicture = useShown(shown, (all) => largeOf(all, path) !== undefined)
  useEffect(() => {
    if (hasPicture) setReady(true)
  }, [hasPicture])
  useProofShortcuts({
    state,
    standing: () => standingOf(shown, path),
    setShowsSource,
    turnTrue: () => setClose(!isClose),
    turnView: () => setView(views[(views.indexOf(view) + 1) % views.length] ?? 'strip'),
  })

  const { marked, touched, changed } = state.counts
  const latest = useLatest(state)
  const open = (index: number): void => {
    state.go(index)
    setView('strip')
  }
  return (
    <div className={styles.proof} data-view={view}>
      <header className={styles.head}>
        <h1>
          Proof of {proof.run !== null && `run ${proof.run} · `}
          {proof.loop}
        </h1>
        <span className={styles.quiet}>
          {proof.pictures.length.toLocaleString('en-GB')} pictures · {marked.toLocaleString('en-GB')} stand out ·{' '}
          {touched.toLocaleString('en-GB')} touched up
        </span>
        {inRun.length < proof.pictures.length && !state.isNarrowed && (
          <Button
            size="small"
            title="Shows those that this run delivered, without their neighbours"
            onClick={() => state.narrow(inRun.map(({ sourcePath }) => sourcePath))}
          >
            Only the {inRun.length.toLocaleString('en-GB')} of this run
          </Button>
        )}
        <WhatStandsOut silent={silent} onChange={setSilent} />
        <ViewSwitch view={view} onChange={setView} />
        <SetMenu
          latest={latest}
          loopId={proof.loopId}
          hasTouched={touched > 0}
          picked={state.picked}
          count={pictures.length}
          hasDelivered={pictures.some(({ delivered }) => delivered)}
          folder={proof.deliversTo}
        />
        {state.isNarrowed && (
          <Button size="small" onClick={() => state.narrow(null)}>
            {pictures.length.toLocaleString('en-GB')} shown · Show all
          </Button>
        )}
        <DeliverThis latest={latest} />
        <DeliverChanged loopId={proof.loopId} count={changed} latest={latest} />
      </header>
      <Desk state={state} shown={shown} />
      {view === 'grid' ? (
        <ProofGrid state={state} onOpen={open} />
      ) : (
        <>
          <Stage state={state} shown={shown} showsSource={showsSource} isClose={isClose} onClose={setClose} />
          <Beside state={state} shown={shown} />
          {view === 'strip' ? <ProofStrip state={state} /> : <SpreadPlot state={state} />}
        </>
      )}
    </div>
  )
}

const ViewSwitch = memo(function ViewSwitch({ view, onChange }: { view: ProofView; onChange(view: ProofView): void }): ReactNode {
  return (
    <Segmented<ProofView>
      size="small"
      aria-label="How the set is shown"
      value={view}
      options={views.map((value) => ({ value, label: viewNames[value] }))}
      onChange={onChange}
    />
  )
})

import { App } from 'antd'
import { useCallback, useMemo, useState } from 'react'
import type { Proof, ProofPicture } from '@/contract/answers'
import { stepsFor } from '@/jobs/delivery-steps'
import { describeTouchUp, isSameWork, type TouchUp, touchedSteps, untouched } from '@/jobs/touch-up'
import { startedRaw } from '@/macros/raw-start'
import type { Step } from '@/macros/step'
import { type MarkKind, marksOfSet, type PictureTraits } from '@/pixels/traits'
import { relitSteps, type TouchUpPart, withoutRelit, withPartOf, withRelit } from './nudges'
import { useLikeness } from './use-likeness'
import { type Measured, useProofTraits } from './use-proof-traits'
import { type TouchUps, useTouchUps } from './use-touch-ups'

/** Pictures to either side that one is compared with. */
const siblingsEachSide = 4

/** A proof as it stands on the page: the picture in hand, what all have of their own, and what is picked. */
export interface ProofState {
  readonly proof: Proof
  /** Those that are looked through: all, or the ones that were brushed. */
  readonly pictures: readonly ProofPicture[]
  readonly at: number
  readonly picture: ProofPicture | undefined
  readonly path: string
  readonly touchUp: TouchUp
  readonly touchUps: TouchUps
  readonly picked: ReadonlySet<string>
  readonly isNarrowed: boolean
  go(to: number): void
  change(next: TouchUp): void
  /** Changed as long as something is held: stored as one change. */
  draft(next: TouchUp): void
  togglePicked(path: string): void
  pick(paths: readonly string[]): void
  /** Only these; null for all. */
  narrow(paths: readonly string[] | null): void
  /** How many stand out, are touched up, and are to be delivered again. */
  readonly counts: Counts
  traitsOf(picture: ProofPicture): PictureTraits | null
  marksOf(picture: ProofPicture): readonly string[]
  /** All steps that a picture is put through now. */
  stepsOf(path: string): readonly Step[]
  /** The same up to the size and sharpness of its first delivery. */
  finishedSteps(path: string): readonly Step[]
  /** Whether its delivered file is what it would become now. */
  isAsDelivered(picture: ProofPicture): boolean
  wordsOf(path: string): readonly string[]
  goToNextMarked(): void
  likeNeighbours(): Promise<void>
  giveToPicked(part: TouchUpPart): void
}

const none: readonly string[] = []

interface Counts {
  readonly marked: number
  readonly touched: number
  readonly changed: number
}

/** What is to be said of every picture of the set. */
function overviewOf(
  { pictures, macros, run }: Proof,
  {
    touchUps,
    measured,
    silent,
  }: {
    readonly touchUps: TouchUps['all']
    readonly measured: ReadonlyMap<string, Measured>
    readonly silent: ReadonlySet<MarkKind>
  },
) {
  const touchUpOf = (path: string): TouchUp => touchUps.get(path)?.touchUp ?? untouched
  const asDelivered = new Set(
    pictures.flatMap(({ sourcePath, delivered }) =>
      delivered && isSameWork(touchUpOf(sourcePath), delivered.touchUp) ? [sourcePath] : [],
    ),
  )
  const traits = new Map(
    pictures.flatMap(({ sourcePath, delivered }) => {
      const now = measured.get(sourcePath)?.traits ?? null
      const was = run === null ? null : (delivered?.traits ?? null)
      if (was && asDelivered.has(sourcePath)) return [[sourcePath, was] as const]
      if (!now) return []
      // Sharpness and noise of a delivered file and of a source are not to be compared.
      return [[sourcePath, was ? { ...now, sharpnessPercent: was.sharpnessPercent, noiseLevels: was.noiseLevels } : now] as const]
    }),
  )
  const said = marksOfSet(
    [...traits].flatMap(([path, own]) => (touchUpOf(path).setAside ? [] : [own])),
    silent,
  )
  const marks = new Map([...traits].map(([path, own]) => [path, said(own)] as const))
  const touched = pictures.filter(({ sourcePath }) => describeTouchUp(touchUpOf(sourcePath), macros).length > 0)
  const changed = pictures.filter(
    ({ sourcePath, delivered }) => delivered && !asDelivered.has(sourcePath) && !touchUpOf(sourcePath).setAside,
  )
  const marked = [...marks.values()].filter((list) => list.length > 0)
  return { asDelivered, traits, marks, counts: { marked: marked.length, touched: touched.length, changed: changed.length } }
}

interface ProofOptions {
  readonly silent: ReadonlySet<MarkKind>
  /** Path of the picture that is in hand at first. */
  readonly first?: string
  /** A picture is shown: what is measured on the others may begin. */
  readonly isReady: boolean
}

export function useProofState(proof: Proof, { silent, first, isReady }: ProofOptions): ProofState {
  const { message } = App.useApp()
  const say = useCallback((sentence: string) => void message.error(sentence, 8), [message])
  const touchUps = useTouchUps(proof.loopId, proof.touchUps, say)
  const like = useLikeness()
  const [at, setAt] = useState(() =>
    Math.max(
      0,
      proof.pictures.findIndex(({ sourcePath }) => sourcePath === first),
    ),
  )
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set())
  const [only, setOnly] = useState<ReadonlySet<string> | null>(null)
  const { macros } = proof
  const pictures = useMemo(() => proof.pictures.filter(({ sourcePath }) => only?.has(sourcePath) ?? true), [proof, only])
  const picture = pictures[Math.min(at, pictures.length - 1)]
  const path = picture?.sourcePath ?? ''
  const touchUp = touchUps.of(path)
  const measured = useProofTraits(proof, touchUps, path, isReady)

  // Of two thousand pictures this takes a while: it is worked out when something of it changes, not whenever the page is drawn.
  const overview = useMemo(() => overviewOf(proof, { touchUps: touchUps.all, measured, silent }), [proof, touchUps.all, measured, silent])
  const isAsDelivered = ({ sourcePath }: ProofPicture): boolean => overview.asDelivered.has(sourcePath)
  const traitsOf = ({ sourcePath }: ProofPicture): PictureTraits | null => overview.traits.get(sourcePath) ?? null
  const marksOf = ({ sourcePath }: ProofPicture): readonly string[] => overview.marks.get(sourcePath) ?? none
  const go = (to: number): void => setAt(Math.min(Math.max(to, 0), pictures.length - 1))
  const change = (next: TouchUp): void => touchUps.change(path, next)
  const draft = (next: TouchUp): void => touchUps.draft(path, next)
  const stepsWith = (own: TouchUp): Step[] =>
    stepsFor(proof, startedRaw(touchedSteps(macros, own), macros)).filter(({ enabled }) => enabled)

  const goToNextMarked = (): void => {
    const order = pictures.map((_, i) => (at + 1 + i) % pictures.length)
    const next = order.find((index) => {
      const one = pictures[index]
      return one !== undefined && !touchUps.of(one.sourcePath).lookedAt && marksOf(one).length > 0
    })
    if (next === undefined) void message.info('Nothing stands out that was not looked at yet.')
    else setAt(next)
  }

  const likeNeighbours = async (): Promise<void> => {
    const others = proof.pictures.filter(({ sourcePath }) => sourcePath !== path && !touchUps.of(sourcePath).setAside)
    const chosen = others.filter(({ sourcePath }) => picked.has(sourcePath))
    const places = new Map(proof.pictures.map(({ sourcePath }, i) => [sourcePath, i]))
    const away = ({ sourcePath }: ProofPicture): number => Math.abs((places.get(sourcePath) ?? 0) - (places.get(path) ?? 0))
    const near = others.toSorted((a, b) => away(a) - away(b)).slice(0, 2 * siblingsEachSide)
    const siblings = chosen.length > 0 ? chosen.slice(0, 4 * siblingsEachSide) : near
    const own = withoutRelit(touchUp)
    try {
      const shift = await like(
        { path, steps: stepsWith(own) },
        siblings.map(({ sourcePath }) => ({ path: sourcePath, steps: stepsWith(touchUps.of(sourcePath)) })),
      )
      // Whatever was nudged meanwhile stays.
      touchUps.change(path, withRelit(touchUps.latest(path), shift))
      if (relitSteps(shift).length === 0)
        void message.info('It lies among its neighbours as it is, or they show too little of the same to tell.')
    } catch (problem) {
      say(problem instanceof Error ? problem.message : String(problem))
    }
  }

  const giveToPicked = (part: TouchUpPart): void => {
    const others = [...picked].filter((other) => other !== path)
    for (const other of others) touchUps.change(other, withPartOf(touchUps.of(other), touchUp, part, macros))
    void message.info(
      others.length === 0
        ? 'Pick the pictures first that are to have the same.'
        : `${others.length.toLocaleString('en-GB')} picked ${others.length === 1 ? 'picture has' : 'pictures have'} the same now.`,
    )
  }

  return {
    counts: overview.counts,
    ...{ proof, pictures, at, picture, path, touchUp, touchUps, picked, isNarrowed: only !== null },
    ...{ go, change, draft, traitsOf, marksOf, isAsDelivered, goToNextMarked, likeNeighbours, giveToPicked },
    togglePicked: (one) =>
      setPicked((before) => new Set(before.has(one) ? [...before].filter((other) => other !== one) : [...before, one])),
    pick: (paths) => setPicked(new Set(paths)),
    narrow: (paths) => {
      setOnly(paths && new Set(paths))
      const index = paths
        ? proof.pictures.filter(({ sourcePath }) => paths.includes(sourcePath)).findIndex(({ sourcePath }) => sourcePath === path)
        : proof.pictures.findIndex(({ sourcePath }) => sourcePath === path)
      setAt(Math.max(0, index))
    },
    stepsOf: (one) => stepsWith(touchUps.of(one)),
    finishedSteps: (one) => [...stepsWith(touchUps.of(one)), ...proof.finish],
    wordsOf: (one) => describeTouchUp(touchUps.of(one), macros),
  }
}

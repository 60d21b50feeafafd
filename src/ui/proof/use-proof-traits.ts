import { useEffect, useRef, useState } from 'react'
import type { Proof, ProofPicture } from '@/contract/answers'
import { routes } from '@/contract/routes'
import type { PictureTraits } from '@/pixels/traits'
import { call } from '../api/client'
import type { TouchUps } from './use-touch-ups'

/** Pictures that are measured with one request, and how long the page waits before it shows what came: it would be drawn for each otherwise. */
const together = 2
const showEveryMs = 400
/** After an answer that never came. */
const againAfterMs = 3000

const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms))

/** What was measured on a picture. */
export interface Measured {
  /** Of its touch-up. */
  readonly version: number
  readonly traits: PictureTraits | null
}

/**
 * What is measured on the pictures of a proof as they would be delivered now. Those that nobody has looked at yet are measured while the
 * page is open, nearest to the one in hand first; one that was touched up is measured anew.
 */
/** @param isReady nothing is measured before: the picture in hand comes first */
export function useProofTraits(proof: Proof, touchUps: TouchUps, near: string, isReady: boolean): ReadonlyMap<string, Measured> {
  const [measured, setMeasured] = useState<ReadonlyMap<string, Measured>>(new Map())
  const all = useRef(new Map<string, Measured>())
  const { pictures, loopId } = proof
  useEffect(() => {
    const versions = new Map(proof.touchUps.map(({ sourcePath, version }) => [sourcePath, version]))
    for (const { sourcePath, traits } of proof.pictures)
      if (traits) all.current.set(sourcePath, { version: versions.get(sourcePath) ?? 0, traits })
    setMeasured(new Map(all.current))
  }, [proof])

  const latest = useRef({ touchUps, near, pictures })
  latest.current = { touchUps, near, pictures }
  useEffect(() => {
    if (!isReady) return
    let isOver = false
    let shownAt = 0
    const show = (): void => {
      shownAt = performance.now()
      setMeasured(new Map(all.current))
    }
    const measure = async (): Promise<void> => {
      while (!isOver) {
        const { touchUps: own, near: around, pictures: set } = latest.current
        const wanted = nextToMeasure(set, around, (path) => all.current.get(path)?.version === own.settledVersion(path)).slice(0, together)
        if (wanted.length === 0) {
          if (shownAt > 0) show()
          shownAt = 0
          await pause(showEveryMs)
          continue
        }
        const versions = wanted.map((path) => own.settledVersion(path))
        const answers = await call(routes.proofTraits, { asked: { id: loopId }, body: { paths: wanted } }).catch(() => undefined)
        if (!answers) {
          await pause(againAfterMs)
          continue
        }
        for (const [i, path] of wanted.entries()) {
          const answer = answers.find(({ sourcePath }) => sourcePath === path)
          all.current.set(path, { version: versions[i] ?? 0, traits: answer?.traits ?? null })
        }
        if (performance.now() - shownAt > showEveryMs) show()
      }
    }
    void measure()
    return () => {
      isOver = true
    }
  }, [loopId, isReady])
  return measured
}

/** What is not known yet, nearest to the picture in hand first. */
function nextToMeasure(pictures: readonly ProofPicture[], near: string, isKnown: (path: string) => boolean): string[] {
  const at = Math.max(
    0,
    pictures.findIndex(({ sourcePath }) => sourcePath === near),
  )
  return pictures
    .map(({ sourcePath }, index) => ({ sourcePath, away: Math.abs(index - at) }))
    .filter(({ sourcePath }) => !isKnown(sourcePath))
    .sort((a, b) => a.away - b.away)
    .map(({ sourcePath }) => sourcePath)
}

import type { Proof } from '@/contract/answers'
import { type TouchUp, untouched } from '@/jobs/touch-up'
import { useShortcuts } from '../shell/shortcuts'
import {
  frameNudgePercent,
  lightNudgeEv,
  lookedAt,
  setAside,
  warmthNudgeMired,
  withFrame,
  withFrameSize,
  withLight,
  withWarmth,
} from './nudges'
import type { TouchUps } from './use-touch-ups'

interface Keys {
  at: number
  go(to: number): void
  path: string
  touchUp: TouchUp
  touchUps: TouchUps
  change(next: TouchUp): void
  macros: Proof['macros']
  /** Path of the picture before this one. */
  before: string | undefined
  setShowsSource(shows: boolean): void
}

/** Everything that the Proof does by key. */
export function useProofShortcuts({ at, go, path, touchUp, touchUps, change, macros, before, setShowsSource }: Keys): void {
  const move = (across: number, down: number) => () => change(withFrame(touchUp, macros, across, down))
  useShortcuts(
    {
      proofNext: () => go(at + 1),
      proofPrevious: () => go(at - 1),
      proofGood: () => {
        change(lookedAt(touchUp))
        go(at + 1)
      },
      proofAside: () => change(setAside(touchUp)),
      proofBrighter: () => change(withLight(touchUp, lightNudgeEv)),
      proofDarker: () => change(withLight(touchUp, -lightNudgeEv)),
      proofWarmer: () => change(withWarmth(touchUp, warmthNudgeMired)),
      proofCooler: () => change(withWarmth(touchUp, -warmthNudgeMired)),
      proofFrameLeft: move(-frameNudgePercent, 0),
      proofFrameRight: move(frameNudgePercent, 0),
      proofFrameUp: move(0, -frameNudgePercent),
      proofFrameDown: move(0, frameNudgePercent),
      proofFrameLarger: () => change(withFrameSize(touchUp, macros, frameNudgePercent)),
      proofFrameSmaller: () => change(withFrameSize(touchUp, macros, -frameNudgePercent)),
      proofAsBefore: () => before && change({ ...touchUps.of(before), lookedAt: touchUp.lookedAt }),
      proofTakeBack: () => change({ ...untouched, lookedAt: touchUp.lookedAt }),
      undo: () => touchUps.step(path, -1),
      redo: () => touchUps.step(path, 1),
      original: () => setShowsSource(true),
    },
    { original: () => setShowsSource(false) },
  )
}

import { keysOf } from '@/base/schema'
import { type TouchUp, untouched } from '@/jobs/touch-up'
import { useShortcuts } from '../shell/shortcuts'
import {
  frameNudgePercent,
  levelNudgeDegrees,
  lightNudgeEv,
  lookedAt,
  type StandingSteps,
  setAside,
  warmthNudgeMired,
  withFrame,
  withFrameSize,
  withLevel,
  withLight,
  withStampOn,
  withWarmth,
} from './nudges'
import type { ProofState } from './use-proof-state'

interface Keys {
  state: ProofState
  /** How the steps stand on the picture in hand at this moment. */
  standing(): StandingSteps
  setShowsSource(shows: boolean): void
  turnView(): void
  turnTrue(): void
}

/** Everything that the Proof does by key. */
export function useProofShortcuts({ state, standing, setShowsSource, turnView, turnTrue }: Keys): void {
  const { at, go, path, touchUp, touchUps, change, draft, proof, pictures } = state
  const { macros } = proof
  const before = pictures[at - 1]
  const nudges = {
    proofBrighter: () => withLight(touchUp, lightNudgeEv),
    proofDarker: () => withLight(touchUp, -lightNudgeEv),
    proofWarmer: () => withWarmth(touchUp, warmthNudgeMired),
    proofCooler: () => withWarmth(touchUp, -warmthNudgeMired),
    proofFrameLeft: () => withFrame(touchUp, macros, [-frameNudgePercent, 0], standing()),
    proofFrameRight: () => withFrame(touchUp, macros, [frameNudgePercent, 0], standing()),
    proofFrameUp: () => withFrame(touchUp, macros, [0, -frameNudgePercent], standing()),
    proofFrameDown: () => withFrame(touchUp, macros, [0, frameNudgePercent], standing()),
    proofFrameLarger: () => withFrameSize(touchUp, macros, frameNudgePercent),
    proofFrameSmaller: () => withFrameSize(touchUp, macros, -frameNudgePercent),
    proofStamp: () => withStampOn(touchUp, macros),
    proofLevel: () => withLevel(touchUp, macros, levelNudgeDegrees, standing()),
    proofLevelBack: () => withLevel(touchUp, macros, -levelNudgeDegrees, standing()),
  }
  const all = (take: (next: TouchUp) => void) => Object.fromEntries(keysOf(nudges).map((name) => [name, () => take(nudges[name]())]))
  useShortcuts(
    {
      ...all(change),
      proofNext: () => go(at + 1),
      proofPrevious: () => go(at - 1),
      proofNextMarked: state.goToNextMarked,
      proofGood: () => {
        change(lookedAt(touchUp))
        go(at + 1)
      },
      proofAside: () => change(setAside(touchUp)),
      proofLike: () => void state.likeNeighbours(),
      proofPick: () => state.togglePicked(path),
      proofGive: () => state.giveToPicked('all'),
      proofView: turnView,
      proofTrue: turnTrue,
      proofAsBefore: () => before && change({ ...touchUps.of(before.sourcePath), lookedAt: touchUp.lookedAt }),
      proofTakeBack: () => change({ ...untouched, lookedAt: touchUp.lookedAt }),
      undo: () => touchUps.step(path, -1),
      redo: () => touchUps.step(path, 1),
      original: () => setShowsSource(true),
    },
    { original: () => setShowsSource(false) },
    // A key held down is one change.
    { ...all(draft), proofNext: () => go(at + 1), proofPrevious: () => go(at - 1) },
  )
}

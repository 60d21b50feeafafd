import { useMemo, useRef } from 'react'
import { isPicture, type SamplePictures, type SampleState, useShown } from '../bench/use-sample-pictures'
import type { SampleWish } from '../bench/worker/samples-worker'
import type { StandingSteps } from './nudges'
import type { ProofState } from './use-proof-state'

/** Long edge that the picture in hand is worked on, and the ones that come next: 2 MP of a picture of 3 : 2. */
const largeEdge = 1760

export const keyOf = (path: string, isLarge: boolean): string => `${isLarge ? 'large' : 'small'} ${path}`

/** Places beside the one in hand, the next one first. */
const beside = [1, -1, 2, -2] as const

/** The picture in hand first, then its neighbours, then the next ones large, so that they are there when they are wanted. */
export function useWishes(state: ProofState): readonly SampleWish[] {
  const { pictures, at } = state
  const around = [0, ...beside].flatMap((by) => pictures[at + by] ?? [])
  const wishes = (): SampleWish[] => {
    const wish = (by: number, isLarge: boolean): SampleWish[] => {
      const picture = pictures[at + by]
      if (!picture) return []
      const { sourcePath: path } = picture
      return [
        {
          key: keyOf(path, isLarge),
          path,
          steps: state.stepsOf(path),
          edge: isLarge ? largeEdge : undefined,
          isInHand: isLarge && by === 0,
        },
      ]
    }
    return [...wish(0, true), ...beside.flatMap((by) => wish(by, false)), ...wish(1, true), ...wish(2, true), ...wish(-1, true)]
  }
  const said = JSON.stringify(around.map(({ sourcePath }) => [sourcePath, state.stepsOf(sourcePath)]))
  // biome-ignore lint/correctness/useExhaustiveDependencies: wishes that say the same are the same
  return useMemo(wishes, [said, at])
}

/** The picture large, or small as long as it is not there large. */
export const largeOf = (all: ReadonlyMap<string, SampleState>, path: string): SampleState | undefined =>
  all.get(keyOf(path, true)) ?? all.get(keyOf(path, false))

const nothing: StandingSteps = []

/** How the steps stand on a picture, as far as it is known now. */
export function standingOf(shown: SamplePictures, path: string): StandingSteps {
  const large = largeOf(shown.all(), path)
  return isPicture(large) ? large.steps : nothing
}

/** The same of a few steps, for what shows it: drawn anew when they stand otherwise, not whenever the picture is another. */
export function useStanding(shown: SamplePictures, path: string, stepIds: readonly string[]): StandingSteps {
  const last = useRef(nothing)
  return useShown(shown, () => {
    const now = standingOf(shown, path).filter(({ stepId }) => stepIds.includes(stepId))
    if (JSON.stringify(now) !== JSON.stringify(last.current)) last.current = now
    return last.current
  })
}

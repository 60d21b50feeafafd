import { App, Button, Dropdown } from 'antd'
import { useRouter } from 'next/navigation'
import { memo, type ReactNode, useCallback, useState } from 'react'
import { type TouchUp, untouched } from '@/jobs/touch-up'
import type { SamplePictures } from '../bench/use-sample-pictures'
import { useLatest } from '../controls/use-latest'
import { layPictureOnBench } from '../macros/lay-on-bench'
import { NudgeButtons, type Nudged } from './nudge-buttons'
import { handledIds, lookedAt, setAside, type TouchUpPart, touchUpParts } from './nudges'
import styles from './proof.module.css'
import type { ProofState } from './use-proof-state'
import { standingOf, useStanding } from './use-wishes'

const partWords: Readonly<Record<TouchUpPart, string>> = { all: 'All of it', light: 'Light and colour', frame: 'Frame, level and stamp' }

/** What is said of the picture in hand, and what can be done with it. */
export function Desk({ state, shown }: { state: ProofState; shown: SamplePictures }): ReactNode {
  const { picture, path, touchUp, touchUps, at, pictures, picked, proof } = state
  const { macros } = proof
  const standing = useStanding(shown, path, handledIds(macros))
  const latest = useLatest({ state, shown })
  const act = useCallback(
    (nudge: (now: Nudged) => TouchUp): void => {
      const { state: now, shown: samples } = latest.current
      now.change(nudge({ touchUp: now.touchUp, macros: now.proof.macros, standing: standingOf(samples, now.path) }))
    },
    [latest],
  )
  const words = state.wordsOf(path)
  const marks = picture ? state.marksOf(picture) : []
  return (
    <aside className={styles.desk} aria-label="This picture">
      <h2>{picture?.relativePath}</h2>
      <span className={styles.quiet}>
        {at + 1} of {pictures.length.toLocaleString('en-GB')}
        {touchUp.lookedAt && ' · ● looked at'}
        {picked.has(path) && ' · ■ picked'}
      </span>
      <NudgeButtons now={{ touchUp, macros, standing }} act={act} />
      <Actions
        latest={latest}
        act={act}
        isAside={touchUp.setAside}
        isLookedAt={touchUp.lookedAt}
        pickedOthers={picked.size - (picked.has(path) ? 1 : 0)}
        canUndo={touchUps.canUndo(path)}
        canRedo={touchUps.canRedo(path)}
        hasOwn={words.length > 0}
      />
      <ul className={styles.words} aria-label="What stands out">
        {marks.map((mark) => (
          <li key={mark}>▲ {mark}</li>
        ))}
      </ul>
      <ul className={styles.words} aria-label="Of its own">
        {words.length === 0 && <li className={styles.quiet}>As the loop makes it</li>}
        {words.map((part) => (
          <li key={part}>◆ {part}</li>
        ))}
      </ul>
    </aside>
  )
}

interface ActionsProps {
  latest: { readonly current: { readonly state: ProofState } }
  act(nudge: (now: Nudged) => TouchUp): void
  isAside: boolean
  isLookedAt: boolean
  /** How many other pictures are picked. */
  pickedOthers: number
  canUndo: boolean
  canRedo: boolean
  hasOwn: boolean
}

/** The rest of what can be done: drawn anew only where one of these changes, so that nudges are seen at once. */
const Actions = memo(function Actions(props: ActionsProps): ReactNode {
  const { latest, act, isAside, isLookedAt, pickedOthers, canUndo, canRedo, hasOwn } = props
  const [isFinding, setFinding] = useState(false)
  const { message } = App.useApp()
  const router = useRouter()
  const like = async (): Promise<void> => {
    setFinding(true)
    await latest.current.state.likeNeighbours()
    setFinding(false)
  }
  const step = (by: 1 | -1): void => {
    const { touchUps, path } = latest.current.state
    touchUps.step(path, by)
  }
  const openOnBench = async (): Promise<void> => {
    try {
      const { touchUps, path, touchUp, picked, proof } = latest.current.state
      await touchUps.stored()
      const back = `${window.location.pathname}?at=${encodeURIComponent(path)}`
      const { loopId, loop, macros } = proof
      const version = touchUps.version(path)
      await layPictureOnBench({ loopId, loop, sourcePath: path, macros, touchUp, version, picked: [...picked], back })
      // Who goes back with the browser finds the same picture, too.
      window.history.replaceState(null, '', back)
      router.push('/bench')
    } catch (problem) {
      void message.error(problem instanceof Error ? problem.message : String(problem), 8)
    }
  }
  const others = pickedOthers.toLocaleString('en-GB')
  return (
    <>
      <div className={styles.buttons}>
        <Button
          size="small"
          type={isAside ? 'primary' : 'default'}
          aria-pressed={isAside}
          onClick={() => act(({ touchUp }) => setAside(touchUp))}
        >
          Set aside
        </Button>
        <Button size="small" disabled={isLookedAt} onClick={() => act(({ touchUp }) => lookedAt(touchUp))}>
          Good
        </Button>
      </div>
      <div className={styles.buttons}>
        <Button
          size="small"
          loading={isFinding}
          onClick={() => void like()}
          title="Finds the exposure and white balance that bring this picture among the four before and after it, or among the picked ones"
        >
          {pickedOthers > 0 ? 'Like the picked ones' : 'Like its neighbours'}
        </Button>
        <Dropdown
          disabled={pickedOthers === 0}
          menu={{
            items: touchUpParts.map((part) => ({
              key: part,
              label: partWords[part],
              onClick: () => latest.current.state.giveToPicked(part),
            })),
          }}
        >
          <Button size="small">{pickedOthers > 0 ? `Same for ${others} picked` : 'Same for the picked'}</Button>
        </Dropdown>
      </div>
      <Button
        size="small"
        onClick={() => void openOnBench()}
        title="Lays the picture there with the loop’s steps and its own; what you change can be kept for this picture or for all"
      >
        Open on the bench
      </Button>
      <div className={styles.buttons}>
        <Button size="small" disabled={!canUndo} onClick={() => step(-1)}>
          Undo
        </Button>
        <Button size="small" disabled={!canRedo} onClick={() => step(1)}>
          Redo
        </Button>
        <Button size="small" disabled={!hasOwn} onClick={() => act(({ touchUp }) => ({ ...untouched, lookedAt: touchUp.lookedAt }))}>
          Take all back
        </Button>
      </div>
    </>
  )
})

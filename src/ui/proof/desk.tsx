import { App, Button, Dropdown } from 'antd'
import { useRouter } from 'next/navigation'
import { type ReactNode, useState } from 'react'
import { untouched } from '@/jobs/touch-up'
import type { SamplePictures } from '../bench/use-sample-pictures'
import { layPictureOnBench } from '../macros/lay-on-bench'
import { NudgeButtons } from './nudge-buttons'
import { type TouchUpPart, touchUpParts } from './nudges'
import styles from './proof.module.css'
import type { ProofState } from './use-proof-state'

const partWords: Readonly<Record<TouchUpPart, string>> = { all: 'All of it', light: 'Light and colour', frame: 'Frame, level and stamp' }

/** What is said of the picture in hand, and what can be done with it. */
export function Desk({ state, shown }: { state: ProofState; shown: SamplePictures }): ReactNode {
  const { picture, path, touchUp, touchUps, change, at, pictures, picked, proof } = state
  const [isFinding, setFinding] = useState(false)
  const { message } = App.useApp()
  const router = useRouter()
  const words = state.wordsOf(path)
  const marks = picture ? state.marksOf(picture) : []
  const others = [...picked].filter((other) => other !== path).length
  const like = async (): Promise<void> => {
    setFinding(true)
    await state.likeNeighbours()
    setFinding(false)
  }
  const openOnBench = async (): Promise<void> => {
    try {
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
  return (
    <aside className={styles.desk} aria-label="This picture">
      <h2>{picture?.relativePath}</h2>
      <span className={styles.quiet}>
        {at + 1} of {pictures.length.toLocaleString('en-GB')}
        {touchUp.lookedAt && ' · ● looked at'}
        {picked.has(path) && ' · ■ picked'}
      </span>
      <NudgeButtons touchUp={touchUp} path={path} shown={shown} change={change} macros={proof.macros} />
      <div className={styles.buttons}>
        <Button
          size="small"
          loading={isFinding}
          onClick={() => void like()}
          title="Finds the exposure and white balance that bring this picture among the four before and after it, or among the picked ones"
        >
          {others > 0 ? 'Like the picked ones' : 'Like its neighbours'}
        </Button>
        <Dropdown
          disabled={others === 0}
          menu={{
            items: touchUpParts.map((part) => ({ key: part, label: partWords[part], onClick: () => state.giveToPicked(part) })),
          }}
        >
          <Button size="small">{others > 0 ? `Same for ${others.toLocaleString('en-GB')} picked` : 'Same for the picked'}</Button>
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

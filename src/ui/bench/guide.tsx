'use client'

import { Button } from 'antd'
import Link from 'next/link'
import { memo, type ReactNode, useEffect, useState } from 'react'
import type { BenchDocument } from '@/macros/history'
import { isDraft } from '@/macros/macro'
import { newStep } from '@/macros/step'
import { useMacros } from '../api/queries'
import styles from './guide.module.css'
import { useBench } from './store'

const seenKey = 'copper-loop-guide-seen'

interface Lesson {
  readonly title: string
  readonly text: string
  /** What a person does here has been done. */
  done(document: BenchDocument, isOnShelf: boolean): boolean
}

const changed = ({ steps }: BenchDocument): boolean =>
  steps.some(({ operation, settings }) => JSON.stringify(settings) !== JSON.stringify(newStep(operation, '').settings))

const lessons: readonly Lesson[] = [
  {
    title: 'Press Record',
    text: 'At the lower right. While the line glows, every edit becomes a bead on it.',
    done: ({ recording, steps }) => recording !== null || steps.some((step) => step.kept),
  },
  {
    title: 'Add a step',
    text: 'The + on the line opens the list. Type “exp” and press Enter for Exposure.',
    done: ({ steps }) => steps.length > 0,
  },
  {
    title: 'Pull its slider',
    text: 'Exposure up to about +0.3, say. The pictures at the right all show it: see whether it suits them, too.',
    done: changed,
  },
  {
    title: 'Add what else you want, then Stop',
    text: 'Crop or Resize, say. Stop puts what you recorded on the shelf, as a draft.',
    done: ({ recording, steps }) => steps.length > 0 && recording === null,
  },
  {
    title: 'Give it a name',
    text: 'In the form that opened, or by Keep as macro. Then it can run over any folder.',
    done: (_, isOnShelf) => isOnShelf,
  },
]

/** A first recording in five short steps, beside the picture, for whoever has not made one. It follows what is done and can be left. */
export const Guide = memo(function Guide(): ReactNode {
  const ready = useBench((state) => state.ready)
  const document = useBench((state) => state.history.document)
  const macroId = useBench((state) => state.macroId)
  const { data: macros = [] } = useMacros()
  const isOnShelf = macros.some((macro) => macro.id === macroId && !isDraft(macro))
  const [shown, setShown] = useState(false)
  const [reached, setReached] = useState(0)
  useEffect(() => {
    if (ready) setShown(localStorage.getItem(seenKey) === null && useBench.getState().history.changes.length === 0)
  }, [ready])
  const isDone = lessons[reached]?.done(document, isOnShelf) ?? false
  useEffect(() => {
    if (shown && isDone) setReached((before) => before + 1)
  }, [shown, isDone])
  const leave = (): void => {
    localStorage.setItem(seenKey, new Date().toISOString())
    setShown(false)
  }
  if (!shown) return null
  const lesson = lessons[reached]
  return (
    <aside className={styles.guide} aria-label="First recording" aria-live="polite">
      <div className={styles.line} aria-hidden="true">
        {lessons.map(({ title }, i) => (
          <span key={title} data-done={i < reached || undefined} data-now={i === reached || undefined} />
        ))}
      </div>
      {lesson ? (
        <>
          <b>
            {reached + 1}. {lesson.title}
          </b>
          <p>{lesson.text}</p>
          <Button size="small" onClick={leave}>
            Skip
          </Button>
        </>
      ) : (
        <>
          <b>Your first macro is on the shelf</b>
          <p>Point a loop at a folder and it runs by itself.</p>
          <Link href="/loops" onClick={leave}>
            <Button size="small" type="primary" tabIndex={-1}>
              To the loops
            </Button>
          </Link>{' '}
          <Button size="small" onClick={leave}>
            Stay here
          </Button>
        </>
      )}
    </aside>
  )
})

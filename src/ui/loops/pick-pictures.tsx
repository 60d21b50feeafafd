'use client'

import { useQuery } from '@tanstack/react-query'
import { Button, Input, Modal, Space } from 'antd'
import { type ReactNode, useState } from 'react'
import { counted, formatBytes } from '@/base/format'
import type { IntakePictures } from '@/contract/answers'
import { routes } from '@/contract/routes'
import type { LoopIntake } from '@/jobs/loop'
import { call } from '../api/client'
import { focusOnceThere } from '../controls/focus-once-there'
import styles from './pick.module.css'
import { PickGrid } from './pick-grid'
import { extend, invert, meantBy, type Picking, pickAll, picking, toggle } from './picking'

interface Props {
  /** Nothing: nothing is picked now. */
  intake: LoopIntake | undefined
  onClose(): void
  onPick(paths: readonly string[]): void
}

/** Ticking pictures of an intake's folders. */
export function PickPictures({ intake, onClose, onPick }: Props): ReactNode {
  return (
    <Modal title="Which pictures" open={intake !== undefined} onCancel={onClose} width="min(1180px, 94vw)" footer={null} destroyOnHidden>
      {intake && <Loaded intake={intake} onPick={onPick} />}
    </Modal>
  )
}

function Loaded({ intake, onPick }: { intake: LoopIntake } & Pick<Props, 'onPick'>): ReactNode {
  const { data, error } = useQuery({
    queryKey: ['intake-pictures', intake],
    queryFn: () => call(routes.intakePictures, { body: intake }),
    staleTime: 0,
    gcTime: 0,
  })
  if (error) return <p>{error.message}</p>
  if (!data) return <p>Looking for pictures …</p>
  return <Ticking {...data} first={intake.picked ?? []} onPick={onPick} />
}

function Ticking({ pictures, of, first, onPick }: IntakePictures & { first: readonly string[] } & Pick<Props, 'onPick'>): ReactNode {
  const [state, setState] = useState<Picking>(() => picking(first))
  const [pattern, setPattern] = useState('')
  const shown = meantBy(pictures, pattern)
  const paths = shown.map(({ path }) => path)
  const here = new Set(pictures.map(({ path }) => path))
  const elsewhere = [...state.picked].filter((path) => !here.has(path))
  const bytes = pictures.reduce((sum, { path, bytes: size }) => (state.picked.has(path) ? sum + size : sum), 0)
  // In the order in which they lie here; what lies elsewhere comes after.
  const result = [...pictures.filter(({ path }) => state.picked.has(path)).map(({ path }) => path), ...elsewhere]
  return (
    <>
      <div className={styles.tools}>
        <Input
          allowClear
          size="small"
          ref={focusOnceThere}
          className={styles.pattern}
          aria-label="Only names with"
          placeholder="Only names with …, * for anything"
          value={pattern}
          onChange={(event) => setPattern(event.target.value)}
        />
        <Space.Compact size="small">
          <Button onClick={() => setState(pickAll(state, paths, true))}>All{pattern && ' of these'}</Button>
          <Button onClick={() => setState(pickAll(state, paths, false))}>None{pattern && ' of these'}</Button>
          <Button onClick={() => setState(invert(state, paths))}>The others</Button>
        </Space.Compact>
        <span className={styles.hint}>Shift and click for all in between; arrows, space, Ctrl or ⌘ A</span>
      </div>
      <PickGrid
        pictures={shown}
        picked={state.picked}
        onToggle={(index) => setState(toggle(state, paths, index))}
        onExtend={(index) => setState(extend(state, paths, index))}
        onAll={() => setState(pickAll(state, paths, true))}
      />
      <div className={styles.end}>
        <span aria-live="polite">
          {result.length.toLocaleString('en-GB')} of {counted(pictures.length, 'picture')}, {formatBytes(bytes)}
          {elsewhere.length > 0 && `; ${elsewhere.length.toLocaleString('en-GB')} of them from elsewhere, or gone`}
          {of > pictures.length && `; the first ${pictures.length.toLocaleString('en-GB')} of ${of.toLocaleString('en-GB')} are shown`}
        </span>
        <Button type="primary" disabled={result.length === 0} onClick={() => onPick(result)}>
          {result.length > 0 ? `Take ${counted(result.length, 'picture')}` : 'Take'}
        </Button>
      </div>
    </>
  )
}

import { Button, Checkbox, Popover } from 'antd'
import { memo, type ReactNode, useCallback, useState } from 'react'
import { type MarkKind, markKinds } from '@/pixels/traits'
import { useSetSilentMarks } from '../api/queries'
import { useLatest } from '../controls/use-latest'
import styles from './proof.module.css'

const kindWords: Readonly<Record<MarkKind, string>> = {
  light: 'Brighter or darker than the others',
  colour: 'Another colour than the others',
  clipped: 'Clipped, or nearly white',
  cut: 'A frame that cuts the subject',
  soft: 'Softer than the others',
  noise: 'Noisier than the others',
  tilt: 'A tilt left in',
}

/** What nobody wants to be told of: here, on the pages of runs and in their reports. */
export function useSilentKinds(
  stored: readonly MarkKind[],
  onProblem: (sentence: string) => void,
): readonly [ReadonlySet<MarkKind>, (silent: ReadonlySet<MarkKind>) => void] {
  const [silent, setSilent] = useState<ReadonlySet<MarkKind>>(() => new Set(stored))
  const store = useSetSilentMarks()
  const latest = useLatest({ store, onProblem })
  const change = useCallback(
    (next: ReadonlySet<MarkKind>): void => {
      setSilent(next)
      latest.current.store.mutate([...next], { onError: (problem) => latest.current.onProblem(problem.message) })
    },
    [latest],
  )
  return [silent, change]
}

interface Props {
  silent: ReadonlySet<MarkKind>
  onChange(silent: ReadonlySet<MarkKind>): void
}

/** What is told of pictures that stand out: each kind can be switched off. */
export const WhatStandsOut = memo(function WhatStandsOut({ silent, onChange }: Props): ReactNode {
  const toggle = (kind: MarkKind, told: boolean): void =>
    onChange(new Set(markKinds.filter((other) => (other === kind ? !told : silent.has(other)))))
  const list = (
    <ul className={styles.kinds}>
      {markKinds.map((kind) => (
        <li key={kind}>
          <Checkbox checked={!silent.has(kind)} onChange={({ target }) => toggle(kind, target.checked)}>
            {kindWords[kind]}
          </Checkbox>
        </li>
      ))}
    </ul>
  )
  return (
    <Popover content={list} title="Tell what stands out" trigger="click" placement="bottomLeft">
      <Button size="small">
        {silent.size === 0 ? 'What stands out' : `What stands out: ${markKinds.length - silent.size} of ${markKinds.length}`}
      </Button>
    </Popover>
  )
})

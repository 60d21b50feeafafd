import { Button } from 'antd'
import type { ReactNode } from 'react'
import { shortNumber, signedNumber } from '@/base/format'
import type { Proof } from '@/contract/answers'
import type { TouchUp } from '@/jobs/touch-up'
import {
  frameNudgePercent,
  frameSizeOf,
  lightNudgeEv,
  lightOf,
  lookedAt,
  setAside,
  warmthNudgeMired,
  warmthOf,
  withFrame,
  withFrameSize,
  withLight,
  withWarmth,
} from './nudges'
import styles from './proof.module.css'

interface NudgesProps {
  touchUp: TouchUp
  hasFrame: boolean
  macros: Proof['macros']
  change(next: TouchUp): void
}

/** What the keys do, as buttons with their values. */
export function NudgeButtons({ touchUp, hasFrame, macros, change }: NudgesProps): ReactNode {
  const move = (across: number, down: number) => () => change(withFrame(touchUp, macros, across, down))
  const framePercent = frameSizeOf(touchUp, macros)
  return (
    <>
      <Nudge
        name="Light"
        less={['Darker', () => change(withLight(touchUp, -lightNudgeEv))]}
        value={`${signedNumber(lightOf(touchUp), 2)} EV`}
        more={['Brighter', () => change(withLight(touchUp, lightNudgeEv))]}
      />
      <Nudge
        name="Colour"
        less={['Cooler', () => change(withWarmth(touchUp, -warmthNudgeMired))]}
        value={signedNumber(warmthOf(touchUp), 0)}
        more={['Warmer', () => change(withWarmth(touchUp, warmthNudgeMired))]}
      />
      {hasFrame && (
        <div className={styles.nudge}>
          <span>Frame</span>
          <Button size="small" aria-label="Frame to the left" onClick={move(-frameNudgePercent, 0)}>
            ←
          </Button>
          <Button size="small" aria-label="Frame up" onClick={move(0, -frameNudgePercent)}>
            ↑
          </Button>
          <Button size="small" aria-label="Frame down" onClick={move(0, frameNudgePercent)}>
            ↓
          </Button>
          <Button size="small" aria-label="Frame to the right" onClick={move(frameNudgePercent, 0)}>
            →
          </Button>
        </div>
      )}
      {framePercent !== undefined && (
        <Nudge
          name="Size"
          less={['Smaller', () => change(withFrameSize(touchUp, macros, -frameNudgePercent))]}
          value={`${shortNumber(framePercent)} %`}
          more={['Larger', () => change(withFrameSize(touchUp, macros, frameNudgePercent))]}
        />
      )}
      <div className={styles.buttons}>
        <Button
          size="small"
          type={touchUp.setAside ? 'primary' : 'default'}
          aria-pressed={touchUp.setAside}
          onClick={() => change(setAside(touchUp))}
        >
          Set aside
        </Button>
        <Button size="small" disabled={touchUp.lookedAt} onClick={() => change(lookedAt(touchUp))}>
          Good
        </Button>
      </div>
    </>
  )
}

interface NudgeProps {
  name: string
  /** What the button says, and does. */
  less: readonly [string, () => void]
  value: string
  more: readonly [string, () => void]
}

function Nudge({ name, less, value, more }: NudgeProps): ReactNode {
  return (
    <div className={styles.nudge}>
      <span>{name}</span>
      <Button size="small" onClick={less[1]}>
        {less[0]}
      </Button>
      <code>{value}</code>
      <Button size="small" onClick={more[1]}>
        {more[0]}
      </Button>
    </div>
  )
}

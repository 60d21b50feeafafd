import { Button } from 'antd'
import type { ReactNode } from 'react'
import { shortNumber, signedNumber } from '@/base/format'
import type { Proof } from '@/contract/answers'
import type { TouchUp } from '@/jobs/touch-up'
import type { SamplePictures } from '../bench/use-sample-pictures'
import {
  framedStep,
  frameNudgePercent,
  frameSizeOf,
  handledIds,
  levelNudgeDegrees,
  levelOf,
  lightNudgeEv,
  lightOf,
  lookedAt,
  setAside,
  stampedStep,
  warmthNudgeMired,
  warmthOf,
  withFrame,
  withFrameSize,
  withLevel,
  withLight,
  withStampAt,
  withWarmth,
} from './nudges'
import styles from './proof.module.css'
import { useStanding } from './use-wishes'

const stampCorners = [
  { sign: '↖', name: 'at the upper left', at: [0, 0] },
  { sign: '↗', name: 'at the upper right', at: [100, 0] },
  { sign: '↘', name: 'at the lower right', at: [100, 100] },
  { sign: '↙', name: 'at the lower left', at: [0, 100] },
] as const

interface NudgesProps {
  touchUp: TouchUp
  macros: Proof['macros']
  path: string
  shown: SamplePictures
  change(next: TouchUp): void
}

/** What the keys do, as buttons with their values. */
export function NudgeButtons({ touchUp, macros, path, shown, change }: NudgesProps): ReactNode {
  const standing = useStanding(shown, path, handledIds(macros))
  const move = (across: number, down: number) => () => change(withFrame(touchUp, macros, [across, down], standing))
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
      {framedStep(macros) && (
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
      <Nudge
        name="Level"
        less={['↺', () => change(withLevel(touchUp, macros, -levelNudgeDegrees, standing)), 'Turn back by a tenth of a degree']}
        value={`${signedNumber(levelOf(touchUp, macros, standing), 1)}°`}
        more={['↻', () => change(withLevel(touchUp, macros, levelNudgeDegrees, standing)), 'Turn by a tenth of a degree']}
      />
      {stampedStep(macros) && (
        <div className={styles.nudge}>
          <span>Stamp</span>
          {stampCorners.map(({ sign, name, at }) => (
            <Button key={sign} size="small" aria-label={`Stamp ${name}`} onClick={() => change(withStampAt(touchUp, macros, at))}>
              {sign}
            </Button>
          ))}
        </div>
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

type NudgeButton = readonly [says: string, does: () => void, name?: string]

interface NudgeProps {
  name: string
  /** What the button says, and does; its name, where it is a sign. */
  less: NudgeButton
  value: string
  more: NudgeButton
}

function Nudge({ name, less, value, more }: NudgeProps): ReactNode {
  return (
    <div className={styles.nudge}>
      <span>{name}</span>
      <Button size="small" onClick={less[1]} aria-label={less[2]}>
        {less[0]}
      </Button>
      <code>{value}</code>
      <Button size="small" onClick={more[1]} aria-label={more[2]}>
        {more[0]}
      </Button>
    </div>
  )
}

import { Button } from 'antd'
import { memo, type ReactNode } from 'react'
import { shortNumber, signedNumber } from '@/base/format'
import type { Proof } from '@/contract/answers'
import type { TouchUp } from '@/jobs/touch-up'
import {
  framedStep,
  frameNudgePercent,
  frameSizeOf,
  levelNudgeDegrees,
  levelOf,
  lightNudgeEv,
  lightOf,
  type StandingSteps,
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

/** What a nudge is made of: the picture's touch-up at this moment, and how the loop's steps stand on it. */
export interface Nudged {
  readonly touchUp: TouchUp
  readonly macros: Proof['macros']
  readonly standing: StandingSteps
}
type Nudge = (now: Nudged) => TouchUp

interface NudgeButton {
  readonly says: string
  /** Its name, where what it says is a sign. */
  readonly name?: string
  readonly does: Nudge
}

/** What is nudged in two directions, with its value between them; undefined where the loop has no such thing. */
interface ValueRow {
  readonly name: string
  readonly less: NudgeButton
  value(now: Nudged): string | undefined
  readonly more: NudgeButton
}

const light: ValueRow = {
  name: 'Light',
  less: { says: 'Darker', does: ({ touchUp }) => withLight(touchUp, -lightNudgeEv) },
  value: ({ touchUp }) => `${signedNumber(lightOf(touchUp), 2)} EV`,
  more: { says: 'Brighter', does: ({ touchUp }) => withLight(touchUp, lightNudgeEv) },
}
const colour: ValueRow = {
  name: 'Colour',
  less: { says: 'Cooler', does: ({ touchUp }) => withWarmth(touchUp, -warmthNudgeMired) },
  value: ({ touchUp }) => signedNumber(warmthOf(touchUp), 0),
  more: { says: 'Warmer', does: ({ touchUp }) => withWarmth(touchUp, warmthNudgeMired) },
}
const frameSize: ValueRow = {
  name: 'Size',
  less: { says: 'Smaller', does: ({ touchUp, macros }) => withFrameSize(touchUp, macros, -frameNudgePercent) },
  value: ({ touchUp, macros }) => {
    const percent = frameSizeOf(touchUp, macros)
    return percent === undefined ? undefined : `${shortNumber(percent)} %`
  },
  more: { says: 'Larger', does: ({ touchUp, macros }) => withFrameSize(touchUp, macros, frameNudgePercent) },
}
const levelBy =
  (degrees: number): Nudge =>
  ({ touchUp, macros, standing }) =>
    withLevel(touchUp, macros, degrees, standing)
const level: ValueRow = {
  name: 'Level',
  less: { says: '↺', name: 'Turn back by a tenth of a degree', does: levelBy(-levelNudgeDegrees) },
  value: ({ touchUp, macros, standing }) => `${signedNumber(levelOf(touchUp, macros, standing), 1)}°`,
  more: { says: '↻', name: 'Turn by a tenth of a degree', does: levelBy(levelNudgeDegrees) },
}

const moveBy =
  (across: number, down: number): Nudge =>
  ({ touchUp, macros, standing }) =>
    withFrame(touchUp, macros, [across, down], standing)
const frameMoves: readonly NudgeButton[] = [
  { says: '←', name: 'Frame to the left', does: moveBy(-frameNudgePercent, 0) },
  { says: '↑', name: 'Frame up', does: moveBy(0, -frameNudgePercent) },
  { says: '↓', name: 'Frame down', does: moveBy(0, frameNudgePercent) },
  { says: '→', name: 'Frame to the right', does: moveBy(frameNudgePercent, 0) },
]

const stampAt =
  (across: number, down: number): Nudge =>
  ({ touchUp, macros }) =>
    withStampAt(touchUp, macros, [across, down])
const stampCorners: readonly NudgeButton[] = [
  { says: '↖', name: 'Stamp at the upper left', does: stampAt(0, 0) },
  { says: '↗', name: 'Stamp at the upper right', does: stampAt(100, 0) },
  { says: '↘', name: 'Stamp at the lower right', does: stampAt(100, 100) },
  { says: '↙', name: 'Stamp at the lower left', does: stampAt(0, 100) },
]

interface Props {
  now: Nudged
  /** Always the same: rows whose value stays are not drawn anew. */
  act(nudge: Nudge): void
}

/** What the keys do, as buttons with their values. */
export function NudgeButtons({ now, act }: Props): ReactNode {
  return (
    <>
      <Row row={light} value={light.value(now)} act={act} />
      <Row row={colour} value={colour.value(now)} act={act} />
      {framedStep(now.macros) && <Buttons name="Frame" buttons={frameMoves} act={act} />}
      <Row row={frameSize} value={frameSize.value(now)} act={act} />
      <Row row={level} value={level.value(now)} act={act} />
      {stampedStep(now.macros) && <Buttons name="Stamp" buttons={stampCorners} act={act} />}
    </>
  )
}

interface RowProps extends Pick<Props, 'act'> {
  row: ValueRow
  value: string | undefined
}

const Row = memo(function Row({ row, value, act }: RowProps): ReactNode {
  if (value === undefined) return null
  return (
    <div className={styles.nudge}>
      <span>{row.name}</span>
      <OneButton button={row.less} act={act} />
      <code>{value}</code>
      <OneButton button={row.more} act={act} />
    </div>
  )
})

const Buttons = memo(function Buttons({ name, buttons, act }: Pick<Props, 'act'> & { name: string; buttons: readonly NudgeButton[] }) {
  return (
    <div className={styles.nudge}>
      <span>{name}</span>
      {buttons.map((button) => (
        <OneButton key={button.says} button={button} act={act} />
      ))}
    </div>
  )
})

const OneButton = memo(function OneButton({ button, act }: Pick<Props, 'act'> & { button: NudgeButton }): ReactNode {
  return (
    <Button size="small" aria-label={button.name} onClick={() => act(button.does)}>
      {button.says}
    </Button>
  )
})

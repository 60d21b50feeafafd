import { dirname } from 'node:path'
import type { Delivery } from '@/jobs/delivery'
import { intakeOf, newLoop } from '@/jobs/loop'
import { onePictureId } from '@/jobs/run'
import { checkSteps } from '@/macros/codec'
import type { Step } from '@/macros/step'
import type { Context } from '../context'
import type { Watcher } from '../preflight/intake'
import { startRun } from './start'
import type { RunSummary } from './summary'

/** A picture to be delivered by itself: what it is put through, and as what it goes where. */
export interface OnePicture {
  readonly sourcePath: string
  readonly steps: readonly Step[]
  readonly delivery: Delivery
}

/**
 * Delivers one picture now, before all else that waits: a run like any other, of no loop.
 * @throws AppError `macroInvalid`, `loopNotReady`
 */
export async function deliverPicture(
  context: Context,
  { sourcePath, steps, delivery }: OnePicture,
  watcher: Watcher = {},
): Promise<RunSummary> {
  checkSteps(steps)
  const loop = newLoop(onePictureId, { name: 'One picture', intake: intakeOf(dirname(sourcePath)), deliveries: [delivery] })
  const macros = steps.length > 0 ? [{ macroId: onePictureId, revision: 1, name: 'These steps', steps }] : []
  return startRun(context, loop, { files: [sourcePath], macros, isFirst: true }, watcher)
}

import type { LoopIntake } from '@/jobs/loop'
import { intakeOf, maxPicked, newLoop } from '@/jobs/loop'
import type { Context } from './context'
import { findPictures, type Watcher } from './preflight/intake'

/** A picture to pick: its path, its path from the intake folder, its size in bytes. */
export interface PickablePicture {
  readonly path: string
  readonly relativePath: string
  readonly bytes: number
}

/** Pictures to pick from, in the order of the intake. */
export interface IntakePictures {
  readonly pictures: readonly PickablePicture[]
  /** How many there are in all, where that is more than can be picked. */
  readonly of: number
}

/** All that lies in an intake's folders, whatever was picked or filtered; empty where there is nothing, or no folder yet. */
export async function intakePictures(context: Context, intake: LoopIntake, watcher: Watcher = {}): Promise<IntakePictures> {
  const all = intakeOf(intake.folder, { ...intake, picked: null, only: [], asked: false })
  const { found } = await findPictures(context, newLoop('all', { intake: all }), () => undefined, watcher)
  const pictures = found.slice(0, maxPicked).map(({ path, relativePath, sizeBytes }) => ({ path, relativePath, bytes: sizeBytes }))
  return { pictures, of: found.length }
}

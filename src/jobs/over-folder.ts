import { deliveryForNeed, folderForNeed, type StandingNeed } from './delivery'
import { intakeOf, type Loop, type MacroUse, newLoop } from './loop'

/** A job that is made in one go: which pictures, what they are put through, and which of the standing needs they serve. */
export interface OverFolder {
  readonly id: string
  readonly name: string
  readonly folder: string
  readonly subfolders: boolean
  readonly macros: readonly MacroUse[]
  readonly need: StandingNeed['key']
  /** Where to; nothing: beside the pictures. */
  readonly deliverTo: string | null
  /** Names of the files; nothing: those that the need has. */
  readonly namePattern: string | null
}

const withoutSlash = (path: string): string => path.replace(/\/+$/, '')

/**
 * A folder beside the one that is taken, named after it and the need. What is a root itself has nothing beside it that may be written to:
 * nothing then.
 */
export function besideFolder(folder: string, key: string, roots: readonly string[]): string {
  const whole = withoutSlash(folder)
  return whole === '' || roots.some((root) => withoutSlash(root) === whole) ? '' : `${whole}-${folderForNeed(key)}`
}

/** The names that a need gives files. */
export const patternOf = (key: string): string => deliveryForNeed('', key, '').namePattern

/** The loop that such a job is. @param roots folders that may be used */
export const loopOver = (
  { id, name, folder, subfolders, macros, need, deliverTo, namePattern }: OverFolder,
  roots: readonly string[],
): Loop => {
  const delivery = deliveryForNeed(`${id}-1`, need, deliverTo ?? besideFolder(folder, need, roots))
  return newLoop(id, {
    name,
    intake: intakeOf(folder, { subfolders }),
    macros: [...macros],
    deliveries: [namePattern === null ? delivery : { ...delivery, namePattern }],
  })
}

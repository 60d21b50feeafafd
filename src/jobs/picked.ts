import { folderOf } from '@/base/paths'
import { deliveryForNeed } from './delivery'
import { intakeOf, type Loop, newLoop } from './loop'
import { besideFolder } from './over-folder'

/* Loops that take just the pictures that were picked for them. */

/** The innermost folder that all of the paths lie in; nothing where they share none. */
export function commonFolder(paths: readonly string[]): string {
  const [first = [], ...others] = paths.map((path) => folderOf(path).split('/'))
  const depth = first.findIndex((part, i) => others.some((other) => other[i] !== part))
  return first.slice(0, depth < 0 ? first.length : depth).join('/')
}

/** A loop of its own for some pictures: a web set beside their folder, to start from. @param roots folders that may be used */
export function loopOfPicked(id: string, name: string, paths: readonly string[], roots: readonly string[]): Loop {
  const folder = commonFolder(paths)
  return newLoop(id, {
    name,
    intake: intakeOf(folder, { picked: [...paths] }),
    deliveries: [deliveryForNeed(`${id}-1`, 'web', besideFolder(folder, 'web', roots))],
  })
}

/** A loop that takes these from now on; one that takes picked pictures already takes these besides. */
export function takingPicked(loop: Loop, paths: readonly string[]): Loop {
  const picked = [...new Set([...(loop.intake.picked ?? []), ...paths])]
  return { ...loop, intake: { ...loop.intake, folder: loop.intake.folder || commonFolder(picked), picked } }
}

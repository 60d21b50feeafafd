import type { SharedFolders } from './folders'
import type { MainSign, SharedRoot } from './messages'
import type { SignedFolder } from './root-signs-child'

/*
 * Whether a station and its main machine go together. Each check says in a sentence what is wrong and what to do.
 */

/** Clocks may differ by so much. */
const maxClockMs = 60_000
/** Space a station needs for itself, for files kept with macros and its logs. */
const minFreeBytes = 200e6

/** Which Copper Loop a machine has. */
export type BuildOf = Pick<MainSign, 'build' | 'version'>

export function problemOfBuild(main: BuildOf, station: BuildOf): string | undefined {
  if (main.build === station.build) return undefined
  return main.version === station.version
    ? `The main machine’s Copper Loop ${main.version} was built from other code than this one (${main.build}, here ${station.build}). Bring both to the same state and build anew.`
    : `The main machine has Copper Loop ${main.version}, this station ${station.version}. Bring both to the same version.`
}

export function problemOfRoots(roots: readonly SharedRoot[], folders: SharedFolders): string | undefined {
  if (roots.length === 0) return 'The main machine shares no folder. Name its folders in Settings.'
  const missing = roots.find((root) => folders.hereOf(root) === undefined)
  return missing && `The main machine’s folder ${missing.path} has no place here. Say where it is: --root /where/it/is/here=${missing.path}`
}

export function problemOfClock(main: Pick<MainSign, 'at'>, now: number): string | undefined {
  const apart = Math.abs(main.at - now)
  return apart > maxClockMs
    ? `The clocks of the main machine and this station are ${Math.round(apart / 1000)} s apart. Let both be set over the network.`
    : undefined
}

export const problemOfSpace = (freeBytes: number): string | undefined =>
  freeBytes < minFreeBytes
    ? `Only ${Math.floor(freeBytes / 1e6)} MB are free in this station’s own folder; it needs ${minFreeBytes / 1e6}.`
    : undefined

/** The main machine's folders as they are called here, with the signs that they should bear. */
export const rootsHere = (roots: readonly SharedRoot[], folders: SharedFolders): SignedFolder[] =>
  roots.flatMap((root) => {
    const path = folders.hereOf(root)
    return path === undefined ? [] : [{ path, sign: root.sign }]
  })

import { scanIntake } from '@/files/scan'
import type { Loop } from '@/jobs/loop'
import { changesNothing, checkTouchUp, lostSteps, type TouchUp } from '@/jobs/touch-up'
import { readTouchUpFile, type TouchUpFile, writeTouchUpFile } from '@/jobs/touch-up-file'
import type { FrozenMacro } from '@/store/schema'
import * as store from '@/store/touch-ups'
import type { Context } from './context'
import { loopById } from './loops'
import { frozenMacros } from './preflight/frozen-macros'
import { identify } from './touch-ups'

/** All that pictures of a loop have of their own, as one file. */
export function exportTouchUps(context: Context, loopId: string): string {
  const loop = loopById(context, loopId)
  const root = loop.intake.folder
  const pictures = store
    .listTouchUps(context.db, loopId)
    .map((stored) => ({ stored, touchUp: store.inForce(stored) }))
    .filter(({ touchUp }) => !changesNothing(touchUp) || touchUp.lookedAt)
    .map(({ stored: { sourcePath, sizeBytes, sourceHash }, touchUp }) => ({
      picture: sourcePath.startsWith(`${root}/`) ? sourcePath.slice(root.length + 1) : sourcePath,
      sizeBytes,
      sha256: sourceHash,
      touchUp,
    }))
  const macros = frozenMacros(context, loop, () => undefined).map(({ macroId, name }) => ({ macroId, name }))
  return writeTouchUpFile({ loop: loop.name, macros, pictures })
}

/** What came of a file of touch-ups. */
export interface ImportedTouchUps {
  readonly taken: number
  /** Pictures of the file that the loop does not have. */
  readonly unknown: readonly string[]
  /** Pictures that have the name but not the content any more: their touch-ups are taken all the same. */
  readonly changed: readonly string[]
}

/**
 * Takes touch-ups in from a file: for pictures of the loop with the same content, else with the same name. What a picture had before can
 * be had back with Undo. Nothing is taken from a file that can't be read as a whole.
 * @throws AppError `touchUpFileInvalid`, `touchUpInvalid`, `macroInvalid`
 */
export async function importTouchUps(context: Context, loopId: string, text: string): Promise<ImportedTouchUps> {
  const loop = loopById(context, loopId)
  const file = readTouchUpFile(text)
  const macros = frozenMacros(context, loop, () => undefined)
  const wanted = file.pictures.map((entry) => ({ ...entry, touchUp: checkTouchUp(readdressed(file, macros, entry.touchUp), macros) }))
  const known = await picturesOf(context, loop, new Set(wanted.map(({ sizeBytes }) => sizeBytes)))
  const [unknown, changed]: [string[], string[]] = [[], []]
  let taken = 0
  for (const { picture, sha256, touchUp } of wanted) {
    const same = known.byHash.get(sha256)
    const source = same ?? (await known.byName(picture))
    if (!source) {
      unknown.push(picture)
      continue
    }
    if (!same) changed.push(picture)
    const version = store.findTouchUp(context.db, loopId, source.sourcePath)?.version ?? 0
    if (store.pushTouchUp(context.db, { loopId, ...source }, touchUp, { version, now: Date.now() })) taken++
  }
  return { taken, unknown, changed }
}

/** A file from elsewhere names macros by the ids they have there: one of the same name is taken for it. */
function readdressed(file: TouchUpFile, macros: readonly FrozenMacro[], touchUp: TouchUp): TouchUp {
  const idHere = (macroId: string): string => {
    if (macros.some((macro) => macro.macroId === macroId)) return macroId
    const name = file.macros.find((macro) => macro.macroId === macroId)?.name
    return macros.find((macro) => macro.name === name)?.macroId ?? macroId
  }
  const here = <T extends { readonly macroId: string }>(address: T): T => ({ ...address, macroId: idHere(address.macroId) })
  return { ...touchUp, settings: touchUp.settings.map(here), without: touchUp.without.map(here) }
}

type Source = Omit<Parameters<typeof store.pushTouchUp>[1], 'loopId'>

/** The loop's pictures by content, where their size is one of those that are wanted, and by name. */
async function picturesOf(context: Context, loop: Loop, sizes: ReadonlySet<number>) {
  const { folder, subfolders } = loop.intake
  const { found } = await scanIntake({ folder: context.roots.check(folder), subfolders })
  const byHash = new Map<string, Source>()
  const identified = async (path: string): Promise<Source> => ({ sourcePath: path, ...(await identify(context, path)) })
  for (const { path, sizeBytes } of found) {
    if (!sizes.has(sizeBytes)) continue
    const source = await identified(path).catch(() => undefined)
    if (source) byHash.set(source.sourceHash, source)
  }
  const byName = async (picture: string): Promise<Source | undefined> => {
    const there = found.find(({ relativePath }) => relativePath === picture)
    return there && identified(there.path).catch(() => undefined)
  }
  return { byHash, byName }
}

/**
 * Drops from touch-ups what they have at steps that the loop's macros have no more; it can be had back with Undo.
 * @returns how many pictures that was
 */
export function dropLostSteps(context: Context, loopId: string): number {
  const macros = frozenMacros(context, loopById(context, loopId), () => undefined)
  let dropped = 0
  for (const stored of store.listTouchUps(context.db, loopId)) {
    const touchUp = store.inForce(stored)
    const lost = lostSteps(macros, touchUp)
    if (lost.length === 0) continue
    const isThere = ({ macroId, stepId }: (typeof lost)[number]): boolean =>
      !lost.some((address) => address.macroId === macroId && address.stepId === stepId)
    const next = { ...touchUp, settings: touchUp.settings.filter(isThere), without: touchUp.without.filter(isThere) }
    const { loopId: of, sourcePath, sizeBytes, modifiedMs, sourceHash, version } = stored
    if (store.pushTouchUp(context.db, { loopId: of, sourcePath, sizeBytes, modifiedMs, sourceHash }, next, { version, now: Date.now() }))
      dropped++
  }
  return dropped
}

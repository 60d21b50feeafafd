import { createHash } from 'node:crypto'
import { stat } from 'node:fs/promises'
import { basename } from 'node:path'
import { AppError } from '@/base/errors'
import { openRegular } from '@/files/open-file'
import type { FoundPicture } from '@/files/scan'
import type { Loop } from '@/jobs/loop'
import { changesNothing, checkTouchUp, type TouchUp } from '@/jobs/touch-up'
import * as store from '@/store/touch-ups'
import type { Context } from './context'
import { loopById } from './loops'
import { frozenMacros } from './preflight/frozen-macros'

/** A picture's touch-up as a page shows it. */
export interface ShownTouchUp {
  readonly sourcePath: string
  readonly touchUp: TouchUp
  readonly version: number
  readonly canUndo: boolean
  readonly canRedo: boolean
}

const silent = (): void => undefined

function shown(stored: store.StoredTouchUp): ShownTouchUp {
  const { sourcePath, version, cursor, states } = stored
  return { sourcePath, touchUp: store.inForce(stored), version, canUndo: cursor > 0, canRedo: cursor < states.length }
}

/** All that pictures of a loop have of their own. */
export const touchUpsOf = ({ db }: Context, loopId: string): ShownTouchUp[] => store.listTouchUps(db, loopId).map(shown)

function one({ db }: Context, loopId: string, sourcePath: string): ShownTouchUp {
  const stored = store.findTouchUp(db, loopId, sourcePath)
  if (!stored) throw new AppError('notFound', { what: 'The touch-up' })
  return shown(stored)
}

type Content = Pick<store.StoredTouchUp, 'sizeBytes' | 'modifiedMs' | 'sourceHash'>

/**
 * A file's size, time and SHA-256 as it is now; a file that is as it was known is not read again, since every nudge comes here.
 * @throws AppError for what can't be read
 */
export async function identify(context: Context, path: string, known?: Content): Promise<Content> {
  const file = await openRegular(context.roots.check(path), context.roots)
  try {
    const { size, mtimeMs } = await file.stat()
    const now = { sizeBytes: size, modifiedMs: Math.floor(mtimeMs) }
    if (known?.sizeBytes === now.sizeBytes && known.modifiedMs === now.modifiedMs) return { ...now, sourceHash: known.sourceHash }
    const hash = createHash('sha256')
    for await (const piece of file.createReadStream({ autoClose: false })) hash.update(piece)
    return { ...now, sourceHash: hash.digest('hex') }
  } finally {
    await file.close()
  }
}

export interface TouchUpEdit {
  readonly loopId: string
  readonly sourcePath: string
  /** Not yet checked. */
  readonly touchUp: unknown
  /** The version that was changed; 0 for a picture that was never touched up. */
  readonly version: number
}

/**
 * Gives a picture of a loop a new touch-up. It is kept with the picture's content, so that it is found again wherever the picture goes.
 * @throws AppError `touchUpInvalid`, `touchUpMoved` when another window was faster, and what reading a file throws
 */
export async function touchUpPicture(context: Context, { loopId, sourcePath, touchUp, version }: TouchUpEdit): Promise<ShownTouchUp> {
  const loop = loopById(context, loopId)
  const checked = checkTouchUp(touchUp, frozenMacros(context, loop, silent))
  const path = context.roots.check(sourcePath)
  const known = store.findTouchUp(context.db, loopId, path)
  const source = { loopId, sourcePath: path, ...(await identify(context, path, known)) }
  if (!store.pushTouchUp(context.db, source, checked, { version, now: Date.now() })) throw new AppError('touchUpMoved')
  return one(context, loopId, path)
}

export interface TouchUpStep {
  readonly loopId: string
  readonly sourcePath: string
  readonly version: number
}

/** Takes a picture's last change back (−1), or makes it again (1). @throws AppError `touchUpMoved`, `notFound` */
export function stepTouchUp(context: Context, { version, ...which }: TouchUpStep, by: 1 | -1): ShownTouchUp {
  if (!store.stepTouchUp(context.db, which, by, { version, now: Date.now() })) throw new AppError('touchUpMoved')
  return one(context, which.loopId, which.sourcePath)
}

/** What was found out about pictures and their touch-ups. */
export interface MatchedTouchUps {
  readonly byPath: ReadonlyMap<string, TouchUp>
  /** Names of pictures whose file was changed since: the touch-up stays with the path. */
  readonly changed: readonly string[]
  /** Names of pictures that have something of their own and are not in the intake any more. */
  readonly gone: readonly string[]
}

/**
 * The touch-ups of pictures: by their path, else by their content. A picture that was moved or renamed takes its touch-up along.
 * Only files as large as one that is missing are read for that.
 */
export async function matchTouchUps(context: Context, loop: Loop, found: readonly FoundPicture[]): Promise<MatchedTouchUps> {
  const stored = new Map(store.listTouchUps(context.db, loop.id).map((each) => [each.sourcePath, each]))
  const byPath = new Map<string, TouchUp>()
  const changed: string[] = []
  const there = new Set(found.map(({ path }) => path))
  const met = new Set<string>()
  const missing = [...stored.values()].filter(({ sourcePath }) => !there.has(sourcePath))
  for (const picture of found) {
    const own = stored.get(picture.path)
    if (own) {
      if (own.sizeBytes !== picture.sizeBytes || own.modifiedMs !== picture.modifiedMs) changed.push(basename(picture.path))
      byPath.set(picture.path, store.inForce(own))
      continue
    }
    const candidates = missing.filter(({ sizeBytes }) => sizeBytes === picture.sizeBytes)
    if (candidates.length === 0) continue
    const now = await identify(context, picture.path).catch(() => undefined)
    const moved = candidates.find(({ sourceHash }) => sourceHash === now?.sourceHash)
    // Where the old path is still there the picture was copied: the copy has the same touch-up, the original keeps its own.
    if (!moved || !now) continue
    const isGone = !(await stat(moved.sourcePath).catch(() => undefined))
    met.add(moved.sourcePath)
    if (isGone) store.moveTouchUp(context.db, moved, { sourcePath: picture.path, ...now })
    byPath.set(picture.path, store.inForce(moved))
  }
  // Whether somebody has looked at it makes no other picture.
  const made = [...byPath]
    .filter(([, touchUp]) => !changesNothing(touchUp))
    .map(([path, touchUp]) => [path, { ...touchUp, lookedAt: false }] as const)
  const gone = missing
    .filter((one) => !met.has(one.sourcePath) && !changesNothing(store.inForce(one)))
    .map(({ sourcePath }) => basename(sourcePath))
  return { byPath: new Map(made), changed, gone }
}

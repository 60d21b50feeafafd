import { randomUUID } from 'node:crypto'
import { AppError } from '@/base/errors'
import { freeName, isTaken } from '@/base/free-name'
import { checkMacro, checkSteps, type GivenMacro, macroLimits, readMacroFile, unknownOperations, writeMacroFile } from '@/macros/codec'
import type { Macro } from '@/macros/macro'
import { completeSteps, readSteps, type Step } from '@/macros/step'
import * as store from '@/store/macros'
import type { Context } from './context'

export interface ShelfMacro extends Macro {
  readonly id: string
  readonly revision: number
  readonly updatedAt: number
  /** The macro as plain numbered sentences. */
  readonly reading: string
  /** Names of loops that use it. */
  readonly usedBy: readonly string[]
  /** It needs operations that this version does not have. */
  readonly needsNewer: boolean
}

function toShelf(stored: store.StoredMacro, usedBy: readonly string[]): ShelfMacro {
  const steps = completeSteps(stored.steps)
  return { ...stored, steps, usedBy, reading: readSteps(steps), needsNewer: unknownOperations(steps).length > 0 }
}

export function shelf(context: Context, loops: readonly { name: string; macros: readonly { macroId: string }[] }[]): ShelfMacro[] {
  return store.listMacros(context.db).map((macro) =>
    toShelf(
      macro,
      loops.filter((loop) => loop.macros.some((use) => use.macroId === macro.id)).map((loop) => loop.name),
    ),
  )
}

/** @throws AppError `notFound` */
export function macroById({ db }: Context, id: string, revision: number | null = null): ShelfMacro {
  const stored = store.findMacro(db, id, revision)
  if (!stored) throw new AppError('notFound', { what: 'The macro' })
  return toShelf(stored, [])
}

/** What the macros on the shelf are called, but for one. */
const namesOnShelf = ({ db }: Context, butFor?: string) => store.listNames(db).filter(({ id }) => id !== butFor)

/** Puts a macro on the shelf as r1. @throws AppError `macroInvalid`, `nameTaken` */
export function keepMacro(context: Context, given: GivenMacro): ShelfMacro {
  const macro = checkMacro(given)
  if (isTaken(macro.name, namesOnShelf(context))) throw new AppError('nameTaken', { name: macro.name })
  return putOnShelf(context, macro)
}

/** Room that a number behind a name takes. */
const numberLength = 6

/** The same for what comes from elsewhere: where its name is taken, a number stands behind it. @throws AppError `macroInvalid` */
export function keepNumbered(context: Context, given: GivenMacro): ShelfMacro {
  const macro = checkMacro(given)
  return putOnShelf(context, {
    ...macro,
    name: freeName(macro.name.slice(0, macroLimits.nameLength - numberLength), namesOnShelf(context)),
  })
}

function putOnShelf(context: Context, macro: Macro): ShelfMacro {
  const id = randomUUID()
  store.insertMacro(context.db, { id, ...macro }, Date.now())
  return macroById(context, id)
}

/** Keeps steps as the macro's next revision. @throws AppError `notFound`, `macroInvalid` */
export function reviseMacro(context: Context, id: string, steps: readonly unknown[]): ShelfMacro {
  macroById(context, id)
  checkSteps(steps)
  store.addRevision(context.db, id, steps, Date.now())
  return macroById(context, id)
}

export const importMacro = (context: Context, text: string): ShelfMacro => keepNumbered(context, readMacroFile(text))

export const exportMacro = (context: Context, id: string): string => writeMacroFile(macroById(context, id))

export function binMacro(context: Context, id: string): void {
  macroById(context, id)
  store.binMacro(context.db, id, Date.now())
}

/** How long a macro can be taken back out of the bin. */
const graceMs = 30 * 24 * 3600 * 1000

export interface BinnedMacro {
  readonly id: string
  readonly name: string
  readonly deletedAt: number
  /** After this it is gone for good. */
  readonly goneAt: number
}

/** What lies in the bin; whatever has lain there for thirty days is gone. */
export function binned({ db }: Context): BinnedMacro[] {
  store.emptyBin(db, Date.now() - graceMs)
  return store.listBinned(db).map((macro) => ({ ...macro, goneAt: macro.deletedAt + graceMs }))
}

/** Takes a macro back out of the bin; where its name has been taken meanwhile, a number stands behind it. */
export function restoreMacro(context: Context, id: string): ShelfMacro {
  store.binMacro(context.db, id, null)
  const { name, notes, tags } = macroById(context, id)
  const free = freeName(name, namesOnShelf(context, id))
  if (free !== name) store.describeMacro(context.db, id, { name: free, notes, tags }, Date.now())
  return macroById(context, id)
}

/** Changes name, notes and tags. @throws AppError `notFound`, `macroInvalid`, `nameTaken` */
export function describeMacro(context: Context, id: string, about: Pick<Macro, 'name' | 'notes' | 'tags'>): ShelfMacro {
  checkMacro({ ...about, steps: [] })
  macroById(context, id)
  if (isTaken(about.name, namesOnShelf(context, id))) throw new AppError('nameTaken', { name: about.name })
  store.describeMacro(context.db, id, about, Date.now())
  return macroById(context, id)
}

export function duplicateMacro(context: Context, id: string): ShelfMacro {
  const { name, notes, tags, steps } = macroById(context, id)
  return keepNumbered(context, { name: `${name} copy`.slice(-macroLimits.nameLength), notes, tags, steps })
}

export interface MacroRevision {
  readonly revision: number
  readonly createdAt: number
  readonly steps: readonly Step[]
}

/** Newest first. @throws AppError `notFound` */
export function macroRevisions(context: Context, id: string): MacroRevision[] {
  macroById(context, id)
  return store.listRevisions(context.db, id).map((stored) => ({ ...stored, steps: completeSteps(stored.steps) }))
}

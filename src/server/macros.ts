import { randomUUID } from 'node:crypto'
import { AppError } from '@/core/errors'
import * as store from '@/db/macros'
import { checkMacro, checkSteps, readMacroFile, unknownOperations, writeMacroFile } from '@/macro/codec'
import type { Macro } from '@/macro/macro'
import { completeStep, readSteps, type Step } from '@/macro/step'
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
  const steps = (stored.steps as readonly Step[]).map(completeStep)
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

/** Puts a macro on the shelf as r1. @throws AppError `macroInvalid` */
export function keepMacro(context: Context, macro: Macro): ShelfMacro {
  checkMacro(macro)
  const id = randomUUID()
  store.insertMacro(context.db, { id, ...macro }, Date.now())
  return macroById(context, id)
}

/** Keeps steps as the macro's next revision. @throws AppError `notFound`, `macroInvalid` */
export function reviseMacro(context: Context, id: string, steps: readonly Step[]): ShelfMacro {
  macroById(context, id)
  checkSteps(steps)
  store.addRevision(context.db, id, steps, Date.now())
  return macroById(context, id)
}

export const importMacro = (context: Context, text: string): ShelfMacro => keepMacro(context, readMacroFile(text))

export const exportMacro = (context: Context, id: string): string => writeMacroFile(macroById(context, id))

export function binMacro(context: Context, id: string): void {
  macroById(context, id)
  store.binMacro(context.db, id, Date.now())
}

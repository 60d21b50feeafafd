import { randomUUID } from 'node:crypto'
import { dirname } from 'node:path'
import { buffer } from 'node:stream/consumers'
import yazl from 'yazl'
import { AppError } from '@/base/errors'
import { freeName } from '@/base/free-name'
import { completeDelivery } from '@/jobs/delivery'
import { intakeOf, type Loop, type MacroUse, newLoop } from '@/jobs/loop'
import { loopEntry, macroEntryOf, macroOfLoopEntry, readLoopFile, writeLoopFile } from '@/jobs/loop-file'
import { readMacroFile, writeMacroFile } from '@/macros/codec'
import { isSameSteps } from '@/macros/compare'
import type { Macro } from '@/macros/macro'
import { completeSteps } from '@/macros/step'
import * as loopStore from '@/store/loops'
import { findMacro } from '@/store/macros'
import { findRun, listItemsBriefly } from '@/store/runs'
import { addKeptFiles, bundleLimits, entryName, fileEntry, invalid, readBundle, takeKeptFiles } from './bundles'
import type { Context } from './context'
import { allLoops, loopById, saveLoop } from './loops'
import { keepNumbered, macroById, shelf } from './macros'

/* Loops that leave as a file and come in again, and loops that are made of what a run did. */

/** A loop with its macros, as it uses them now, and their files, as a zip. @throws AppError `notFound`, `keptFileMissing` */
export async function exportLoop(context: Context, id: string): Promise<Buffer> {
  const loop = loopById(context, id)
  const macros = loop.macros.map(({ macroId, revision }) => macroById(context, macroId, revision))
  const zip = new yazl.ZipFile()
  zip.addBuffer(Buffer.from(writeLoopFile(loop)), `${entryName(loop.name)}.loop.json`)
  for (const [index, macro] of macros.entries()) zip.addBuffer(Buffer.from(writeMacroFile(macro)), macroEntryOf(index))
  await addKeptFiles(
    context,
    zip,
    macros.flatMap(({ steps }) => steps),
  )
  zip.end()
  return buffer(zip.outputStream)
}

const isOfLoop = (entry: string): boolean => loopEntry.test(entry) || macroOfLoopEntry.test(entry) || fileEntry.test(entry)

const freeLoopName = (context: Context, wanted: string): string => freeName(wanted, allLoops(context))

/** Takes a loop in, with its macros; its folders are still to be named. What does not hold together leaves nothing behind. @throws AppError `bundleInvalid`, `macroInvalid` */
export async function importLoop(context: Context, zip: Buffer, name: string): Promise<Loop> {
  if (zip.length > bundleLimits.bytes) throw invalid(name, `it is larger than ${bundleLimits.bytes >> 20} MB`)
  const entries = await readBundle(zip, name, isOfLoop)
  const [text, ...others] = [...entries].filter(([entry]) => loopEntry.test(entry)).map(([, bytes]) => bytes.toString('utf8'))
  if (text === undefined || others.length > 0)
    throw invalid(name, `it must hold one loop file, not ${text === undefined ? 0 : others.length + 1}`)
  const file = readLoopFile(text, name, randomUUID())
  const macros = file.macros.map((entry) => {
    const bytes = entries.get(entry)
    if (!bytes) throw invalid(name, `the macro ${entry} is missing from it`)
    return readMacroFile(bytes.toString('utf8'))
  })
  await takeKeptFiles(context, entries, { steps: macros.flatMap(({ steps }) => steps), name })
  const uses = macros.map((macro) => useOf(context, macro))
  return saveLoop(context, { ...file.loop, name: freeLoopName(context, file.loop.name), macros: uses })
}

/** The same macro that is on the shelf already serves; else it comes onto it. */
function useOf(context: Context, macro: Macro): MacroUse {
  const there = shelf(context, []).find((other) => other.name === macro.name && isSameSteps(other.steps, macro.steps))
  return { macroId: (there ?? keepNumbered(context, macro)).id, revision: null }
}

/**
 * A loop that does what a run did: its pictures' folder, its macros at their revisions, its deliveries. Macros that are gone come onto the
 * shelf again as the run had them. @throws AppError `notFound`
 */
export function loopOfRun(context: Context, runId: string): Loop {
  const { db } = context
  const run = findRun(db, runId)
  if (!run) throw new AppError('notFound', { what: 'The run' })
  const macros = run.macros.map(({ macroId, revision, name, steps }): MacroUse => {
    if (findMacro(db, macroId, revision)) return { macroId, revision }
    return { macroId: keepNumbered(context, { name, notes: '', tags: [], steps: completeSteps(steps) }).id, revision: null }
  })
  const intake =
    loopStore.findLoop(db, run.loopId)?.intake ?? intakeOf(commonFolder(listItemsBriefly(db, runId).map(({ sourcePath }) => sourcePath)))
  const name = freeLoopName(context, run.loopName)
  return saveLoop(context, newLoop(randomUUID(), { name, intake, macros, deliveries: run.deliveries.map(completeDelivery) }))
}

/** The innermost folder that all of some files lie under; nothing for none. */
export function commonFolder(paths: readonly string[]): string {
  const [first = '', ...others] = paths
  let folder = first && dirname(first)
  while (folder !== '/' && folder !== '' && others.some((path) => !path.startsWith(`${folder}/`))) folder = dirname(folder)
  return folder
}

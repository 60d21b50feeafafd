import { mkdirSync } from 'node:fs'
import { delimiter, join, resolve } from 'node:path'
import { Roots } from '@/files/roots'
import { type Database, openDatabase } from '@/store/database'
import { readSetting } from '@/store/settings'

/** What every use case needs: the database and the folders it may touch. */
export interface Context {
  readonly db: Database
  readonly dataFolder: string
  readonly roots: Roots
}

/** Where results of trying a loop lie. */
export const triesFolder = (dataFolder: string): string => join(dataFolder, 'tries')

/** Where pictures lie that were dropped onto the bench. */
export const droppedFolder = (dataFolder: string): string => join(dataFolder, 'dropped')

/** Where pictures wait for the pages that they are gathered on. */
export const gatheredFolder = (dataFolder: string): string => join(dataFolder, 'gathered')

/** Where pictures lie that were dropped onto loops. */
export const inboxFolder = (dataFolder: string): string => join(dataFolder, 'inbox')

/** Where checks of loops lie that a run may take over. */
export const preflightsFolder = (dataFolder: string): string => join(dataFolder, 'preflights')

/** Where files lie while they are being taken in. */
export const uploadsFolder = (dataFolder: string): string => join(dataFolder, 'uploads')

export const dataFolderOf = (environment: NodeJS.ProcessEnv): string =>
  resolve(/* turbopackIgnore: true */ environment.COPPER_LOOP_DATA ?? 'data')

const namedByEnvironment = (environment: NodeJS.ProcessEnv): string[] | undefined =>
  environment.COPPER_LOOP_ROOTS?.split(delimiter).filter(Boolean)

/** Roots that the environment names stand above those of Settings. */
export const rootsAreFixed = (environment: NodeJS.ProcessEnv = process.env): boolean => namedByEnvironment(environment) !== undefined

function rootsOf(environment: NodeJS.ProcessEnv, db: Database, dataFolder: string): Roots {
  const paths = namedByEnvironment(environment) ?? readSetting<string[]>(db, 'roots') ?? [join(dataFolder, 'demo')]
  return new Roots(
    paths.map((path) => resolve(/* turbopackIgnore: true */ path)),
    [droppedFolder(dataFolder), triesFolder(dataFolder), gatheredFolder(dataFolder), inboxFolder(dataFolder)],
  )
}

/** Roots named by the environment, else those of Settings, else the demo's folder. */
export function openContext(environment: NodeJS.ProcessEnv, migrationsFolder?: string): Context {
  const dataFolder = dataFolderOf(environment)
  const db = openDatabase(dataFolder, migrationsFolder)
  for (const folder of [droppedFolder, triesFolder, gatheredFolder, inboxFolder, uploadsFolder])
    mkdirSync(folder(dataFolder), { recursive: true })
  return { db, dataFolder, roots: rootsOf(environment, db, dataFolder) }
}

const holder = globalThis as { copperLoopContext?: Context }

/** The one context of the web process. Route bundles get module instances of their own, so it hangs on the global object. */
export function context(): Context {
  holder.copperLoopContext ??= openContext(process.env)
  return holder.copperLoopContext
}

/** The same with its roots read anew, after Settings have changed them. */
export function reopenRoots({ db, dataFolder }: Context): Context {
  const next = { db, dataFolder, roots: rootsOf(process.env, db, dataFolder) }
  if (holder.copperLoopContext?.db === db) holder.copperLoopContext = next
  return next
}

import { createHash, randomUUID } from 'node:crypto'
import { mkdir, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { counted } from '@/base/format'
import { foldersOf, type Loop, partThatMatters } from '@/jobs/loop'
import { nextRunNumber } from '@/store/runs'
import { listTouchUps } from '@/store/touch-ups'
import { type Context, preflightsFolder } from '../context'
import { frozenMacros } from './frozen-macros'
import { findPictures, type Watcher } from './intake'
import { type Preflight, preflight } from './preflight'

/*
 * A check is made once: what a page showed is kept under a token, and a run that names it takes over its list, as long as what
 * the check stands on is as it was. Where it is not, the check is made anew, and if that comes out otherwise, the
 * difference is told instead of running something that nobody saw.
 */

interface Kept {
  /** What the check stands on, as a hash. */
  readonly ground: string
  readonly check: Preflight
}

/** A check and the token under which it is kept. */
export interface KeptPreflight {
  readonly token: string
  readonly check: Preflight
}

/** Checks kept: pages ask for one with every change of a loop, and start one of them. */
const maxKept = 24

const fileOf = ({ dataFolder }: Context, token: string): string => join(preflightsFolder(dataFolder), `${token}.json`)

/** Checks a loop and keeps what was found. */
export async function preflightAndKeep(context: Context, loop: Loop, watcher: Watcher = {}): Promise<KeptPreflight> {
  const check = await preflight(context, loop, {}, watcher)
  const token = randomUUID()
  const kept: Kept = { ground: await groundOf(context, loop, check, watcher), check }
  await mkdir(preflightsFolder(context.dataFolder), { recursive: true })
  const path = fileOf(context, token)
  await writeFile(`${path}.part`, JSON.stringify(kept))
  await rename(`${path}.part`, path)
  await clearOld(context)
  return { token, check }
}

/**
 * The check that a token names. `isSame`: what it stands on is as it was, so that it needs not be made anew. Undefined for one
 * that is not kept any more.
 */
export async function keptPreflight(
  context: Context,
  loop: Loop,
  token: string,
  watcher: Watcher,
): Promise<{ readonly check: Preflight; readonly isSame: boolean } | undefined> {
  const text = await readFile(fileOf(context, token), 'utf8').catch(() => undefined)
  if (text === undefined) return undefined
  const { ground, check }: Kept = JSON.parse(text)
  return { check, isSame: ground === (await groundOf(context, loop, check, watcher)) }
}

/** All that decides how a check comes out: the loop, its macros, the sources, the folders it delivers to, the runs so far. */
async function groundOf(context: Context, loop: Loop, { pictures }: Preflight, watcher: Watcher): Promise<string> {
  const silent = (): void => undefined
  const { found } = await findPictures(context, loop, silent, watcher)
  const folders = new Set([
    ...loop.deliveries.map(({ folder }) => folder),
    ...pictures.flatMap(({ targets }) => targets.map(({ path }) => dirname(path))),
  ])
  const times = await Promise.all(
    [...folders].sort().map(async (path) => [path, (await stat(path).catch(() => undefined))?.mtimeMs ?? null]),
  )
  const ground = [
    partThatMatters(loop),
    frozenMacros(context, loop, silent),
    found.map(({ path, sizeBytes, modifiedMs }) => [path, sizeBytes, modifiedMs]),
    foldersOf(loop.intake),
    times,
    nextRunNumber(context.db),
    listTouchUps(context.db, loop.id).map(({ sourcePath, version }) => [sourcePath, version]),
  ]
  return createHash('sha256').update(JSON.stringify(ground)).digest('hex')
}

type Listed = Preflight['pictures'][number]

/** What a person would see differ between two checks of a loop, in words; undefined where nothing does. */
export function differenceBetween(before: Preflight, now: Preflight): string | undefined {
  const [old, fresh] = [before, now].map(({ pictures }) => new Map(pictures.map((picture) => [picture.sourcePath, picture])))
  const both = now.pictures.flatMap((picture): [Listed, Listed][] => {
    const known = old?.get(picture.sourcePath)
    return known ? [[known, picture]] : []
  })
  const came = now.pictures.length - both.length
  const went = before.pictures.filter(({ sourcePath }) => !fresh?.has(sourcePath)).length
  const changed = both.filter(([a, b]) => a.sizeBytes !== b.sizeBytes || a.modifiedMs !== b.modifiedMs).length
  const named = both.filter(([a, b]) => namesOf(a) !== namesOf(b)).length
  const parts = [
    JSON.stringify(before.macros) !== JSON.stringify(now.macros) && 'a macro was changed',
    came > 0 && `${counted(came, 'picture')} came`,
    went > 0 && `${counted(went, 'picture')} went`,
    changed > 0 && `${counted(changed, 'picture')} changed`,
    named > 0 && `${counted(named, 'picture')} would be delivered otherwise`,
  ].filter((part) => part !== false)
  return parts.length > 0 ? parts.join(', ') : undefined
}

const namesOf = ({ targets, skip, error }: Listed): string => JSON.stringify([targets.map(({ path }) => path), skip, error?.code])

async function clearOld({ dataFolder }: Context): Promise<void> {
  const folder = preflightsFolder(dataFolder)
  const files = await Promise.all(
    (await readdir(folder)).map(async (name) => {
      const path = join(folder, name)
      return { path, time: (await stat(path).catch(() => undefined))?.mtimeMs ?? 0 }
    }),
  )
  for (const { path } of files.toSorted((a, b) => b.time - a.time).slice(maxKept)) await rm(path, { force: true })
}

import { createHash } from 'node:crypto'
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import PQueue from 'p-queue'
import { counted } from '@/base/format'
import type { FoundPicture } from '@/files/scan'
import type { Loop } from '@/jobs/loop'
import { fillSetSteps, type SetStep } from '@/macros/set-steps'
import { findOperation } from '@/operations'
import { fixMiddles, forgetMiddles, middlesOf, putMiddle } from '@/store/set-middles'
import { cacheFolder } from './cache'
import type { Context } from './context'
import { loopById } from './loops'
import { macrosOf, middleKey, setStepsOf } from './preflight/frozen-macros'
import type { Watcher } from './preflight/intake'
import type { AddProblem } from './preflight/problems'
import { keep, openSample } from './proof-pictures'

/*
 * The middle of a loop's set, for steps that bring its pictures together: measured once, before its first run, and kept with the loop, so
 * that neither the order of the pictures nor new ones change what was delivered.
 */

/** Of more pictures than this only some are measured, evenly spread. */
const maxMeasured = 240
/** Pictures measured at the same time: each is computed on one thread, and read on others. */
const measurers = 2
/** Long edge of what is decoded for it. */
const decodedEdge = 1024

const silent = (): void => undefined
const hashOf = (value: unknown): string => createHash('sha1').update(JSON.stringify(value)).digest('hex')
const isNumbers = (value: unknown): value is readonly number[] => Array.isArray(value) && value.every((one) => typeof one === 'number')

/** What a step measures on one picture, kept in the cache. Undefined where it can't be read: that is told elsewhere. */
async function measureOne(context: Context, picture: FoundPicture, { key, operation: id, before }: SetStep) {
  const name = hashOf([key, picture.path, picture.sizeBytes, picture.modifiedMs])
  const file = join(cacheFolder(context.dataFolder), 'sets', name.slice(0, 2), `${name}.json`)
  const known: unknown = await readFile(file, 'utf8').then(JSON.parse, () => undefined)
  if (isNumbers(known)) return known
  const operation = findOperation(id)
  if (!operation) return undefined
  try {
    const { sample } = await openSample(context, picture.path, before, { maxEdge: decodedEdge })
    const values = sample.measure(before, operation)
    if (values) await keep(file, JSON.stringify(values))
    return values
  } catch {
    return undefined
  }
}

/** Evenly spread over the list by path, so that its order has no say. */
function spread(found: readonly FoundPicture[]): FoundPicture[] {
  const sorted = found.toSorted((a, b) => (a.path < b.path ? -1 : 1))
  const step = Math.max(1, sorted.length / maxMeasured)
  return Array.from({ length: Math.min(sorted.length, maxMeasured) }, (_, i) => sorted[Math.floor(i * step)]).filter(
    (one) => one !== undefined,
  )
}

async function measureAll(context: Context, found: readonly FoundPicture[], step: SetStep, { signal, onProgress }: Watcher) {
  const queue = new PQueue({ concurrency: measurers })
  let done = 0
  const some = spread(found)
  const measured = await queue.addAll(
    some.map((picture) => async () => {
      signal?.throwIfAborted()
      const values = await measureOne(context, picture, step)
      onProgress?.({ stage: 'measuring', done: ++done, of: some.length })
      return values
    }),
  )
  return measured.filter((values) => values !== undefined)
}

/**
 * Measures what nothing is known of. Of a whole set also what has changed since, unless a run has gone by it; pictures that were handed in
 * are brought to what is kept.
 */
export async function measureSet(
  context: Context,
  loop: Loop,
  { found, isWhole }: { readonly found: readonly FoundPicture[]; readonly isWhole: boolean },
  watcher: Watcher,
): Promise<void> {
  const macros = macrosOf(context, loop, silent)
  const sorted = found.map(({ path, sizeBytes, modifiedMs }) => [path, sizeBytes, modifiedMs] as const)
  const ground = hashOf(sorted.toSorted(([a], [b]) => (a < b ? -1 : 1)))
  for (;;) {
    const kept = new Map(middlesOf(context.db, loop.id).map((middle) => [middle.key, middle]))
    const { waiting } = fillSetSteps(macros, (key) => {
      const middle = kept.get(middleKey(loop, key))
      return middle && (middle.used || !isWhole || middle.ground === ground) ? middle.values : undefined
    })
    if (!waiting) return
    const operation = findOperation(waiting.operation)
    if (!operation?.ofSet) return
    const measured = await measureAll(context, found, waiting, watcher)
    if (measured.length === 0) return
    const [values, pictures] = [operation.ofSet.together(measured), measured.length]
    putMiddle(context.db, {
      loopId: loop.id,
      key: middleKey(loop, waiting.key),
      values,
      pictures,
      ground,
      measuredAt: Date.now(),
      used: false,
    })
  }
}

/** Tells what a loop's pictures are brought to, and offers to measure it anew where pictures have come or gone since. */
export function remarkSet(context: Context, loop: Loop, found: number, add: AddProblem): void {
  const { filled, waiting } = setStepsOf(context, loop, macrosOf(context, loop, silent))
  const keys = filled.map((key) => middleKey(loop, key))
  const first = middlesOf(context.db, loop.id).find(({ key }) => keys.includes(key))
  if (first?.used) {
    const since = found === first.pictures ? '' : ` There are ${found} now; the new ones are brought to the same.`
    add('pictures', false, `Evened out to the middle of ${counted(first.pictures, 'picture')}, kept since this loop first ran.${since}`, {
      remedy: { label: 'Measure the set anew', does: 'measureSetAnew' },
    })
  } else if (first)
    add('pictures', false, `Evened out to the middle of ${counted(first.pictures, 'picture')}, which will be kept for later runs.`)
  if (waiting && found > 0) add('pictures', false, 'No picture of the set could be measured: none is evened out.')
}

/** A run goes by what was measured: from now on it stays. */
export function keepSetOf(context: Context, loop: Loop): void {
  const { filled } = setStepsOf(context, loop, macrosOf(context, loop, silent))
  if (filled.length > 0)
    fixMiddles(
      context.db,
      loop.id,
      filled.map((key) => middleKey(loop, key)),
    )
}

/** Forgets what is kept of a loop's set. @returns whether there was anything */
export const measureSetAnew = (context: Context, loopId: string): boolean => forgetMiddles(context.db, loopById(context, loopId).id) > 0

import { stat } from 'node:fs/promises'
import { basename, dirname, extname, join, relative, sep } from 'node:path'
import dayjs from 'dayjs'
import { formats } from '@/core/encoding'
import { AppError, type ErrorReport } from '@/core/errors'
import type { Size } from '@/core/geometry'
import type { Delivery, Loop } from '@/core/loop'
import type { PictureFacts } from '@/core/picture'
import { sidecarPath } from '@/core/sidecar'
import type { FrozenMacro } from '@/db/schema'
import { finalSize, resolveSteps } from '@/engine/resolve'
import { unknownOperations } from '@/macro/codec'
import { deliverySteps, stepsFor } from '@/macro/delivery-steps'
import type { Answers } from '@/macro/open'
import { completeStep, type Step } from '@/macro/step'
import { expandPattern, isMadeSafe, type NameContext, type NamePattern } from '@/pictures/names'
import { collisionKey } from '@/pictures/safe-names'
import type { FoundPicture } from '@/pictures/scan'
import { fileExists } from './files'
import { type KnownPicture, tellEvery, type Watcher } from './intake'

/** A delivery whose folder is allowed and whose pattern can be read. */
export interface CheckedDelivery {
  readonly delivery: Delivery
  readonly folder: string
  readonly pattern: NamePattern
}

export interface ForeseenTarget {
  readonly deliveryId: string
  readonly path: string
  /** Relative to the delivery's folder, with `/`. */
  readonly name: string
  readonly size: Size
  /** Why the name got a number: a file of this name is there, or another picture of the run has it. */
  readonly numbered: 'fileThere' | 'sameName' | null
  /** The file is there already, and the delivery wants it left so. */
  readonly skip: boolean
  /** What the pattern gives had to be changed, so that every system takes it. */
  readonly madeSafe: boolean
  /** SHA-256 of the file that this loop delivered under this name, and that this one will replace. */
  readonly replaces: string | null
}

/** What this loop delivered last under a path. */
export type LastDelivered = (path: string) => { readonly hash: string; readonly sizeBytes: number } | undefined

/** What would happen to one picture. */
export interface ForeseenPicture {
  readonly sourcePath: string
  readonly relativePath: string
  readonly sizeBytes: number
  readonly modifiedMs: number
  readonly sizeBefore: Size | null
  readonly targets: readonly ForeseenTarget[]
  readonly error: ErrorReport | null
  /** In words, the first thing a person should know. */
  readonly remark: string | null
  readonly skip: boolean
}

/** Foresees every picture in order, so that counters and numbered names come out as they will in the run. */
export async function foresee(
  loop: Loop,
  known: readonly KnownPicture[],
  macros: readonly FrozenMacro[],
  deliveries: readonly CheckedDelivery[],
  runNumber: number,
  answers: Answers,
  lastDelivered: LastDelivered,
  { signal, onProgress }: Watcher,
): Promise<ForeseenPicture[]> {
  const steps = macros.flatMap((macro) => (macro.steps as readonly Step[]).map(completeStep))
  const naming = new Naming(
    loop,
    macros.at(-1)?.name ?? '',
    steps,
    unknownOperations(steps).length === 0 ? deliveries : [],
    runNumber,
    answers,
    lastDelivered,
  )
  const pictures: ForeseenPicture[] = []
  for (const { picture, facts } of known) {
    if (pictures.length % tellEvery === 0) {
      onProgress?.({ stage: 'foreseeing', done: pictures.length, of: known.length })
      signal?.throwIfAborted()
    }
    pictures.push(await foreseeOne(picture, facts, naming))
  }
  return pictures
}

async function foreseeOne(picture: FoundPicture, facts: PictureFacts | AppError, naming: Naming): Promise<ForeseenPicture> {
  const { path: sourcePath, relativePath, sizeBytes, modifiedMs } = picture
  const base = { sourcePath, relativePath, sizeBytes, modifiedMs }
  const failing = (error: AppError, sizeBefore: Size | null): ForeseenPicture => ({
    ...base,
    sizeBefore,
    targets: [],
    error: error.report,
    remark: error.message,
    skip: false,
  })
  if (facts instanceof AppError) return failing(facts, null)
  const targets = await naming.targets(picture, facts).catch((error: unknown) => {
    if (error instanceof AppError && (error.code === 'resultTooLarge' || error.code === 'deliveryNotOurs')) return error
    throw error
  })
  if (targets instanceof AppError) return failing(targets, facts.size)
  const skip = targets.length > 0 && targets.every((target) => target.skip)
  return { ...base, sizeBefore: facts.size, targets, error: null, remark: remarkFor(targets, skip), skip }
}

function remarkFor(targets: readonly ForeseenTarget[], skip: boolean): string | null {
  if (skip) return 'Skipped: the delivered file is there already'
  if (targets.some((target) => target.replaces)) return 'Replaces the file that this loop delivered before'
  if (targets.some((target) => target.numbered === 'fileThere')) return 'Numbered: a file of this name is there already'
  if (targets.some((target) => target.numbered === 'sameName')) return 'Numbered: another picture has this name'
  return targets.some((target) => target.madeSafe) ? 'Its name is changed so that every system takes it' : null
}

/** More numbered names than this for one wish mean that something else is wrong. */
const mostNumbered = 10_000

/** Gives out names in the order of the run; remembers what it gave. */
class Naming {
  private readonly taken = new Set<string>()
  private readonly perFolder = new Map<string, number>()
  private readonly today = dayjs().format('YYYY-MM-DDTHH:mm:ss')
  private index = 0

  constructor(
    private readonly loop: Loop,
    private readonly macroName: string,
    private readonly steps: readonly Step[],
    private readonly deliveries: readonly CheckedDelivery[],
    private readonly runNumber: number,
    private readonly answers: Answers,
    private readonly lastDelivered: LastDelivered,
  ) {}

  async targets(picture: FoundPicture, facts: PictureFacts): Promise<ForeseenTarget[]> {
    const folder = dirname(picture.path)
    const indexInFolder = this.perFolder.get(folder) ?? 0
    const targets: ForeseenTarget[] = []
    for (const checked of this.deliveries) {
      const steps = resolveSteps([...stepsFor(checked.delivery, this.steps), ...deliverySteps(checked.delivery)], facts.size, {
        subject: { facts, name: basename(picture.path) },
      })
      const size = finalSize(steps, facts.size)
      targets.push(await this.target(checked, picture, this.context(picture, facts, checked.delivery, size, indexInFolder)))
    }
    this.perFolder.set(folder, indexInFolder + 1)
    this.index++
    return targets
  }

  private context(picture: FoundPicture, facts: PictureFacts, delivery: Delivery, deliveredSize: Size, indexInFolder: number): NameContext {
    const below = dirname(picture.relativePath)
    return {
      name: basename(picture.path, extname(picture.path)),
      folders: [basename(picture.intake), ...(below === '.' ? [] : below.split('/'))],
      index: this.index,
      indexInFolder,
      facts,
      deliveredSize,
      macro: this.macroName,
      loop: this.loop.name,
      delivery: delivery.name,
      run: String(this.runNumber),
      today: this.today,
      answers: this.answers,
    }
  }

  /** The path the pattern gives, numbered where another file has it. */
  private async target(
    { delivery, folder, pattern }: CheckedDelivery,
    picture: FoundPicture,
    context: NameContext,
  ): Promise<ForeseenTarget> {
    const below = delivery.mirrorFolders ? dirname(picture.relativePath) : '.'
    let numbered: ForeseenTarget['numbered'] = null
    for (let number = 1; number < mostNumbered; number++) {
      const name = expandPattern(pattern, context, `${number > 1 ? `-${number}` : ''}.${formats[delivery.format].extension}`)
      const path = join(folder, below, name)
      const inRun = this.taken.has(collisionKey(path))
      const onDisk = !inRun && ((await fileExists(path)) || (delivery.sidecar && (await fileExists(sidecarPath(path)))))
      const skip = onDisk && delivery.whenThere === 'skip'
      const replaces = onDisk && delivery.whenThere === 'replace' ? await this.ownFile(path) : null
      if ((inRun || onDisk) && !skip && !replaces) {
        numbered ??= inRun ? 'sameName' : 'fileThere'
        continue
      }
      this.taken.add(collisionKey(path))
      return {
        deliveryId: delivery.id,
        path,
        name: relative(folder, path).split(sep).join('/'),
        size: context.deliveredSize,
        numbered,
        skip,
        madeSafe: isMadeSafe(pattern, context, `.${formats[delivery.format].extension}`),
        replaces,
      }
    }
    throw new AppError('deliveryExists', { path: join(folder, below) })
  }

  /** The hash of a file that this loop delivered, and that is still as large as then. @throws AppError `deliveryNotOurs` */
  private async ownFile(path: string): Promise<string> {
    const own = this.lastDelivered(path)
    const known = await stat(path).catch(() => undefined)
    if (!own || (known && known.size !== own.sizeBytes)) throw new AppError('deliveryNotOurs', { path })
    return own.hash
  }
}

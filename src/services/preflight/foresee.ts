import { stat } from 'node:fs/promises'
import { basename, dirname, extname, join, relative, sep } from 'node:path'
import dayjs from 'dayjs'
import { AppError, type ErrorReport } from '@/base/errors'
import type { Size } from '@/base/geometry'
import { finalSize, playedOut, resolveSteps } from '@/engine/resolve'
import { countsIn, expandLine, expandPattern, isMadeSafe, type NameContext, type NamePattern, valuesOf } from '@/files/names'
import { isUnder, realOfNearest } from '@/files/roots'
import { collisionKey } from '@/files/safe-names'
import type { FoundPicture } from '@/files/scan'
import type { Delivery } from '@/jobs/delivery'
import { deliverySteps, stepsFor } from '@/jobs/delivery-steps'
import { formats } from '@/jobs/encoding'
import type { Loop } from '@/jobs/loop'
import { nameChips } from '@/jobs/name-chips'
import { sidecarPath, sidecarSuffix } from '@/jobs/sidecar'
import { type TouchUp, touchedSteps } from '@/jobs/touch-up'
import { unknownOperations } from '@/macros/codec'
import type { Answers } from '@/macros/open'
import { completeSteps, type Step } from '@/macros/step'
import type { PictureFacts } from '@/pixels/picture'
import type { LastDelivered, ReservedName } from '@/store/delivered'
import type { PictureNumber } from '@/store/picture-numbers'
import type { FrozenMacro } from '@/store/schema'
import { fileExists } from '../files'
import { type KnownPicture, tellEvery, type Watcher } from './intake'

/** A delivery whose folder is allowed and whose pattern can be read. */
export interface CheckedDelivery {
  readonly delivery: Delivery
  readonly folder: string
  readonly pattern: NamePattern
}

/** Why a name got a number: a file of this name is there; another picture of the run has it; a run in the queue will write it. */
export type WhyNumbered = 'fileThere' | 'sameName' | 'queued'

export interface ForeseenTarget {
  readonly deliveryId: string
  readonly path: string
  /** Relative to the delivery's folder, with `/`. */
  readonly name: string
  readonly size: Size
  readonly numbered: WhyNumbered | null
  /** The file is there already, or will be, and the delivery wants it left so. */
  readonly skip: boolean
  /** What the pattern gives had to be changed, so that every system takes it. */
  readonly madeSafe: boolean
  /** The picture has fewer pixels than one of its steps cuts out. */
  readonly short: boolean
  /** Lines under it, where it goes on a page. */
  readonly captions?: readonly string[]
  /** SHA-256 of the file that this loop delivered of this picture under this name, and that this one will replace. */
  readonly replaces: string | null
}

/** What would happen to one picture. */
export interface ForeseenPicture {
  readonly sourcePath: string
  readonly relativePath: string
  readonly sizeBytes: number
  readonly modifiedMs: number
  readonly sizeBefore: Size | null
  readonly targets: readonly ForeseenTarget[]
  readonly error: ErrorReport | null
  /** What it has of its own; null for nothing. */
  readonly touchUp: TouchUp | null
  /** In words, the first thing a person should know. */
  readonly remark: string | null
  readonly skip: boolean
}

/** What is known of a loop before its pictures get names. */
export interface NamingGround {
  readonly loop: Loop
  readonly macros: readonly FrozenMacro[]
  readonly deliveries: readonly CheckedDelivery[]
  readonly runNumber: number
  readonly answers: Answers
  /** Numbers that the loop's pictures have. */
  readonly numbers: readonly PictureNumber[]
  /** What pictures have of their own, by path. */
  readonly touchUps: ReadonlyMap<string, TouchUp>
  /** Names that runs in the queue have still to give. */
  readonly reserved: readonly ReservedName[]
  /** What this loop delivered last under a path. */
  lastDelivered(path: string): LastDelivered | undefined
}

export interface Foreseen {
  readonly pictures: ForeseenPicture[]
  /** Numbers given for the first time. */
  readonly newNumbers: readonly PictureNumber[]
  /** How many pictures keep a number that they had. */
  readonly keptNumbers: number
  readonly nameValues: NameValues
}

/** By delivery, what each field of a name is for the first picture that gets one. */
export type NameValues = Readonly<Record<string, Readonly<Record<string, string>>>>

/** Foresees every picture in order, so that counters and numbered names come out as they will in the run. */
export async function foresee(ground: NamingGround, known: readonly KnownPicture[], { signal, onProgress }: Watcher): Promise<Foreseen> {
  const naming = new Naming(ground)
  const pictures: ForeseenPicture[] = []
  for (const { picture, facts } of known) {
    if (pictures.length % tellEvery === 0) {
      onProgress?.({ stage: 'foreseeing', done: pictures.length, of: known.length })
      signal?.throwIfAborted()
    }
    pictures.push(await foreseeOne(picture, facts, naming))
  }
  return { pictures, ...naming.numbers.outcome, nameValues: Object.fromEntries(naming.values) }
}

const fieldsOfNames = nameChips.flatMap(({ field }) => (field.startsWith('{ask') || field === '/' ? [] : [field]))

/** Errors of naming that are one picture's own. */
const ownErrors: ReadonlySet<string> = new Set(['resultTooLarge', 'deliveryNotOurs', 'deliveryLeadsOut', 'deliveryExists'])

async function foreseeOne(picture: FoundPicture, facts: PictureFacts | AppError, naming: Naming): Promise<ForeseenPicture> {
  const { path: sourcePath, relativePath, sizeBytes, modifiedMs } = picture
  const touchUp = naming.touchUpOf(sourcePath) ?? null
  const base = { sourcePath, relativePath, sizeBytes, modifiedMs, touchUp }
  const failing = (error: AppError, sizeBefore: Size | null): ForeseenPicture => ({
    ...base,
    sizeBefore,
    targets: [],
    error: error.report,
    remark: error.message,
    skip: false,
  })
  if (touchUp?.setAside) {
    const sizeBefore = facts instanceof AppError ? null : facts.size
    return { ...base, sizeBefore, targets: [], error: null, remark: 'Set aside: it is not delivered', skip: true }
  }
  if (facts instanceof AppError) return failing(facts, null)
  const targets = await naming.targets(picture, facts).catch((error: unknown) => {
    if (error instanceof AppError && ownErrors.has(error.code)) return error
    throw error
  })
  if (targets instanceof AppError) return failing(targets, facts.size)
  const skip = targets.length > 0 && targets.every((target) => target.skip)
  return { ...base, sizeBefore: facts.size, targets, error: null, remark: remarkFor(targets, skip, facts), skip }
}

function remarkFor(targets: readonly ForeseenTarget[], skip: boolean, { frames }: PictureFacts): string | null {
  if (skip) return 'Skipped: the delivered file is there already'
  if (targets.some((target) => target.replaces)) return 'Replaces the file that this loop delivered before'
  if (targets.some((target) => target.numbered === 'fileThere')) return 'Numbered: a file of this name is there already'
  if (targets.some((target) => target.numbered === 'sameName')) return 'Numbered: another picture has this name'
  if (targets.some((target) => target.numbered === 'queued')) return 'Numbered: a run in the queue will write a file of this name'
  if (targets.some((target) => target.short)) return 'Smaller than what is cut out of it: it keeps its own size'
  if (frames) return `Holds ${frames} pictures; the first one is taken`
  return targets.some((target) => target.madeSafe) ? 'Its name is changed so that every system takes it' : null
}

/** More numbered names than this for one wish mean that something else is wrong. */
const maxNumbered = 10_000

/**
 * The numbers of a loop's pictures, through the loop and through each folder. A picture keeps the one it has; others go
 * on after the highest.
 */
class Numbers {
  private readonly known = new Map<string, number>()
  private readonly next = new Map<string, number>()
  private readonly given: PictureNumber[] = []
  private readonly isNew = new Set<string>()
  private readonly kept = new Set<string>()

  constructor(
    private readonly loop: Loop,
    stored: readonly PictureNumber[],
  ) {
    for (const { scope, sourcePath, ordinal } of stored) {
      this.known.set(keyOf(scope, sourcePath), ordinal)
      this.next.set(scope, Math.max(this.next.get(scope) ?? 0, ordinal + 1))
    }
  }

  of(scope: string, sourcePath: string): number {
    const key = keyOf(scope, sourcePath)
    const known = this.known.get(key)
    if (known !== undefined) {
      if (!this.isNew.has(sourcePath)) this.kept.add(sourcePath)
      return known
    }
    const ordinal = this.next.get(scope) ?? 0
    this.next.set(scope, ordinal + 1)
    this.known.set(key, ordinal)
    this.isNew.add(sourcePath)
    this.given.push({ loopId: this.loop.id, numberSet: this.loop.numberSet, scope, sourcePath, ordinal })
    return ordinal
  }

  get outcome(): Pick<Foreseen, 'newNumbers' | 'keptNumbers'> {
    return { newNumbers: this.given, keptNumbers: this.kept.size }
  }
}

const keyOf = (scope: string, sourcePath: string): string => `${scope}\0${sourcePath}`

/** Gives out names in the order of the run; remembers what it gave. */
class Naming {
  readonly numbers: Numbers
  readonly values = new Map<string, Readonly<Record<string, string>>>()
  /** Pictures that have a place on pages so far. */
  private onPages = 0
  private readonly taken = new Set<string>()
  private readonly reserved: ReadonlyMap<string, ReservedName>
  private readonly sound = new Map<string, boolean>()
  private readonly today = dayjs().format('YYYY-MM-DDTHH:mm:ss')
  private readonly macros: readonly FrozenMacro[]
  private readonly steps: readonly Step[]
  private readonly deliveries: readonly CheckedDelivery[]

  constructor(private readonly ground: NamingGround) {
    const { loop, macros, deliveries, numbers, reserved } = ground
    this.numbers = new Numbers(loop, numbers)
    this.macros = macros.map((macro) => ({ ...macro, steps: completeSteps(macro.steps) }))
    this.steps = this.macros.flatMap(({ steps }) => steps)
    this.deliveries = unknownOperations(this.steps).length === 0 ? deliveries : []
    this.reserved = new Map(reserved.map((name) => [collisionKey(name.path), name]))
  }

  touchUpOf(path: string): TouchUp | undefined {
    return this.ground.touchUps.get(path)
  }

  async targets(picture: FoundPicture, facts: PictureFacts): Promise<ForeseenTarget[]> {
    const counts = this.deliveries.map(({ pattern }) => countsIn(pattern))
    const index = counts.some(({ loop }) => loop) ? this.numbers.of('', picture.path) : 0
    const indexInFolder = counts.some(({ folder }) => folder) ? this.numbers.of(dirname(picture.path), picture.path) : 0
    const targets: ForeseenTarget[] = []
    const touchUp = this.touchUpOf(picture.path)
    const own = touchUp ? touchedSteps(this.macros, touchUp) : this.steps
    for (const checked of this.deliveries) {
      const steps = resolveSteps([...stepsFor(checked.delivery, own), ...deliverySteps(checked.delivery)], facts.size, {
        subject: { facts, name: basename(picture.path) },
      })
      const size = finalSize(steps, facts.size)
      const context = { ...this.context(picture, facts, checked.delivery, size), index, indexInFolder }
      if (!this.values.has(checked.delivery.id)) this.values.set(checked.delivery.id, valuesOf(fieldsOfNames, context))
      const short = playedOut(steps).some(({ constants }) => constants.short === true)
      const { gather } = checked.delivery
      const onPage = { ...context, index: this.onPages, indexInFolder: this.onPages }
      const captions = gather && { captions: gather.captions.filter((line) => line.trim()).map((line) => expandLine(line, onPage)) }
      targets.push({ ...(await this.target(checked, picture, context)), short, ...captions })
    }
    this.onPages++
    return targets
  }

  private context(
    picture: FoundPicture,
    facts: PictureFacts,
    delivery: Delivery,
    deliveredSize: Size,
  ): Omit<NameContext, 'index' | 'indexInFolder'> {
    const below = dirname(picture.relativePath)
    const { loop, macros, runNumber, answers } = this.ground
    return {
      name: basename(picture.path, extname(picture.path)),
      folders: [basename(picture.intake), ...(below === '.' ? [] : below.split('/'))],
      facts,
      deliveredSize,
      macro: macros.at(-1)?.name ?? '',
      loop: loop.name,
      delivery: delivery.name,
      run: String(runNumber),
      today: this.today,
      answers,
    }
  }

  /** The path the pattern gives, numbered where another file has it. */
  private async target(
    { delivery, folder, pattern }: CheckedDelivery,
    picture: FoundPicture,
    context: NameContext,
  ): Promise<Omit<ForeseenTarget, 'short'>> {
    const below = delivery.mirrorFolders ? dirname(picture.relativePath) : '.'
    const { extension } = formats[delivery.format]
    const beside = delivery.sidecar ? Buffer.byteLength(sidecarSuffix) : 0
    let numbered: WhyNumbered | null = null
    for (let number = 1; number < maxNumbered; number++) {
      const name = expandPattern(pattern, context, `${number > 1 ? `-${number}` : ''}.${extension}`, beside)
      const path = join(folder, below, name)
      const claim = await this.claimOf(path, delivery, picture.path)
      if (claim.numbered) {
        numbered ??= claim.numbered
        continue
      }
      this.checkSound(folder, dirname(path))
      this.taken.add(collisionKey(path))
      return {
        deliveryId: delivery.id,
        path,
        name: relative(folder, path).split(sep).join('/'),
        size: context.deliveredSize,
        numbered,
        skip: claim.skip ?? false,
        madeSafe: isMadeSafe(pattern, context, `.${extension}`, beside),
        replaces: claim.replaces ?? null,
      }
    }
    throw new AppError('deliveryExists', { path: join(folder, below) })
  }

  /** Whether a picture may have a name: as it is, in the place of its own file, skipped since it is there; or not. */
  private async claimOf(
    path: string,
    delivery: Delivery,
    sourcePath: string,
  ): Promise<{ readonly numbered?: WhyNumbered; readonly skip?: boolean; readonly replaces?: string }> {
    const key = collisionKey(path)
    if (this.taken.has(key)) return { numbered: 'sameName' }
    const queued = this.reserved.get(key)
    if (queued) {
      const isOwn = queued.loopId === this.ground.loop.id && queued.sourcePath === sourcePath
      if (!isOwn || delivery.whenThere === 'number') return { numbered: 'queued' }
      if (delivery.whenThere === 'skip') return { skip: true }
    }
    const isThere = (await fileExists(path)) || (delivery.sidecar && (await fileExists(sidecarPath(path))))
    if (!isThere) return {}
    if (delivery.whenThere === 'number') return { numbered: 'fileThere' }
    const own = this.ground.lastDelivered(path)
    // A file that this loop made from another picture is that picture's, whatever the names are now.
    if (own && own.sourcePath !== sourcePath) return { numbered: 'sameName' }
    return delivery.whenThere === 'skip' ? { skip: true } : { replaces: await this.ownFile(path, own) }
  }

  /** The hash of a file that this loop delivered, and that is still as large as then. @throws AppError `deliveryNotOurs` */
  private async ownFile(path: string, own: LastDelivered | undefined): Promise<string> {
    const known = await stat(path).catch(() => undefined)
    if (!own || (known && known.size !== own.sizeBytes)) throw new AppError('deliveryNotOurs', { path })
    return own.hash
  }

  /** Folders below the delivery's must be folders, no links: these could lead to the originals. @throws AppError `deliveryLeadsOut` */
  private checkSound(base: string, folder: string): void {
    const isSound = this.sound.get(folder) ?? isUnder(realOfNearest(folder), base)
    this.sound.set(folder, isSound)
    if (!isSound) throw new AppError('deliveryLeadsOut', { path: folder })
  }
}

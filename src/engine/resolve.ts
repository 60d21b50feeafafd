import { AppError } from '@/base/errors'
import type { Size } from '@/base/geometry'
import { lruCached } from '@/base/lru-cache'
import { holds, type Subject } from '@/macros/condition'
import type { Limit } from '@/macros/limit'
import { isRaw } from '@/macros/raw-start'
import { type Blend, innerSteps, type Step } from '@/macros/step'
import { type Constants, type Effect, findOperation, type PatchOptions, type PictureAtStep } from '@/operations'
import { expandCaption } from '@/operations/declare/caption'
import { type Asset, keptFileHash, keptFileName } from '@/pixels/kept-file'
import type { LinearPicture } from '@/pixels/linear-picture'

/** A step whose constants are known: ready to render, and stored with every result. */
export interface ResolvedStep {
  readonly stepId: string
  readonly operation: string
  readonly constants: Constants
  readonly effect: Effect
  /** 0–1. */
  readonly strength: number
  readonly blend: Blend
  readonly limit: readonly Limit[]
  /** False for a step whose conditions leave this picture out. */
  readonly applies: boolean
  /** Full-size pixels after this step. */
  readonly sizeAfter: Size
  /** The steps this one stands for, where it stands for others. */
  readonly inner?: readonly ResolvedStep[]
}

/** Shows operations the picture they stand before. Asked only by those that measure it. */
export interface Sampler {
  copy(steps: readonly ResolvedStep[]): LinearPicture
  /** Pieces of the picture after the steps, at full size; not where there is only a reduced copy. */
  patches?(steps: readonly ResolvedStep[], size: Size, options?: PatchOptions): readonly LinearPicture[]
}

/** What is known of the picture besides its size. Without a subject, conditions are taken to hold. */
export interface Sight {
  readonly sampler?: Sampler
  readonly subject?: Subject
  /** Files kept with the macros, by hash. */
  readonly assets?: ReadonlyMap<string, Asset>
  /** What was found before for this picture: a bench that resolves at every move of a slider measures each step once. */
  readonly found?: Map<string, Found>
  /** What resolving gave elsewhere, step by step, as `constantsOf` tells it: nothing is measured then. */
  readonly constants?: Iterator<Constants>
}

/** A step's constants and what they do. */
export interface Found {
  readonly constants: Constants
  readonly effect: Effect
}
/** Enough for a long macro and some going back and forth. */
const maxFound = 60

/** A step that names an operation this version does not have. */
export class UnknownOperationError extends Error {
  override readonly name = 'UnknownOperationError'
  constructor(readonly operation: string) {
    super(`This macro needs the operation "${operation}", which this version does not have`)
  }
}

/** More pixels than any step may leave. */
const maxPixels = 5e8

/**
 * First half of every render: runs through the steps in order and turns settings into plain constants,
 * the same for preview and run. Steps that are off, or change nothing, resolve to the effect `none`. Without an eye,
 * operations that measure the picture leave it as it is: sizes come out right all the same.
 * @throws UnknownOperationError, AppError `resultTooLarge`
 */
export const resolveSteps = (steps: readonly Step[], picture: Size, sight: Sight = {}): ResolvedStep[] =>
  resolveAfter([], steps, picture, sight)

/** The same for steps that stand behind others; only they are returned. */
function resolveAfter(earlier: readonly ResolvedStep[], steps: readonly Step[], sizeBefore: Size, sight: Sight): ResolvedStep[] {
  const resolved: ResolvedStep[] = []
  let size = sizeBefore
  for (const step of steps) {
    const next = resolveOne([...earlier, ...resolved], step, size, sight)
    resolved.push(next)
    size = next.sizeAfter
  }
  return resolved
}

function resolveOne(earlier: readonly ResolvedStep[], step: Step, size: Size, sight: Sight): ResolvedStep {
  const operation = findOperation(step.operation)
  if (!operation) throw new UnknownOperationError(step.operation)
  const { subject } = sight
  const applies = subject === undefined || step.when.every((condition) => holds(condition, subject))
  const active = applies && step.enabled && step.strengthPercent > 0
  const find = (): Found => {
    const here = standingAt(earlier, size, active, sight)
    const constants = sight.constants ? known(sight.constants) : operation.resolve(step.settings, here)
    return { constants, effect: active ? operation.render(constants, here) : { kind: 'none' } }
  }
  const { constants, effect } = sight.found
    ? lruCached(sight.found, `${step.operation} ${active} ${JSON.stringify(step.settings)} after ${keyOf(earlier)}`, maxFound, find)
    : find()
  const inner = operation.plays && resolveAfter(earlier, active ? innerSteps(step).map((played) => heldBy(step, played)) : [], size, sight)
  const after = inner?.at(-1)?.sizeAfter ?? sizeAfter(effect, size)
  if (after.width * after.height > maxPixels)
    throw new AppError('resultTooLarge', { operation: operation.name, ...after, limit: maxPixels / 1e6 })
  const { id: stepId, operation: operationId, blend, limit = noLimit } = step
  const strength = step.strengthPercent / 100
  return { stepId, operation: operationId, constants, effect, strength, blend, limit, applies, sizeAfter: after, inner }
}

/** A step that another one plays: mixed in by the other's strength too, and held to the other's limit besides its own. */
function heldBy({ strengthPercent, limit = noLimit }: Step, played: Step): Step {
  const own = played.limit ?? noLimit
  const [first, ...rest] = limit
  const held = first && own.length > 0 ? [...own, { ...first, begins: true as const }, ...rest] : [...own, ...limit]
  return { ...played, strengthPercent: (played.strengthPercent * strengthPercent) / 100, limit: held }
}

/** What a step is told of the picture. Only a step that is on may look at it. */
function standingAt(earlier: readonly ResolvedStep[], size: Size, active: boolean, { sampler, subject, assets }: Sight): PictureAtStep {
  const seen =
    sampler && active
      ? {
          copy: () => sampler.copy(earlier),
          patches: sampler.patches && ((options?: PatchOptions) => sampler.patches?.(earlier, size, options) ?? []),
        }
      : {}
  return {
    asset: assets && ((value) => assets.get(keptFileHash(value)) ?? missing(value)),
    caption: sampler && ((text) => expandCaption(text, subject)),
    size,
    seed: subject && seedOf(subject.name),
    iso: subject?.facts.iso,
    isRaw: isRaw(subject?.facts),
    raw: subject?.facts.raw,
    ...seen,
  }
}

/** Steps that stand for others replaced by those. */
export const playedOut = (steps: readonly ResolvedStep[]): ResolvedStep[] =>
  steps.flatMap((step) => (step.inner ? playedOut(step.inner) : [step]))

/** What resolving gave, in the order in which steps are resolved. */
export const constantsOf = (steps: readonly ResolvedStep[]): Constants[] =>
  steps.flatMap(({ constants, inner }) => [constants, ...constantsOf(inner ?? [])])

function known(constants: Iterator<Constants>): Constants {
  const { value, done } = constants.next()
  if (done) throw new Error('There are more steps than constants')
  return value
}

const noLimit: readonly Limit[] = []

/** Steps with the same key do the same to a picture. */
export const keyOf = (steps: readonly ResolvedStep[]): string =>
  JSON.stringify(
    playedOut(steps)
      .filter((step) => step.effect.kind !== 'none')
      .map(({ operation, constants, strength, blend, limit }) => [operation, constants, strength, blend, limit]),
  )

function missing(value: string): never {
  throw new AppError('keptFileMissing', { name: keptFileName(value) })
}

/** 32 bits of a name, by FNV-1a (Fowler, Noll & Vo 1991; constants from memory). */
function seedOf(name: string): number {
  let hash = 0x811c9dc5
  for (let i = 0; i < name.length; i++) hash = Math.imul(hash ^ name.charCodeAt(i), 0x01000193)
  return hash >>> 0
}

/** Full-size pixels after an effect. */
export function sizeAfter(effect: Effect, size: Size): Size {
  if (effect.kind === 'chain') return effect.effects.reduce((before, part) => sizeAfter(part, before), size)
  if (effect.kind === 'crop') return { width: effect.rect.width, height: effect.rect.height }
  if (effect.kind === 'turn' && effect.degrees % 180 !== 0) return { width: size.height, height: size.width }
  return effect.kind === 'resample' || effect.kind === 'warp' || effect.kind === 'pad' ? effect.size : size
}

/** Full-size pixels of the finished picture. */
export const finalSize = (steps: readonly ResolvedStep[], picture: Size): Size => steps.at(-1)?.sizeAfter ?? picture

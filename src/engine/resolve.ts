import { expandCaption } from '@/core/caption'
import { AppError } from '@/core/errors'
import type { Size } from '@/core/geometry'
import { type Asset, keptFileHash, keptFileName } from '@/core/kept-file'
import type { LinearPicture } from '@/core/linear-picture'
import { holds, type Subject } from '@/macro/condition'
import type { Limit } from '@/macro/limit'
import type { Blend, Step } from '@/macro/step'
import { type Constants, type Effect, findOperation, type PictureAtStep } from '@/operations'

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
}

/** Shows operations the picture they stand before. Asked only by those that measure it. */
export interface Eye {
  look(steps: readonly ResolvedStep[]): LinearPicture
  /** Pieces of the picture after the steps, at full size. */
  patches(steps: readonly ResolvedStep[], size: Size): readonly LinearPicture[]
}

/** What is known of the picture besides its size. Without a subject, conditions are taken to hold. */
export interface Sight {
  readonly eye?: Eye
  readonly subject?: Subject
  /** Files kept with the macros, by hash. */
  readonly assets?: ReadonlyMap<string, Asset>
}

/** A step that names an operation this version does not have. */
export class UnknownOperationError extends Error {
  override readonly name = 'UnknownOperationError'
  constructor(readonly operation: string) {
    super(`This macro needs the operation "${operation}", which this version does not have`)
  }
}

/** More pixels than any step may leave. */
const mostPixels = 5e8

/**
 * First half of every render: runs through the steps in order and turns settings into plain constants,
 * the same for preview and run. Steps that are off, or change nothing, resolve to the effect `none`. Without an eye,
 * operations that measure the picture leave it as it is: sizes come out right all the same.
 * @throws UnknownOperationError, AppError `resultTooLarge`
 */
export function resolveSteps(steps: readonly Step[], picture: Size, { eye, subject, assets }: Sight = {}): ResolvedStep[] {
  let size = picture
  const seed = subject && seedOf(subject.name)
  const resolved: ResolvedStep[] = []
  for (const step of steps) {
    const operation = findOperation(step.operation)
    if (!operation) throw new UnknownOperationError(step.operation)
    const applies = subject === undefined || step.when.every((condition) => holds(condition, subject))
    const active = applies && step.enabled && step.strengthPercent > 0
    const before = size
    const seen = eye && active ? { look: () => eye.look(resolved), patches: () => eye.patches(resolved, before) } : {}
    const asset = assets && ((value: string) => assets.get(keptFileHash(value)) ?? missing(value))
    const here: PictureAtStep = {
      asset,
      caption: eye && ((text: string) => expandCaption(text, subject)),
      size,
      seed,
      iso: subject?.facts.iso,
      ...seen,
    }
    const constants = operation.resolve(step.settings, here)
    const strength = step.strengthPercent / 100
    const effect: Effect = active ? operation.render(constants, here) : { kind: 'none' }
    size = sizeAfter(effect, size)
    if (size.width * size.height > mostPixels)
      throw new AppError('resultTooLarge', { operation: operation.name, ...size, limit: mostPixels / 1e6 })
    const { id: stepId, operation: operationId, blend, limit = noLimit } = step
    resolved.push({ stepId, operation: operationId, constants, effect, strength, blend, limit, applies, sizeAfter: size })
  }
  return resolved
}

const noLimit: readonly Limit[] = []

/** Steps with the same key do the same to a picture. */
export const keyOf = (steps: readonly ResolvedStep[]): string =>
  JSON.stringify(
    steps
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

function sizeAfter(effect: Effect, size: Size): Size {
  if (effect.kind === 'chain') return effect.effects.reduce((before, part) => sizeAfter(part, before), size)
  if (effect.kind === 'crop') return { width: effect.rect.width, height: effect.rect.height }
  if (effect.kind === 'turn' && effect.degrees % 180 !== 0) return { width: size.height, height: size.width }
  return effect.kind === 'resample' || effect.kind === 'warp' || effect.kind === 'pad' ? effect.size : size
}

/** Full-size pixels of the finished picture. */
export const finalSize = (steps: readonly ResolvedStep[], picture: Size): Size => steps.at(-1)?.sizeAfter ?? picture

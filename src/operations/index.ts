import { crop } from './crop'
import { exposure } from './exposure'
import { levels } from './levels'
import type { Operation } from './operation'
import { resize } from './resize'
import { saturation } from './saturation'
import { unsharpMask } from './unsharp-mask'

/** The catalogue, in the order in which operations are offered. */
export const operations: readonly Operation[] = [exposure, levels, saturation, unsharpMask, crop, resize]

const byId = new Map(operations.map((operation) => [operation.id, operation]))

/** The operation with this id, or undefined: a newer version may have written ids that this one lacks. */
export const findOperation = (id: string): Operation | undefined => byId.get(id)

export type { Constants, Domain, Effect, NeighbourhoodJob, Operation, OperationGroup, PictureAtStep, PointPass } from './operation'
export { operationGroups } from './operation'
export * from './settings'

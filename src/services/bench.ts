import { AppError } from '@/base/errors'
import type { BenchEdit } from '@/contract/requests'
import { checkChange } from '@/macros/check-change'
import { applyChange, type BenchDocument, type Change, completeChange, completeWire, emptyBench } from '@/macros/history'
import * as store from '@/store/bench'
import type { Context } from './context'

export type BenchRecord = store.StoredBench

/** The bench, with whatever an earlier version left there brought to what it is now. */
export function readBench({ db }: Context): BenchRecord {
  const { base, changes, ...rest } = store.readBench(db)
  return { ...rest, base: base && { ...base, steps: completeWire(base.steps) }, changes: changes.map(completeChange) }
}

/** @throws AppError `benchMoved` when another window was faster, `badRequest` and `macroInvalid` for what is no change */
export function extendBench({ db }: Context, edit: BenchEdit): void {
  const added = edit.added.map((change) => checkChange(change))
  const fold = (base: BenchDocument | null, changes: readonly Change[]): BenchDocument => changes.reduce(applyChange, base ?? emptyBench)
  if (!store.extendBench(db, { ...edit, added }, fold)) throw new AppError('benchMoved')
}

/** Lays pictures and what the wire is of on the bench: a macro of its own takes the place of a loop's picture, and the other way round. */
export const layOnBench = ({ db }: Context, laid: store.LaidOnBench): void =>
  store.layOnBench(db, laid.macroId !== undefined && laid.picture === undefined ? { ...laid, picture: null } : laid)

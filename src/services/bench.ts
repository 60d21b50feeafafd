import { AppError } from '@/base/errors'
import type { BenchEdit } from '@/contract/requests'
import { checkChange } from '@/macros/check-change'
import { applyChange, type BenchDocument, type Change, emptyBench } from '@/macros/history'
import * as store from '@/store/bench'
import type { Context } from './context'

export interface BenchRecord {
  /** What lay on the wire before the oldest change that is kept; null for nothing. */
  readonly base: BenchDocument | null
  /** How many changes that is. */
  readonly folded: number
  readonly changes: readonly Change[]
  /** Changes in force, folded ones among them. */
  readonly cursor: number
  readonly samplePath: string | null
  readonly samples: readonly string[]
  readonly macroId: string | null
}

export const readBench = ({ db }: Context): BenchRecord => store.readBench(db) as BenchRecord

/** @throws AppError `benchMoved` when another window was faster, `badRequest` and `macroInvalid` for what is no change */
export function extendBench({ db }: Context, edit: BenchEdit): void {
  for (const change of edit.added) checkChange(change)
  const fold = (base: unknown, changes: readonly unknown[]): BenchDocument =>
    (changes as readonly Change[]).reduce(applyChange, (base as BenchDocument | null) ?? emptyBench)
  if (!store.extendBench(db, edit, fold)) throw new AppError('benchMoved')
}

export const layOnBench = ({ db }: Context, laid: store.LaidOnBench): void => store.layOnBench(db, laid)

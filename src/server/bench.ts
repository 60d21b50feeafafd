import { AppError } from '@/core/errors'
import * as store from '@/db/bench'
import type { Change } from '@/macro/history'
import type { Context } from './context'

export interface BenchRecord {
  readonly changes: readonly Change[]
  readonly cursor: number
  readonly samplePath: string | null
  readonly samples: readonly string[]
  readonly macroId: string | null
}

export const readBench = ({ db }: Context): BenchRecord => store.readBench(db) as BenchRecord

/** An edit of the bench: where its new changes begin, and how many are in force afterwards. */
export interface BenchEdit {
  readonly from: number
  readonly expectedCursor: number
  readonly added: readonly Change[]
  readonly cursor: number
}

/** @throws AppError `benchMoved` when another window was faster */
export function extendBench({ db }: Context, edit: BenchEdit): void {
  if (!store.extendBench(db, edit)) throw new AppError('benchMoved')
}

export const placeOnBench = ({ db }: Context, placed: store.PlacedOnBench): void => store.placeOnBench(db, placed)

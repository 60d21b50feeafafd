import { routes } from '@/contract/routes'
import type { PictureOnBench } from '@/jobs/picture-wire'
import type { History } from '@/macros/history'
import { call } from '../api/client'
import { useBench } from './store'

/** Where the steps on the wire come from: a macro of the shelf, or a loop's picture. */
export interface WireOrigin {
  readonly macroId: string | null
  readonly picture: PictureOnBench | null
}

/** How many edits have been made on the bench, older ones that were folded together counted. */
export const editsMade = ({ folded, cursor }: Pick<History, 'folded' | 'cursor'>): number => folded + cursor

/**
 * Undoes what was laid over the wire, and says again where that came from. `edits`: how many there were with it: later ones are nobody's to take
 * back with it.
 */
export async function takeBackLaid(edits: number, origin: WireOrigin): Promise<void> {
  const { history, undo, set } = useBench.getState()
  if (editsMade(history) !== edits) throw new Error('More was done on the bench since. Undo goes back one edit at a time.')
  undo()
  set(origin)
  await call(routes.layOnBench, { body: origin })
}

/** Says, here and for the next visit, which macro of the shelf the steps on the wire are; null for none. */
export async function wireIsOf(macroId: string | null): Promise<void> {
  useBench.getState().set({ macroId, picture: null })
  await call(routes.layOnBench, { body: { macroId } })
}

import { replay } from '@/macros/history'
import { layMacro } from '@/macros/recorder'
import type { Step } from '@/macros/step'
import type { BenchRecord } from '@/services/bench'
import { get, post } from '../api/client'

/** Lays steps on the wire, as one edit that can be undone there. */
export async function layOnBench(steps: readonly Step[], macroId: string | null): Promise<void> {
  const stored = await get<BenchRecord>('/api/bench')
  const { document } = replay(stored.changes, stored.cursor - stored.folded, stored.base ?? undefined, stored.folded)
  const change = layMacro(document, steps, () => crypto.randomUUID())
  await post('/api/bench/changes', { from: stored.cursor, expectedCursor: stored.cursor, added: [change], cursor: stored.cursor + 1 })
  await post('/api/bench/place', { macroId })
}

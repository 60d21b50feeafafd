import { routes } from '@/contract/routes'
import { replay } from '@/macros/history'
import { layMacro } from '@/macros/recorder'
import type { Step } from '@/macros/step'
import { call } from '../api/client'

/** Lays steps on the wire, as one edit that can be undone there. */
export async function layOnBench(steps: readonly Step[], macroId: string | null): Promise<void> {
  const stored = await call(routes.bench, {})
  const { document } = replay(stored.changes, stored.cursor - stored.folded, stored.base ?? undefined, stored.folded)
  const change = layMacro(document, steps, () => crypto.randomUUID())
  const { cursor } = stored
  await call(routes.extendBench, { body: { from: cursor, expectedCursor: cursor, added: [change], cursor: cursor + 1 } })
  await call(routes.layOnBench, { body: { macroId } })
}

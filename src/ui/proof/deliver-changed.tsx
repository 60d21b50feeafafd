import { App, Button } from 'antd'
import { useRouter } from 'next/navigation'
import { memo, type ReactNode } from 'react'
import { useStartRun } from '../api/queries'
import type { ProofState } from './use-proof-state'

interface Props {
  loopId: string
  /** How many are to be delivered again. */
  count: number
  latest: { readonly current: ProofState }
}

function deliverWords(count: number): string {
  if (count === 0) return 'Deliver the changed'
  return count === 1 ? 'Deliver the changed one' : `Deliver the ${count.toLocaleString('en-GB')} changed`
}

/** Delivers those again that were touched up since they were delivered, each in the place of its own file. */
export const DeliverChanged = memo(function DeliverChanged({ loopId, count, latest }: Props): ReactNode {
  const { message } = App.useApp()
  const router = useRouter()
  const start = useStartRun()
  const deliver = (): void =>
    void latest.current.touchUps
      .stored()
      .then(() => start.mutateAsync({ loopId, only: 'touched' }))
      .then(
        (run) => router.push(`/runs/${run.id}`),
        (problem: Error) => void message.error(problem.message, 8),
      )
  return (
    <Button
      type="primary"
      disabled={count === 0}
      loading={start.isPending}
      onClick={deliver}
      title="Those that this loop delivered and that were touched up since; only files that are as they were delivered are replaced"
    >
      {deliverWords(count)}
    </Button>
  )
})

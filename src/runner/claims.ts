import { completeDelivery } from '@/jobs/delivery'
import type { ClaimedItem } from '@/store/queue'
import type { PictureTask } from './messages'
import { stepsOfItem } from './process-picture'
import type { Claim } from './queue'

/** A claim as the database has it, turned into all that a worker needs; the roots are its machine's own. */
export const claimOf = (claimed: ClaimedItem): Claim => ({
  task: taskOf(claimed),
  crashes: claimed.item.crashes,
  runNumber: claimed.run.number,
})

function taskOf({ run, item, results }: ClaimedItem): PictureTask {
  const { id: itemId, token, sourcePath, sizeBytes, modifiedMs } = item
  return {
    runId: run.id,
    itemId,
    token,
    damaged: run.damaged,
    sourcePath,
    sizeBytes,
    modifiedMs,
    steps: stepsOfItem(run.macros, item.touchUp),
    macros: run.macros.map(({ name, revision }) => ({ name, revision })),
    targets: results.flatMap((result) => {
      const delivery = run.deliveries.find((candidate) => candidate.id === result.deliveryId)
      return delivery
        ? [{ resultId: result.id, path: result.targetPath, delivery: completeDelivery(delivery), replaces: result.replaces }]
        : []
    }),
  }
}

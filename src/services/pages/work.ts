import { join } from 'node:path'
import type { Delivery } from '@/jobs/delivery'
import { edgeFor } from '@/sheets/layout'
import { gatheredFolder } from '../context'

/** Where a delivery's files end up: the pages, or the pictures themselves. */
export const endFolder = ({ gather, folder }: Delivery): string => gather?.folder || folder

/** What of a delivery decides what becomes of a picture: how its pages are laid does not. */
export function makingOfDelivery({ name: _, folderAsked: __, gather, ...delivery }: Delivery): unknown {
  return gather ? { ...delivery, gather: { kind: gather.kind, edge: edgeFor(gather) } } : delivery
}

/**
 * A delivery as a run carries it out. Where it gathers, its pictures wait as JPEG files, no larger than their places on the pages, in a folder
 * of the application's own, named after the run; the pages go where the delivery goes.
 */
export function asCarriedOut(delivery: Delivery, dataFolder: string, runNumber: number, index: number): Delivery {
  const { gather } = delivery
  if (!gather) return delivery
  const edges = [delivery.longEdgePx, edgeFor(gather)].filter((edge) => edge !== null)
  return {
    ...delivery,
    folder: join(gatheredFolder(dataFolder), String(runNumber), String(index + 1)),
    format: 'jpeg',
    longEdgePx: edges.length > 0 ? Math.min(...edges) : null,
    sidecar: false,
    mostKb: null,
    smallest: false,
    mirrorFolders: false,
    dpi: null,
    gather: { ...gather, folder: delivery.folder },
  }
}

import { routes } from '@/contract/routes'
import { type PictureOnBench, wireOfPicture } from '@/jobs/picture-wire'
import { type BenchDocument, type Change, replay } from '@/macros/history'
import { layMacro } from '@/macros/recorder'
import type { Step } from '@/macros/step'
import { call } from '../api/client'
import { maxSamples } from '../bench/store'
import type { WireOrigin } from '../bench/take-back-laid'

/** What was covered on the wire, and what it takes to take that back. */
export interface Covered {
  /** Steps that are on no shelf. */
  readonly unkept: number
  /** How many edits the bench has seen, with this one. */
  readonly edits: number
  readonly origin: WireOrigin
}

/** Makes one edit of what lies on the bench, which can be undone there. */
async function editBench(edit: (document: BenchDocument) => Change): Promise<Covered> {
  const { changes, cursor, folded, base, macroId, picture } = await call(routes.bench, {})
  const { document } = replay(changes, cursor - folded, base ?? undefined, folded)
  await call(routes.extendBench, { body: { from: cursor, expectedCursor: cursor, added: [edit(document)], cursor: cursor + 1 } })
  const unkept = document.steps.filter(({ kept }) => !kept || (macroId === null && picture === null)).length
  return { unkept, edits: cursor + 1, origin: { macroId, picture } }
}

/** Lays steps on the wire, over what lies there. */
export async function layOnBench(steps: readonly Step[], macroId: string | null): Promise<Covered> {
  const covered = await editBench((document) => layMacro(document, steps, () => crypto.randomUUID()))
  await call(routes.layOnBench, { body: { macroId } })
  return covered
}

/** Lays a picture of a loop on the stage, and all its steps on the wire. */
export async function layPictureOnBench(picture: PictureOnBench): Promise<void> {
  await editBench((document) => layMacro(document, wireOfPicture(picture)))
  const { samples } = await call(routes.bench, {})
  const tray = [picture.sourcePath, ...samples.filter((path) => path !== picture.sourcePath)].slice(0, maxSamples)
  await call(routes.layOnBench, { body: { macroId: null, picture, samplePath: picture.sourcePath, samples: tray } })
}

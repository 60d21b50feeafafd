import { routes } from '@/contract/routes'
import { type PictureOnBench, wireOfPicture } from '@/jobs/picture-wire'
import { type BenchDocument, type Change, replay } from '@/macros/history'
import { layMacro } from '@/macros/recorder'
import type { Step } from '@/macros/step'
import { call } from '../api/client'
import { maxSamples } from '../bench/store'

/** Makes one edit of what lies on the bench, which can be undone there. */
async function editBench(edit: (document: BenchDocument) => Change): Promise<void> {
  const stored = await call(routes.bench, {})
  const { document } = replay(stored.changes, stored.cursor - stored.folded, stored.base ?? undefined, stored.folded)
  const { cursor } = stored
  await call(routes.extendBench, { body: { from: cursor, expectedCursor: cursor, added: [edit(document)], cursor: cursor + 1 } })
}

/** Lays steps on the wire. */
export async function layOnBench(steps: readonly Step[], macroId: string | null): Promise<void> {
  await editBench((document) => layMacro(document, steps, () => crypto.randomUUID()))
  await call(routes.layOnBench, { body: { macroId } })
}

/** Lays a picture of a loop on the stage, and all its steps on the wire. */
export async function layPictureOnBench(picture: PictureOnBench): Promise<void> {
  await editBench((document) => layMacro(document, wireOfPicture(picture)))
  const { samples } = await call(routes.bench, {})
  const tray = [picture.sourcePath, ...samples.filter((path) => path !== picture.sourcePath)].slice(0, maxSamples)
  await call(routes.layOnBench, { body: { macroId: null, picture, samplePath: picture.sourcePath, samples: tray } })
}

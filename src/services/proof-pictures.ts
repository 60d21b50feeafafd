import { createHash, randomUUID } from 'node:crypto'
import { mkdir, readFile, rename, stat, writeFile } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import sharp from 'sharp'
import { AppError } from '@/base/errors'
import { memoised } from '@/base/lru-cache'
import { Sample } from '@/engine/sample'
import { finishedTraits } from '@/engine/traits'
import { built } from '@/files/built'
import { type DecodeOptions, decodePicture } from '@/files/decode'
import { readFacts } from '@/files/facts'
import { readRegular } from '@/files/open-file'
import { assetsFor } from '@/files/step-assets'
import { stepsFor } from '@/jobs/delivery-steps'
import type { Loop } from '@/jobs/loop'
import { type TouchUp, touchedSteps, untouched } from '@/jobs/touch-up'
import { startedRaw } from '@/macros/raw-start'
import { completeSteps, type Step } from '@/macros/step'
import { detailOf } from '@/pixels/detail'
import type { PictureTraits } from '@/pixels/traits'
import type { FrozenMacro } from '@/store/schema'
import { findTouchUp, inForce } from '@/store/touch-ups'
import { addedToCache, cacheFolder } from './cache'
import type { Context } from './context'
import { keptFilesFolder } from './kept-files'
import { kernels } from './kernels'
import { loopById } from './loops'
import { frozenMacros } from './preflight/frozen-macros'

/*
 * Small pictures of what a loop will make of its sources, and what is measured on them: made once, and kept under everything that they
 * depend on.
 */

/** Rises when the same steps come out otherwise, or something else is measured. */
const makingVersion = 1
/** Long edge of the small picture. */
const smallEdge = 320

interface SourceFile {
  readonly sourcePath: string
  readonly sizeBytes: number
  readonly modifiedMs: number
}

/** What a loop's pictures are put through, as its first delivery takes it. */
export interface ProofMaking {
  readonly loop: Loop
  readonly macros: readonly FrozenMacro[]
}

export const makingOfProof = (context: Context, loopId: string): ProofMaking => {
  const loop = loopById(context, loopId)
  return { loop, macros: frozenMacros(context, loop, () => undefined) }
}

const stepsOf = ({ loop, macros }: ProofMaking, touchUp: TouchUp): Step[] => {
  const steps = touchedSteps(
    macros.map((macro) => ({ ...macro, steps: completeSteps(macro.steps) })),
    touchUp,
  ).filter(({ enabled }) => enabled)
  return stepsFor(loop.deliveries[0] ?? { stamps: true }, startedRaw(steps, macros))
}

/** Names small pictures of a loop, each by everything that it depends on. */
export function proofKeys(making: ProofMaking): (file: SourceFile, touchUp: TouchUp) => string {
  // Most pictures of a set have nothing of their own: their steps are put into words once.
  const said = memoised((touchUp: TouchUp) => JSON.stringify(stepsOf(making, touchUp)))
  return ({ sourcePath, sizeBytes, modifiedMs }, touchUp) =>
    createHash('sha1')
      .update(JSON.stringify([makingVersion, sourcePath, sizeBytes, modifiedMs]) + said(touchUp))
      .digest('hex')
}

const folderOf = ({ dataFolder }: Context, key: string): string => join(cacheFolder(dataFolder), 'proof', key.slice(0, 2))
const pictureFile = (context: Context, key: string): string => join(folderOf(context, key), `${key}.jpg`)
const traitsFile = (context: Context, key: string): string => join(folderOf(context, key), `${key}.json`)

/** What was measured on a small picture, where it has been made. */
export const knownTraits = async (context: Context, key: string): Promise<PictureTraits | null> => {
  const text = await readFile(traitsFile(context, key), 'utf8').catch(() => null)
  return text === null ? null : JSON.parse(text)
}

export interface ProofSmall {
  readonly key: string
  /** The cached file. */
  readonly file: string
  readonly traits: PictureTraits
}

/** A picture of a loop, small, with what it has of its own now. @throws AppError as reading and the steps do */
export async function proofSmall(context: Context, { loopId, path }: { loopId: string; path: string }): Promise<ProofSmall> {
  const making = makingOfProof(context, loopId)
  const sourcePath = context.roots.check(path)
  const known = await stat(sourcePath).catch(() => {
    throw new AppError('fileMissing', { path })
  })
  const stored = findTouchUp(context.db, loopId, sourcePath)
  const touchUp = stored ? inForce(stored) : untouched
  const key = proofKeys(making)({ sourcePath, sizeBytes: known.size, modifiedMs: Math.floor(known.mtimeMs) }, touchUp)
  const file = pictureFile(context, key)
  const before = await knownTraits(context, key)
  if (before) return { key, file, traits: before }
  const { jpeg, traits } = await make(context, sourcePath, stepsOf(making, touchUp))
  await keep(file, jpeg)
  // Last: whoever finds it finds the picture, too.
  await keep(traitsFile(context, key), JSON.stringify(traits))
  addedToCache(context, jpeg.length)
  return { key, file, traits }
}

export async function keep(path: string, content: Buffer | string): Promise<void> {
  const temporary = `${path}.${randomUUID()}`
  await mkdir(dirname(path), { recursive: true })
  await writeFile(temporary, content)
  await rename(temporary, path)
}

/** A picture reduced, to be put through steps. @throws AppError as reading does */
export async function openSample(context: Context, path: string, steps: readonly Step[], options: DecodeOptions = {}) {
  const bytes = await readRegular(path, context.roots)
  const [{ source }, facts] = await Promise.all([decodePicture(bytes, path, options), readFacts(bytes, path)])
  const assets = await assetsFor(steps, { files: keptFilesFolder(context.dataFolder), fonts: built('fonts') })
  return { source, sample: new Sample(await kernels(), source, { facts, name: basename(path) }, assets) }
}

async function make(context: Context, path: string, steps: readonly Step[]): Promise<{ jpeg: Buffer; traits: PictureTraits }> {
  const { source, sample } = await openSample(context, path, steps)
  const { size, pixels: values } = sample.render(steps)
  const jpeg = await sharp(values, { raw: { ...size, channels: 4 } })
    .removeAlpha()
    .resize(smallEdge, smallEdge, { fit: 'inside', withoutEnlargement: true })
    .jpeg({ quality: 82, chromaSubsampling: '4:4:4' })
    .toBuffer()
  // Sharpness and noise are not to be seen on a small copy: they are told as they were taken.
  const measuring = await kernels()
  const taken = detailOf(measuring, { size: source.size, values: source.pixels, channels: 3 })
  const finished = finishedTraits(measuring, { size, values, channels: 4 }, { hasDetail: false })
  const traits = { ...finished, ...taken, cutPercent: sample.cutPercent(steps) }
  return { jpeg, traits }
}

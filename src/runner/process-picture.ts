import { realpathSync } from 'node:fs'
import { basename, join, relative } from 'node:path'
import type { Kernels } from '@kernels/binding'
import { isWholeJpeg } from '@kernels/jpeg-scan'
import { AppError, type ErrorReport, reportOf } from '@/base/errors'
import type { Size } from '@/base/geometry'
import { lruCached } from '@/base/lru-cache'
import { layOnWhite, opacitySource, planOpacity, renderOpacity } from '@/engine/opacity'
import { type Plan, planRender } from '@/engine/plan'
import { holdFrame, renderEncoded, renderEncoded16 } from '@/engine/render'
import { finalSize, playedOut, type ResolvedStep, resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import type { HeldSource } from '@/engine/source'
import { subjectCutPercent } from '@/engine/subject-cut'
import { finishedTraits } from '@/engine/traits'
import { type DecodedPicture, decodePicture } from '@/files/decode'
import { type EncodedPixels, encodePicture, withOpacity } from '@/files/encode'
import { readFacts } from '@/files/facts'
import { metadataFor } from '@/files/metadata/metadata'
import { openRegular, readRegular } from '@/files/open-file'
import { placeFile, sha256 } from '@/files/placing'
import { Roots } from '@/files/roots'
import { type AssetFolders, assetsFor } from '@/files/step-assets'
import type { Delivery } from '@/jobs/delivery'
import { deliverySteps, stepsFor } from '@/jobs/delivery-steps'
import { bitsOf, formats } from '@/jobs/encoding'
import { type MetadataWishes, mapFields, type WrittenFields } from '@/jobs/metadata-policy'
import { sidecarFormat, sidecarPath, sidecarVersion } from '@/jobs/sidecar'
import { type TouchUp, touchedSteps, untouched } from '@/jobs/touch-up'
import { isRaw, startedRaw } from '@/macros/raw-start'
import { completeSteps, type Step } from '@/macros/step'
import { type CaptionSubject, expandCaption } from '@/operations/declare/caption'
import type { Asset } from '@/pixels/kept-file'
import type { PictureFacts } from '@/pixels/picture'
import type { FrozenMacro } from '@/store/schema'
import type { PictureDelivery, PictureJob, PictureOutcome } from './messages'

/**
 * A picture's whole way through a run. Never throws: whatever goes wrong becomes this picture's own error, and no
 * other picture's. A fault of the place (`mendable`) leaves the picture to be tried again.
 */
export async function processPicture(
  kernels: Kernels,
  job: PictureJob,
  folders: AssetFolders = { files: '', fonts: '' },
  mayPlace: () => Promise<boolean> = async () => true,
): Promise<PictureOutcome> {
  const started = performance.now()
  const outcome = (rest: Omit<PictureOutcome, 'milliseconds'>): PictureOutcome => ({
    ...rest,
    milliseconds: Math.round(performance.now() - started),
  })
  const delivered: PictureDelivery[] = []
  const { heap } = kernels
  const mark = heap.mark()
  let sourceHash: string | undefined
  try {
    const roots = new Roots(job.roots)
    const bytes = await readRegular(job.sourcePath, roots)
    sourceHash = sha256(bytes)
    const assets = await assetsFor(job.steps, folders)
    const decoded = await decodePicture(bytes, job.sourcePath, { damaged: job.damaged, isWholeJpeg: (jpeg) => isWholeJpeg(kernels, jpeg) })
    const picture = { assets, ...decoded, facts: await readFacts(bytes, job.sourcePath), hash: sourceHash }
    const steps = isRaw(picture.facts) ? startedRaw(job.steps, job.macros) : job.steps
    const work = { kernels, job: { ...job, steps }, roots, picture, mayPlace }
    const common = commonRenders(work)
    await overlapping(job.targets, (target) => deliver(work, common(target.delivery), target), delivered)
    const sourceUnchanged = await isUnchanged(job, bytes, roots)
    const { width, height } = picture.source.size
    return outcome({ state: 'done', sourceHash, sourceUnchanged, width, height, remarks: remarksOf(picture, job.sourcePath), delivered })
  } catch (error) {
    return outcome({ state: 'failed', sourceHash, error: reportOf(error), delivered })
  } finally {
    // Frames that its deliveries shared.
    heap.release(mark)
  }
}

/**
 * While one delivery is encoded and written, the next is rendered; no more than two lie in memory. Whatever was made
 * is in `made`, in order, also where a delivery fails; none is still under way then.
 */
async function overlapping<T, R>(targets: readonly T[], work: (target: T) => Promise<R>, made: R[]): Promise<void> {
  let before: Promise<R> | undefined
  try {
    for (const target of targets) {
      const earlier = before
      before = work(target)
      // Its failure is met when it is its turn.
      before.catch(() => undefined)
      if (earlier !== undefined) made.push(await earlier)
    }
  } finally {
    const [last] = await Promise.allSettled([before])
    if (last?.status === 'fulfilled' && last.value !== undefined) made.push(last.value)
  }
  await before
}

/** What should be known of a picture though it was delivered. */
function remarksOf({ damage, facts: { frames } }: Picture, path: string): ErrorReport[] {
  return [...(damage ? [damage] : []), ...(frames ? [{ code: 'oneFrame', details: { path, frames } } as const] : [])]
}

/** A source that has been read: its pixels, what it tells, the hash of its file, and the files its steps need. */
type Picture = DecodedPicture & { readonly facts: PictureFacts; readonly assets: ReadonlyMap<string, Asset>; readonly hash: string }

/** A picture on its way: with what, what is wanted, and the source. */
interface Work {
  readonly kernels: Kernels
  readonly job: PictureJob
  readonly roots: Roots
  readonly picture: Picture
  /** Whether the picture is still this worker's: asked before a file is placed. */
  readonly mayPlace: () => Promise<boolean>
}

/** What all deliveries of a picture share: the macros' steps, resolved, and their result where it pays to hold it. */
interface Common {
  readonly steps: readonly ResolvedStep[]
  readonly frame?: HeldSource
  /** How much of the subject they leave outside the frame. */
  readonly cutPercent: number
}

/** A finished picture larger than this is rendered anew for each delivery: three planes of floats would take too much memory. */
const maxHeldPixels = 36e6

/** What the deliveries share, made once for those with stamps and once for those without. */
function commonRenders(work: Work): (delivery: Delivery) => Common {
  const { job } = work
  const made = new Map<string, Common>()
  return (delivery) => {
    const steps = stepsFor(delivery, job.steps)
    const key = JSON.stringify(steps)
    const sharing = job.targets.filter((target) => JSON.stringify(stepsFor(target.delivery, job.steps)) === key)
    return lruCached(made, key, Number.POSITIVE_INFINITY, () => renderCommon(work, steps, sharing))
  }
}

function renderCommon(
  { kernels, job, picture: { source, facts, assets } }: Work,
  wanted: readonly Step[],
  sharing: readonly PictureJob['targets'][number][],
): Common {
  const sampler = createSampler(kernels, source)
  const steps = resolveSteps(wanted, source.size, { sampler, subject: { facts, name: basename(job.sourcePath) }, assets })
  const cutPercent = subjectCutPercent(kernels, () => sampler.copy([]), source.size, steps)
  const size = finalSize(steps, source.size)
  const pays = sharing.length > 1 && wanted.length > 0 && size.width * size.height <= maxHeldPixels
  if (!pays) return { steps, cutPercent }
  // Held in linear light if all go on from there: then it is converted once.
  const allReduce = sharing.every(({ delivery }) => beginsWith(ownSteps(delivery, size)) === 'resample')
  return { steps, cutPercent, frame: holdFrame(kernels, planRender(source, steps, 'full'), allReduce ? 'linear' : undefined) }
}

const beginsWith = (steps: readonly ResolvedStep[]): string | undefined => steps.find(({ effect }) => effect.kind !== 'none')?.effect.kind

/** A delivery's own steps: its size, and what belongs to it. */
const ownSteps = (delivery: Delivery, size: Size): ResolvedStep[] => resolveSteps(deliverySteps(delivery), size)

/** A delivery's fields with the picture's own words in their braces. */
const fieldsFor = ({ fields }: MetadataWishes, subject: CaptionSubject): WrittenFields =>
  mapFields(fields, (line) => expandCaption(line, subject))

async function deliver(
  { kernels, job, roots, picture: { source, carried, facts, hash }, mayPlace }: Work,
  { steps: common, frame, cutPercent }: Common,
  target: PictureJob['targets'][number],
): Promise<PictureDelivery> {
  const own = ownSteps(target.delivery, finalSize(common, source.size))
  const steps = [...common, ...own]
  const size = finalSize(steps, source.size)
  const plan = frame ? planRender(frame, own, 'full') : planRender(source, steps, 'full')
  const opacity = opacitySource(source)
  const seen = opacity && renderOpacity(kernels, planOpacity(opacity, steps, 'full'))
  const pixels = renderPixels(kernels, plan, target.delivery, seen)
  const { metadata } = target.delivery
  const text = await metadataFor(carried, { ...metadata, fields: fieldsFor(metadata, { facts, name: basename(job.sourcePath) }) })
  const file = await encodePicture(pixels, size, target.delivery, text)
  const attempt = { runId: job.runId, resultId: target.resultId, token: job.token }
  const base = baseOf(target.delivery.folder, roots)
  const place = join(base, relative(target.delivery.folder, target.path))
  if (!(await mayPlace())) throw new AppError('claimLost', { path: job.sourcePath })
  await placeFile(file, { base, target: place, attempt, replaces: target.replaces })
  const constants = playedOut(steps).map(({ stepId, operation, constants }) => ({ stepId, operation, constants }))
  if (target.delivery.sidecar) {
    const text = sidecarFor(job, target.delivery, { sourceHash: hash, pictureHash: sha256(file), constants })
    const sidecar = sidecarPath(place)
    await placeFile(Buffer.from(text), { base, target: sidecar, attempt, replaces: await ownSidecar(sidecar, target.replaces) })
  }
  const traits = { ...finishedTraits(kernels, { ...pixels, size }, { hasDetail: true }), cutPercent }
  return { resultId: target.resultId, targetPath: target.path, sizeBytes: file.length, hash: sha256(file), ...size, constants, traits }
}

/**
 * Where a delivery's folder really leads: below a root. One that is not there is a fault of the place, which placing meets.
 * @throws AppError `outsideRoots`
 */
function baseOf(folder: string, roots: Roots): string {
  const real = realIfThere(folder)
  if (real === undefined) return folder
  if (!roots.holds(real)) throw new AppError('outsideRoots', { path: folder })
  return real
}

function realIfThere(path: string): string | undefined {
  try {
    return realpathSync(path)
  } catch {
    return undefined
  }
}

/** The hash of the sidecar that lies there, if it tells of the picture that is replaced. */
async function ownSidecar(path: string, replaces: string | null): Promise<string | null> {
  if (!replaces) return null
  try {
    const bytes = await readRegular(path)
    const { format, sha256: text } = JSON.parse(bytes.toString('utf8'))
    return format === sidecarFormat && text === replaces ? sha256(bytes) : null
  } catch {
    return null
  }
}

/** Everything that decided what a picture became, as JSON: the same source and these steps make the same file again. Holds no time. */
function sidecarFor(
  { sourcePath, macros, steps }: PictureJob,
  delivery: Delivery,
  { sourceHash, pictureHash, constants }: { sourceHash: string; pictureHash: string; constants: readonly unknown[] },
): string {
  const { id: _, folder: __, ...as } = delivery
  const text = {
    format: sidecarFormat,
    version: sidecarVersion,
    source: { name: basename(sourcePath), sha256: sourceHash },
    sha256: pictureHash,
    macros,
    steps: stepsFor(delivery, steps),
    delivery: as,
    constants,
  }
  return `${JSON.stringify(text, null, 2)}\n`
}

/** The finished picture in the delivery's own colours and depth; on white, where its format knows no opacity. */
function renderPixels(kernels: Kernels, plan: Plan, delivery: Delivery, opacity?: Float32Array): EncodedPixels {
  const { space, gamut, dither } = delivery
  const values =
    bitsOf(delivery) === 16
      ? renderEncoded16(kernels, plan, { space, gamut })
      : renderEncoded(kernels, plan, { space, gamut, channels: 3, dither })
  if (opacity && formats[delivery.format].hasOpacity) return withOpacity(values, opacity)
  if (opacity) layOnWhite(values, 3, opacity)
  return { values, channels: 3 }
}

/** What of a file is compared at a time. */
const partBytes = 1 << 20

/** The original again, after the work on it: size and time as they were when the list was made, content as it was read. */
async function isUnchanged(job: PictureJob, bytes: Buffer, roots: Roots): Promise<boolean> {
  const file = await openRegular(job.sourcePath, roots).catch(() => undefined)
  if (!file) return false
  try {
    const { size, mtimeMs } = await file.stat()
    if (size !== job.sizeBytes || Math.floor(mtimeMs) !== job.modifiedMs) return false
    let at = 0
    for await (const part of file.createReadStream({ autoClose: false, highWaterMark: partBytes })) {
      if (!bytes.subarray(at, at + part.length).equals(part)) return false
      at += part.length
    }
    return at === bytes.length
  } finally {
    await file.close()
  }
}

/** A picture's steps: those of the run's macros in order, with what it has of its own. */
export const stepsOfItem = (macros: readonly FrozenMacro[], touchUp: TouchUp | null): Step[] =>
  touchedSteps(
    macros.map((macro) => ({ ...macro, steps: completeSteps(macro.steps) })),
    touchUp ?? untouched,
  )

import { constants } from 'node:fs'
import { access, stat, statfs } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { AppError, errorSentence } from '@/base/errors'
import { counted, formatBytes } from '@/base/format'
import { orientationOf } from '@/base/geometry'
import { bitsOf, type Encoding, type EncodingFormat } from '@/jobs/encoding'
import type { Loop } from '@/jobs/loop'
import { keptFilesOf } from '@/macros/kept-files'
import { isRaw, makesPictures } from '@/macros/raw-start'
import { type Step, withInnerSteps } from '@/macros/step'
import { findOperation } from '@/operations'
import { keptFileHash, keptFileName } from '@/pixels/kept-file'
import type { FrozenMacro } from '@/store/schema'
import type { Context } from '../context'
import { fileExists } from '../files'
import { keptFilesFolder } from '../kept-files'
import type { CheckedDelivery, ForeseenPicture } from './foresee'
import type { KnownPicture } from './intake'
import type { AddProblem } from './problems'

/*
 * What else a preflight looks at: whatever would make a run fail half way, or end in files that nobody wanted.
 */

/** Stamps, looks and reference pictures that are gone. */
export async function checkKeptFiles({ dataFolder }: Context, macros: readonly FrozenMacro[], add: AddProblem): Promise<void> {
  for (const { name: macro, steps } of macros)
    for (const value of keptFilesOf(steps))
      if (!(await fileExists(join(keptFilesFolder(dataFolder), keptFileHash(value)))))
        add('macros', true, `${macro}: ${errorSentence({ code: 'keptFileMissing', details: { name: keptFileName(value) } })}`)
}

/** Macros of which nothing is left to do. */
export function checkIdleMacros(loop: Loop, macros: readonly FrozenMacro[], add: AddProblem): void {
  for (const { macroId, name, steps } of macros)
    if (!steps.some(({ enabled, strengthPercent }) => enabled && strengthPercent > 0))
      add('macros', false, `${name} changes nothing: it has no step that is on.`, {
        mend: { label: 'Take it off the loop', change: { macros: loop.macros.filter((use) => use.macroId !== macroId) } },
      })
}

/** The nearest folder that is there already. */
async function nearest(folder: string): Promise<string> {
  const known = await stat(folder).catch(() => undefined)
  const parent = dirname(folder)
  return known || parent === folder ? folder : nearest(parent)
}

/** Bytes a pixel of what a format makes of photographs at a usual quality (measured on the demo set, rounded up). */
const bytesPerPixel: Readonly<Record<EncodingFormat, number>> = { jpeg: 0.5, png: 2, tiff: 2.6, webp: 0.35, avif: 0.3 }

const bytesFor = (encoding: Encoding, pixels: number): number => {
  const usual = pixels * bytesPerPixel[encoding.format] * (bitsOf(encoding) / 8)
  return encoding.mostKb === null ? usual : Math.min(usual, encoding.mostKb * 1000)
}

/** About how many bytes a run will deliver. */
export function estimateBytes(pictures: readonly ForeseenPicture[], deliveries: readonly CheckedDelivery[]): number {
  const encodings = new Map(deliveries.map(({ delivery }) => [delivery.id, delivery]))
  return pictures.reduce((sum, { skip, targets }) => {
    if (skip) return sum
    return targets.reduce((own, { deliveryId, size }) => {
      const encoding = encodings.get(deliveryId)
      return own + (encoding ? bytesFor(encoding, size.width * size.height) : 0)
    }, sum)
  }, 0)
}

/** Folders that can't be written to, and disks that are too small for all of it. Gives what is left on the fullest disk; null where none tells. */
export async function checkPlaces(folders: readonly string[], bytes: number, add: AddProblem): Promise<number | null> {
  let min = Number.POSITIVE_INFINITY
  for (const folder of folders) {
    const there = await nearest(folder)
    const writable = await access(there, constants.W_OK).then(
      () => true,
      () => false,
    )
    if (!writable) add('delivery', true, `Nothing can be written to ${there}. Change its permissions, or choose another folder.`)
    const disk = await statfs(there).catch(() => undefined)
    const free = disk ? disk.bavail * disk.bsize : Number.POSITIVE_INFINITY
    min = Math.min(min, free)
    if (bytes > free)
      add(
        'delivery',
        true,
        `The run needs about ${formatBytes(bytes)}, and the disk that holds ${there} has ${formatBytes(free)} left. Free some space, or deliver elsewhere.`,
      )
  }
  return Number.isFinite(min) ? min : null
}

/** Pictures that have fewer pixels than is cut out of them. */
export function remarkShort(pictures: readonly ForeseenPicture[], add: AddProblem): void {
  const short = pictures.filter(({ targets }) => targets.some((target) => target.short)).length
  if (short > 0)
    add(
      'pictures',
      false,
      `${counted(short, 'picture')} ${short === 1 ? 'has' : 'have'} fewer pixels than a crop asks for and will come out smaller.`,
    )
}

/** Raw files of which no step makes a picture. Where no macro is laid at all, one is made by itself. */
export function remarkFlatRaw(
  known: readonly Pick<KnownPicture, 'facts'>[],
  macros: readonly Pick<FrozenMacro, 'steps'>[],
  add: AddProblem,
): void {
  const raw = known.filter(({ facts }) => !(facts instanceof AppError) && isRaw(facts)).length
  if (raw === 0 || macros.length === 0 || macros.some(({ steps }) => makesPictures(withInnerSteps(steps)))) return
  add(
    'macros',
    false,
    `${counted(raw, 'raw file')} will come out flat: no step makes a picture of ${raw === 1 ? 'it' : 'them'}. Add Base curve, before what is done to pictures.`,
  )
}

const longest = ({ width, height }: { width: number; height: number }): number => Math.max(width, height)

/** Pictures that come out larger than they were: blown up, or bordered. */
export function remarkEnlarged(pictures: readonly ForeseenPicture[], add: AddProblem): void {
  const larger = pictures.filter(
    ({ sizeBefore, targets }) => sizeBefore && targets.some(({ size }) => longest(size) > longest(sizeBefore)),
  ).length
  if (larger > 0)
    add(
      'pictures',
      false,
      `${counted(larger, 'picture')} will be larger than the source. A resize that may enlarge, or a border, does that.`,
    )
}

/** Whether a step cuts or fills a shape of its own, whichever way the picture lies. */
const holdsItsShape = ({ enabled, operation, settings }: Step): boolean =>
  enabled && findOperation(operation)?.holdsShape?.(settings) === true

/** Pictures lying the other way than a crop of fixed shape: most of them would be lost. */
export function remarkShapes(loop: Loop, pictures: readonly ForeseenPicture[], macros: readonly FrozenMacro[], add: AddProblem): void {
  if (!macros.some(({ steps }) => withInnerSteps(steps).some(holdsItsShape))) return
  const standing = { portrait: 'landscape', landscape: 'portrait' } as const
  for (const from of ['portrait', 'landscape'] as const) {
    const to = standing[from]
    const turned = pictures.filter(
      ({ sizeBefore, targets }) =>
        sizeBefore && orientationOf(sizeBefore) === from && targets.some(({ size }) => orientationOf(size) === to),
    ).length
    if (turned > 0)
      add(
        'pictures',
        false,
        `${counted(turned, `${from} picture`)} will come out as ${to}: a step of fixed shape does not turn with the picture. Let it turn, or take only one orientation.`,
        {
          mend: {
            label: `Take only ${to} pictures`,
            change: { intake: { ...loop.intake, only: [...loop.intake.only, { kind: 'orientation', is: to }] } },
          },
        },
      )
  }
}

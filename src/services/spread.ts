import PQueue from 'p-queue'
import sharp from 'sharp'
import { AppError } from '@/base/errors'
import { readerOptions } from '@/files/facts'
import { readRegular } from '@/files/open-file'
import type { Roots } from '@/files/roots'
import { type FoundPicture, scanIntake } from '@/files/scan'
import type { PictureFacts } from '@/pixels/picture'
import type { Context } from './context'
import { knownFacts } from './preflight/known-facts'

/** A picture worth trying a macro on, and what makes it so. */
export interface SpreadPicture {
  readonly path: string
  readonly why: string
}

/** Of more pictures than this only some are looked at, evenly spread. */
const maxLookedAt = 240
const looking = new PQueue({ concurrency: 4 })

interface Seen {
  readonly path: string
  readonly facts: PictureFacts
  /** Mean of the small copy's codes. */
  readonly brightness: number
}

async function see(picture: FoundPicture, roots: Roots): Promise<Seen | undefined> {
  const facts = await knownFacts(picture, roots)
  if (facts instanceof AppError) return undefined
  const bytes = await readRegular(picture.path, roots).catch(() => undefined)
  if (!bytes) return undefined
  const stats = await sharp(bytes, readerOptions)
    .resize(48, 48, { fit: 'inside' })
    .flatten({ background: '#ffffff' })
    .toColourspace('b-w')
    .stats()
    .catch(() => undefined)
  const brightness = stats?.channels[0]?.mean
  return brightness === undefined ? undefined : { path: picture.path, facts, brightness }
}

/** Within this share of each other, sides count as a square's. */
const squareShare = 0.05

const isSquare = ({ width, height }: PictureFacts['size']): boolean => Math.abs(width - height) <= squareShare * Math.max(width, height)

/** Different pictures of a folder and its subfolders: the darkest, brightest, noisiest, one of each shape, and one from the middle. */
export async function pickSpread({ roots }: Context, folder: string): Promise<SpreadPicture[]> {
  const { found } = await scanIntake({ folder: roots.check(folder), subfolders: true })
  const step = Math.max(1, Math.ceil(found.length / maxLookedAt))
  const seen = (await looking.addAll(found.filter((_, i) => i % step === 0).map((picture) => () => see(picture, roots)))).filter(
    (picture): picture is Seen => picture !== undefined,
  )
  const sorted = seen.toSorted((a, b) => a.brightness - b.brightness)
  const middle = sorted[sorted.length >> 1]
  const nearMiddle = (fits: (picture: Seen) => boolean): Seen | undefined =>
    seen
      .filter(fits)
      .toSorted((a, b) => Math.abs(a.brightness - (middle?.brightness ?? 0)) - Math.abs(b.brightness - (middle?.brightness ?? 0)))[0]
  const noisy = seen.filter(({ facts }) => facts.iso !== undefined).toSorted((a, b) => (b.facts.iso ?? 0) - (a.facts.iso ?? 0))[0]
  const chosen: readonly [Seen | undefined, string][] = [
    [middle, 'in the middle'],
    [sorted[0], 'darkest'],
    [sorted.at(-1), 'brightest'],
    [noisy, `noisiest, ISO ${noisy?.facts.iso}`],
    [nearMiddle(({ facts: { size } }) => !isSquare(size) && size.height > size.width), 'portrait'],
    [nearMiddle(({ facts: { size } }) => !isSquare(size) && size.width > size.height), 'landscape'],
    [nearMiddle(({ facts: { size } }) => isSquare(size)), 'square'],
  ]
  const spread = new Map<string, string>()
  for (const [picture, why] of chosen) if (picture && !spread.has(picture.path)) spread.set(picture.path, why)
  return [...spread].map(([path, why]) => ({ path, why }))
}

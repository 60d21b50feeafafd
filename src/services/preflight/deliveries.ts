import { basename, dirname, join, relative, sep } from 'node:path'
import { AppError, errorSentence, reportOf } from '@/base/errors'
import { counted } from '@/base/format'
import { type NamePattern, PatternError, parsePattern } from '@/files/names'
import { isPassedOver } from '@/files/scan'
import { type Delivery, deliveryForNeed, folderForNeed } from '@/jobs/delivery'
import { formatOf, type Gather } from '@/jobs/gather'
import { foldersOf, type Loop } from '@/jobs/loop'
import { checkCaption } from '@/operations/declare/caption'
import { mostPagePixels, pagePixels } from '@/sheets/raster'
import { checkPageLine } from '@/sheets/words'
import type { PictureNumber } from '@/store/picture-numbers'
import type { Context } from '../context'
import { asCarriedOut } from '../pages/work'
import type { CheckedDelivery, ForeseenPicture, ForeseenTarget } from './foresee'
import { type AddProblem, askedBefore, type Mend, type Problem } from './problems'

/* What a preflight finds about where results go and how they are called. */

/** Deliveries whose folder may be used and whose names can be made. */
export function checkDeliveries(context: Context, loop: Loop, runNumber: number, tell: AddProblem): CheckedDelivery[] {
  if (loop.deliveries.length === 0)
    tell('delivery', true, 'Add a delivery: a folder for the finished pictures.', { mend: webSetMend(context, loop) })
  return loop.deliveries.flatMap((delivery, index) => {
    const add = askedBefore(delivery.folderAsked, tell)
    if (!delivery.folder) {
      const which = loop.deliveries.length > 1 ? `: ${delivery.name}` : ''
      const asked = `Where to is asked before each run, and nothing is answered yet${which}.`
      add('delivery', true, delivery.folderAsked ? asked : `Choose the folder to deliver to${which}.`, { toFillIn: true })
      return []
    }
    try {
      const folder = context.roots.check(delivery.folder)
      const overlap = overlapWith(context, loop, delivery, folder)
      if (overlap) add('delivery', true, overlap.sentence, { mend: overlap.mend })
      const pattern = patternOf(loop, delivery, tell)
      for (const line of Object.values(delivery.metadata.fields)) checkCaption(line)
      if (delivery.gather) checkPages(delivery.gather, tell)
      const carriedOut = asCarriedOut({ ...delivery, folder }, context.dataFolder, runNumber, index)
      return pattern ? [{ delivery: carriedOut, folder: carriedOut.folder, pattern }] : []
    } catch (error) {
      add('delivery', true, error instanceof PatternError ? `${error.message}.` : errorSentence(reportOf(error)))
      return []
    }
  })
}

/** Lines of pages that can't be read, and pages too large to be made as pictures. */
function checkPages(gather: Gather, tell: AddProblem): void {
  for (const text of [gather.head, gather.foot, gather.fileName]) checkPageLine(text)
  for (const text of gather.captions) if (text.trim()) parsePattern(text)
  const { width, height } = pagePixels(gather)
  if (formatOf(gather) !== 'pdf' && width * height > mostPagePixels)
    tell('delivery', true, new AppError('pageTooLarge', { width, height, limit: mostPagePixels / 1e6 }).message)
}

/** A delivery's names, or what is wrong with them. */
function patternOf(loop: Loop, delivery: Delivery, add: AddProblem): NamePattern | undefined {
  try {
    return parsePattern(delivery.namePattern)
  } catch (error) {
    if (!(error instanceof PatternError)) throw error
    const mend = { label: 'Name them as the source', change: changed(loop, delivery, { namePattern: '{name}' }) }
    add('delivery', true, `${error.message}.`, { mend, wrongName: delivery.id })
    return undefined
  }
}

/** One delivery of a loop changed. */
const changed = (loop: Loop, { id }: Delivery, part: Partial<Delivery>): Mend['change'] => ({
  deliveries: loop.deliveries.map((delivery) => (delivery.id === id ? { ...delivery, ...part } : delivery)),
})

/** A folder beside the intake, where one is allowed there. */
function besideIntake({ roots }: Context, source: string, name: string): string | undefined {
  const beside = join(dirname(source), name)
  return roots.allows(beside) && !roots.paths.includes(source) ? beside : undefined
}

function webSetMend(context: Context, { intake }: Loop): Mend | undefined {
  const folder =
    intake.folder && context.roots.allows(intake.folder) && besideIntake(context, context.roots.check(intake.folder), folderForNeed('web'))
  return folder ? { label: 'Add a web set', change: { deliveries: [deliveryForNeed('web', 'web', folder)] } } : undefined
}

/** Delivering into the intake, or around it, would feed results back as sources or mix them with originals. */
function overlapWith(context: Context, loop: Loop, own: Delivery, delivery: string): Pick<Problem, 'sentence' | 'mend'> | undefined {
  const { roots } = context
  const inside = (inner: string, outer: string): boolean => inner.startsWith(outer + sep)
  for (const folder of foldersOf(loop.intake)) {
    if (!roots.allows(folder)) continue
    const source = roots.check(folder)
    const beside = besideIntake(context, source, `${basename(source)}-delivered`)
    const mend = beside ? { label: `Deliver to ${basename(beside)} beside it`, change: changed(loop, own, { folder: beside }) } : undefined
    if (delivery === source)
      return { sentence: 'The delivery folder is the intake folder itself. Originals and results must not mix: choose another.', mend }
    // A subfolder that the intake passes over by its name never comes back as a source.
    const below = inside(delivery, source) ? relative(source, delivery).split(sep) : []
    const [first] = below
    if (first !== undefined && loop.intake.subfolders && !below.some((name) => isPassedOver(name, loop.intake.without))) {
      const without = [...loop.intake.without, first]
      return {
        sentence: `The delivery folder lies inside the intake folder ${source}. Results would come back as sources: choose one beside it, or pass over its name.`,
        mend: { label: `Pass over ${first}`, change: { intake: { ...loop.intake, without } } },
      }
    }
    if (inside(source, delivery))
      return { sentence: `The intake folder lies inside the delivery folder ${delivery}. Choose a folder that holds only results.`, mend }
  }
  return undefined
}

/** Tells of names that are taken: by files that are there, or by other pictures of the run. Nothing is ever replaced. */
export function remarkNames(loop: Loop, pictures: readonly ForeseenPicture[], add: AddProblem): void {
  const affected = (why: ForeseenTarget['numbered']): ReadonlySet<string> =>
    new Set(pictures.flatMap(({ targets }) => targets.filter(({ numbered }) => numbered === why).map(({ deliveryId }) => deliveryId)))
  const change = (ids: ReadonlySet<string>, part: (delivery: Delivery) => Partial<Delivery>): Mend['change'] => ({
    deliveries: loop.deliveries.map((delivery) => (ids.has(delivery.id) ? { ...delivery, ...part(delivery) } : delivery)),
  })
  const countTargets = (why: ForeseenTarget['numbered']): number =>
    pictures.filter((picture) => picture.targets.some((target) => target.numbered === why)).length
  const there = countTargets('fileThere')
  const same = countTargets('sameName')
  const queued = countTargets('queued')
  const madeSafe = pictures.filter((picture) => picture.targets.some((target) => target.madeSafe)).length
  if (madeSafe > 0)
    add(
      'delivery',
      false,
      `${counted(madeSafe, 'name')} would not be taken by every system (characters such as : or ?, a dot at the end, a name that is too long) and ${madeSafe === 1 ? 'is' : 'are'} changed.`,
    )
  const skipped = pictures.filter((picture) => picture.skip).length
  const replaced = pictures.filter((picture) => picture.targets.some((target) => target.replaces)).length
  if (replaced > 0) add('delivery', false, `For ${counted(replaced, 'picture')} the file that this loop delivered before is replaced.`)
  if (there > 0)
    add(
      'delivery',
      false,
      `For ${counted(there, 'picture')} a file of the same name is there already. The new ones are numbered; nothing is replaced.`,
      { mend: { label: 'Skip these instead', change: change(affected('fileThere'), () => ({ whenThere: 'skip' })) } },
    )
  if (same > 0)
    add(
      'delivery',
      false,
      `${counted(same, 'picture')} would get a name that another one of this run has, and are numbered. A pattern with {n:001} or {folder} avoids that.`,
      {
        mend: {
          label: 'Count them all',
          change: change(affected('sameName'), ({ namePattern }) => ({ namePattern: `{n:001}-${namePattern}` })),
        },
      },
    )
  if (queued > 0)
    add(
      'delivery',
      false,
      `${counted(queued, 'picture')} would get a name that a run in the queue will give to another file, and ${queued === 1 ? 'is' : 'are'} numbered.`,
    )
  if (skipped > 0) add('delivery', false, `${counted(skipped, 'picture')} will be skipped: the delivered file is there already.`)
}

/** Tells of numbers that pictures keep, and of those that go on after them. */
export function remarkNumbers(
  loop: Loop,
  { newNumbers, keptNumbers }: { readonly newNumbers: readonly PictureNumber[]; readonly keptNumbers: number },
  add: AddProblem,
): void {
  if (keptNumbers === 0) return
  const added = new Set(newNumbers.map(({ sourcePath }) => sourcePath)).size
  const more = added > 0 ? `; ${counted(added, 'new one goes', 'new ones go')} on after the highest` : ''
  add(
    'delivery',
    false,
    `${counted(keptNumbers, 'picture keeps', 'pictures keep')} the number that ${keptNumbers === 1 ? 'it has' : 'they have'} in this loop${more}.`,
    {
      mend: { label: 'Number all anew, as a new set', change: { numberSet: loop.numberSet + 1 } },
    },
  )
}

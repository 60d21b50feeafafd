import * as yup from 'yup'
import { oneOf, type Shape } from '@/base/schema'
import { encodingFields } from './encoding'
import { gatherFor, gatherSchema } from './gather'
import { keepAll, metadataSchema } from './metadata-policy'

/** What happens when a file of that name is there already. */
export const whensThere = ['number', 'skip', 'replace'] as const
/** number: the new one gets a number. skip: the picture is left out. replace: only a file that this loop delivered itself, and that is as it was then. */
export type WhenThere = (typeof whensThere)[number]

export const deliverySchema = yup
  .object({
    id: yup.string().required().max(64),
    name: yup.string().required().max(80).default('Web set'),
    /** Absolute path under a root. */
    folder: yup.string().strict(true).max(4096).defined().default(''),
    /** Which folder it is, is asked before each run; it stands at the one that was picked last. */
    folderAsked: yup.boolean().required().default(false),
    /** See src/files/names.ts. */
    namePattern: yup.string().defined().max(200).default('{name}'),
    /** Keep the intake's subfolders. */
    mirrorFolders: yup.boolean().required().default(false),
    ...encodingFields,
    /** Long edge of the delivered picture; null keeps the macro's size. Never enlarges. */
    longEdgePx: yup.number().integer().min(16).max(65535).nullable().defined().default(null),
    /** How much lightness is sharpened for the delivered size, 0–100 %. */
    sharpenPercent: yup.number().min(0).max(100).required().default(0),
    /** What the files tell about themselves. */
    metadata: metadataSchema.required(),
    /** Writes beside each picture how it was made, so that it can be made again. */
    sidecar: yup.boolean().required().default(false),
    /** Writes the run's report beside the pictures, as JSON and CSV. */
    report: yup.boolean().required().default(false),
    /** Off: steps that stamp are left out of this delivery. */
    stamps: yup.boolean().required().default(true),
    whenThere: oneOf(whensThere).default('number'),
    /** On pages, instead of a file for each picture; null: a file for each. */
    gather: gatherSchema.nullable().defined().default(null),
  })
  .noUnknown()

/** One output of a loop. */
export type Delivery = Shape<typeof deliverySchema>

export const defaultDelivery = (id: string, folder: string): Delivery => ({ ...deliverySchema.getDefault(), id, folder })

/** A delivery as it was stored, perhaps before some of its settings existed: those take their defaults. */
export const completeDelivery = (stored: Delivery): Delivery => ({ ...defaultDelivery(stored.id, stored.folder), ...stored })

/** What most loops deliver, as a start for a delivery of one's own. */
export interface StandingNeed {
  readonly key: string
  readonly name: string
  readonly about: string
  readonly delivery: Partial<Omit<Delivery, 'id' | 'folder'>>
}

/** Sizes, qualities and formats are common practice. */
export const standingNeeds: readonly StandingNeed[] = [
  {
    key: 'web',
    name: 'Web set',
    about: 'JPEG, 2048 px, sRGB, sharpened for that size, without location',
    delivery: {
      longEdgePx: 2048,
      qualityPercent: 82,
      chroma: '4:2:0',
      progressive: true,
      sharpenPercent: 50,
      metadata: { ...keepAll, policy: 'noLocation' },
    },
  },
  {
    key: 'previews',
    name: 'Client previews',
    about: 'JPEG, 1600 px, at most 600 kB, numbered',
    delivery: {
      longEdgePx: 1600,
      qualityPercent: 85,
      mostKb: 600,
      chroma: '4:2:0',
      sharpenPercent: 40,
      namePattern: '{n:001}-{name}',
      metadata: { ...keepAll, policy: 'rights' },
    },
  },
  {
    key: 'print',
    name: 'Print set',
    about: 'JPEG at its best, 300 dpi, the macro’s size',
    delivery: { qualityPercent: 96, chroma: '4:4:4', dpi: 300 },
  },
  {
    key: 'archive',
    name: 'Archive',
    about: '16-bit TIFF in ROMM RGB, everything kept, without stamps',
    delivery: { format: 'tiff', bits: 16, compression: 'deflate', space: 'romm', stamps: false },
  },
  {
    key: 'sheet',
    name: 'Contact sheet',
    about: 'one PDF, A4, 4 × 5 pictures on a page, with their names',
    delivery: {
      gather: gatherFor('sheet'),
      qualityPercent: 90,
      sharpenPercent: 50,
      metadata: { ...keepAll, policy: 'noLocation' },
    },
  },
  {
    key: 'book',
    name: 'Set in one PDF',
    about: 'a page for each picture, 2048 px, with bookmarks',
    delivery: {
      gather: { ...gatherFor('set'), dpi: 200 },
      longEdgePx: 2048,
      qualityPercent: 85,
      chroma: '4:2:0',
      sharpenPercent: 50,
      metadata: { ...keepAll, policy: 'noLocation' },
    },
  },
]

/** A delivery that serves one of the standing needs, by its key. */
export function deliveryForNeed(id: string, key: string, folder: string): Delivery {
  const need = standingNeeds.find((each) => each.key === key)
  return { ...defaultDelivery(id, folder), ...need?.delivery, ...(need ? { name: need.name } : {}) }
}

/** What a folder for a standing need is called: `client-previews`. */
export const folderForNeed = (key: string): string =>
  (standingNeeds.find((need) => need.key === key)?.name ?? key).toLowerCase().replaceAll(' ', '-')

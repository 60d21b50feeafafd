import type { Condition } from '@/macros/condition'
import { defaultEncoding, type Encoding } from './encoding'
import { keepAll, type MetadataWishes } from './metadata-policy'

/** A standing job: take pictures from folders, put them through macros, deliver them to other folders. */
export interface Loop {
  readonly id: string
  readonly name: string
  readonly intake: LoopIntake
  readonly macros: readonly MacroUse[]
  readonly deliveries: readonly Delivery[]
  readonly start: LoopStart
  /** Which set of numbers its counters draw from. */
  readonly numberSet: number
  /** Rises with every change that is stored; 0 in a loop that never was. */
  readonly version: number
}

/** When a loop starts by itself. It then takes only pictures that it has not delivered yet. */
export type LoopStart =
  | { readonly when: 'byHand' }
  /** At a time of day, `HH:mm` by the machine's clock, on days of the week (0 Sunday … 6 Saturday). */
  | { readonly when: 'atTimes'; readonly at: string; readonly days: readonly number[] }
  /** Once new pictures lie in the intake and nothing has changed there for a while. */
  | { readonly when: 'arrivals' }

export const everyDay: readonly number[] = [0, 1, 2, 3, 4, 5, 6]

export interface LoopIntake {
  /** Absolute path under a root. */
  readonly folder: string
  /** Further folders, after the first. */
  readonly more: readonly string[]
  readonly subfolders: boolean
  /** Names of subfolders that are passed over, with `*` and `?`. */
  readonly without: readonly string[]
  /** Only pictures for which all of these hold. */
  readonly only: readonly Condition[]
  readonly order: IntakeOrder
  readonly damaged: WhenDamaged
}

/** What becomes of a picture that can be read only in part. fail: it is told and left out. deliver: what can be read of it goes out, and is marked. */
export const whensDamaged = ['fail', 'deliver'] as const
export type WhenDamaged = (typeof whensDamaged)[number]

/** By name, in natural order through all folders; by the time it was taken; folder by folder. */
export const intakeOrders = ['folder', 'name', 'taken'] as const
export type IntakeOrder = (typeof intakeOrders)[number]

export const intakeOf = (folder: string, part: Partial<LoopIntake> = {}): LoopIntake => ({
  folder,
  more: [],
  subfolders: true,
  without: [],
  only: [],
  order: 'folder',
  damaged: 'fail',
  ...part,
})

/** An intake as it was stored, perhaps before some of its settings existed. */
export const completeIntake = (stored: LoopIntake): LoopIntake => intakeOf(stored.folder, stored)

/** All folders of an intake that are named. */
export const foldersOf = ({ folder, more }: LoopIntake): string[] => [folder, ...more].filter(Boolean)

/** A loop as it begins: nothing is taken, nothing made, nothing delivered. */
export const newLoop = (id: string, part: Partial<Loop> = {}): Loop => ({
  id,
  name: 'New loop',
  intake: intakeOf(''),
  macros: [],
  deliveries: [],
  start: { when: 'byHand' },
  numberSet: 0,
  version: 0,
  ...part,
})

/** A macro on a loop's line: pinned to a revision, or following the newest (null). */
export interface MacroUse {
  readonly macroId: string
  readonly revision: number | null
}

/** One output of a loop. */
export interface Delivery extends Encoding {
  readonly id: string
  readonly name: string
  /** Absolute path under a root. */
  readonly folder: string
  /** See src/files/names.ts. */
  readonly namePattern: string
  /** Keep the intake's subfolders. */
  readonly mirrorFolders: boolean
  /** Long edge of the delivered picture; null keeps the macro's size. Never enlarges. */
  readonly longEdgePx: number | null
  /** How much lightness is sharpened for the delivered size, 0–100 %. */
  readonly sharpenPercent: number
  /** What the files tell about themselves. */
  readonly metadata: MetadataWishes
  /** Writes beside each picture how it was made, so that it can be made again. */
  readonly sidecar: boolean
  /** Writes the run's report beside the pictures, as JSON and CSV. */
  readonly report: boolean
  /** Off: steps that stamp are left out of this delivery. */
  readonly stamps: boolean
  readonly whenThere: WhenThere
}

/** What happens when a file of that name is there already. */
export const whensThere = ['number', 'skip', 'replace'] as const
/** number: the new one gets a number. skip: the picture is left out. replace: only a file that this loop delivered itself, and that is as it was then. */
export type WhenThere = (typeof whensThere)[number]

export const defaultDelivery = (id: string, folder: string): Delivery => ({
  id,
  name: 'Web set',
  folder,
  namePattern: '{name}',
  mirrorFolders: false,
  ...defaultEncoding,
  longEdgePx: null,
  sharpenPercent: 0,
  metadata: keepAll,
  sidecar: false,
  report: false,
  stamps: true,
  whenThere: 'number',
})

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
]

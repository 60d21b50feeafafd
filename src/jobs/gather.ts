import * as yup from 'yup'
import { oneOf, type Shape } from '@/base/schema'

/* A delivery that gathers its pictures on pages. Lengths in millimetres, type in points. */

/** sheet: many small pictures on a page. set: one picture a page. */
export const gatherKinds = ['sheet', 'set'] as const
export type GatherKind = (typeof gatherKinds)[number]

export const pageFormats = ['pdf', 'jpeg', 'png', 'tiff'] as const
export type PageFormat = (typeof pageFormats)[number]

/** Width and height of a sheet that stands, in mm. A sizes: ISO 216; Letter: ANSI/ASME Y14.1 (8.5 × 11 in). */
export const papers = {
  a3: { name: 'A3', widthMm: 297, heightMm: 420 },
  a4: { name: 'A4', widthMm: 210, heightMm: 297 },
  a5: { name: 'A5', widthMm: 148, heightMm: 210 },
  a6: { name: 'A6', widthMm: 105, heightMm: 148 },
  letter: { name: 'Letter', widthMm: 215.9, heightMm: 279.4 },
  eightByTen: { name: '8 × 10 in', widthMm: 203.2, heightMm: 254 },
} as const
/** picture: each page is as large as its picture at the resolution; only one picture a page. own: what is set. */
export const paperNames = ['a3', 'a4', 'a5', 'a6', 'letter', 'eightByTen', 'own', 'picture'] as const
export type PaperName = (typeof paperNames)[number]

/** count: so many rows and columns. size: as many as fit, each so large. */
export const gridWays = ['count', 'size'] as const

const mm = (most: number) => yup.number().min(0).max(most).required()
const line = yup.string().defined().max(200)

export const gatherSchema = yup
  .object({
    kind: oneOf(gatherKinds).default('sheet'),
    format: oneOf(pageFormats).default('pdf'),
    /** What the files of pages are called, without ending; fields as in `pageFields`. */
    fileName: yup.string().required().max(200).default('{loop}'),
    paper: oneOf(paperNames).default('a4'),
    ownWidthMm: yup.number().min(20).max(2000).required().default(200),
    ownHeightMm: yup.number().min(20).max(2000).required().default(200),
    lying: yup.boolean().required().default(false),
    dpi: yup.number().integer().min(50).max(1200).required().default(300),
    marginMm: mm(100).default(12),
    grid: oneOf(gridWays).default('count'),
    columns: yup.number().integer().min(1).max(100).required().default(4),
    rows: yup.number().integer().min(1).max(100).required().default(5),
    /** Side of a cell, where as many as fit are taken. */
    cellMm: yup.number().min(5).max(2000).required().default(45),
    gapMm: mm(100).default(4),
    /** Cells are filled, and what reaches over is cut off. */
    fill: yup.boolean().required().default(false),
    /** Pictures that lie otherwise than their cell are turned. */
    turn: yup.boolean().required().default(false),
    ground: yup
      .string()
      .matches(/^#[0-9a-f]{6}$/i, 'a colour is written as #rrggbb')
      .required()
      .default('#ffffff'),
    /** A thin line around each picture. */
    hairline: yup.boolean().required().default(false),
    /** Lines under each picture, in fields of names; empty ones take no room. */
    captions: yup.array(line).max(3).required().default(['{name}']),
    captionPt: yup.number().min(3).max(72).required().default(7),
    head: line.default(''),
    foot: line.default('{loop}, {today:d MMMM yyyy}, page {page} of {pages}'),
    /** Each folder begins on a new page. */
    breakFolders: yup.boolean().required().default(false),
    title: line.default(''),
    author: line.default(''),
    /** Where the pages go, once the delivery's own folder is where their pictures wait. Empty: the delivery's. */
    folder: yup.string().strict(true).max(4096).defined().default(''),
  })
  .noUnknown()

export type Gather = Shape<typeof gatherSchema>

export const gatherOf = (part: Partial<Gather> = {}): Gather => ({ ...gatherSchema.getDefault(), ...part })

/** One picture a page begins as large as its pictures, without words; many on a page begin on paper. */
export const gatherFor = (kind: GatherKind): Gather =>
  kind === 'sheet' ? gatherOf() : gatherOf({ kind, paper: 'picture', marginMm: 0, captions: [], foot: '' })

/** Only sheets go out as pictures: of a set of pages each picture is there already. */
export const formatOf = ({ kind, format }: Pick<Gather, 'kind' | 'format'>): PageFormat => (kind === 'set' ? 'pdf' : format)

/** A file of pages, as a run made it. */
export interface GatheredFile {
  readonly deliveryId: string
  /** Empty where there is none. */
  readonly path: string
  readonly bytes: number
  /** SHA-256. */
  readonly hash: string
  readonly pages: number
  readonly pictures: number
  /** Names of pictures that are on no page, since they failed or were set aside. */
  readonly leftOut: readonly string[]
  /** All that decided how it came out, as a hash: its settings and its pictures. */
  readonly set: string
  /** Why there is no file, in words. */
  readonly problem: string | null
}

import type { Size } from '@/base/geometry'
import { type Gather, papers } from '@/jobs/gather'

/*
 * Where everything lies on pages. Lengths in points, 1/72 inch (the user space of ISO 32000), from the top left. Nothing here draws: the
 * page in a browser, the PDF and the page as a picture are all made from it.
 */

export interface Box {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

/** A picture to be laid: its pixels' size, and the folder it comes from. */
export interface Laid {
  readonly size: Size
  readonly folder: string
}

export interface Placed {
  /** Which of the pictures. */
  readonly index: number
  /** What is seen of it is cut to this. */
  readonly cell: Box
  /** Where the whole picture lies, as it is seen; it reaches over its cell where that is filled. */
  readonly picture: Box
  /** Turned by a quarter, to the right. */
  readonly turned: boolean
  /** Where its words stand: their upper edge, and how wide they may be. */
  readonly words: Box
}

export interface Page {
  readonly width: number
  readonly height: number
  readonly pictures: readonly Placed[]
  readonly head: Box | null
  readonly foot: Box | null
}

const pointsPerInch = 72
export const toPoints = (mm: number): number => (mm / 25.4) * pointsPerInch
/** From one baseline to the next, in sizes of type: common practice. */
export const leading = 1.25
/** Head and foot are set in this. */
export const runningPt = 8
/** Between a picture and the words under it. */
const wordGap = 2
/** Between head or foot and the pictures. */
const runningGap = 6
/** A page of a PDF is at most 200 inches long (ISO 32000-1, annex C); margins and words come off that. */
const mostPoints = 14_000
/** A page of no room at all would hold nothing. */
const leastRoom = 4

/** The sheet's size; of a page that is as large as its picture, without its margin and words. */
export function paperSize({ paper, ownWidthMm, ownHeightMm, lying }: Gather): Size {
  const { widthMm, heightMm } = paper === 'own' || paper === 'picture' ? { widthMm: ownWidthMm, heightMm: ownHeightMm } : papers[paper]
  const [width, height] = [toPoints(widthMm), toPoints(heightMm)]
  // What is measured by hand lies as it was measured.
  return lying && paper !== 'own' ? { width: height, height: width } : { width, height }
}

const wordsHeight = ({ captions, captionPt }: Gather): number => {
  const lines = captions.filter((line) => line.trim() !== '').length
  return lines === 0 ? 0 : wordGap + lines * captionPt * leading
}
const runningHeight = (line: string): number => (line.trim() === '' ? 0 : runningPt * leading + runningGap)

/** The part of a page that pictures and their words lie in. */
function roomOf(gather: Gather, { width, height }: Size): Box {
  const margin = toPoints(gather.marginMm)
  const [head, foot] = [runningHeight(gather.head), runningHeight(gather.foot)]
  return {
    x: margin,
    y: margin + head,
    width: Math.max(leastRoom, width - 2 * margin),
    height: Math.max(leastRoom, height - 2 * margin - head - foot),
  }
}

/** How many rows and columns a page holds, and what is left for each cell, words included. */
export function gridOf(gather: Gather): { readonly columns: number; readonly rows: number; readonly room: Box } {
  const room = roomOf(gather, paperSize(gather))
  if (gather.kind === 'set') return { columns: 1, rows: 1, room }
  if (gather.grid === 'count') return { columns: gather.columns, rows: gather.rows, room }
  const [cell, gap] = [toPoints(gather.cellMm), toPoints(gather.gapMm)]
  const fits = (length: number, each: number): number => Math.max(1, Math.floor((length + gap + 1e-6) / (each + gap)))
  return { columns: fits(room.width, cell), rows: fits(room.height, cell + wordsHeight(gather)), room }
}

/** A cell of the grid, without its words. */
function cellAt(gather: Gather, at: number): { cell: Box; words: Box } {
  const { columns, rows, room } = gridOf(gather)
  const gap = toPoints(gather.gapMm)
  const words = wordsHeight(gather)
  const isSized = gather.kind === 'sheet' && gather.grid === 'size'
  const side = toPoints(gather.cellMm)
  const width = isSized ? Math.min(side, room.width) : Math.max(leastRoom, (room.width - (columns - 1) * gap) / columns)
  const height = isSized ? Math.min(side, room.height) : Math.max(leastRoom, (room.height - (rows - 1) * gap) / rows - words)
  // Cells of a size of their own stand in the middle of the page's width.
  const indent = isSized ? (room.width - columns * width - (columns - 1) * gap) / 2 : 0
  const x = room.x + indent + (at % columns) * (width + gap)
  const y = room.y + Math.floor(at / columns) * (height + words + gap)
  return { cell: { x, y, width, height }, words: { x, y: y + height + wordGap, width, height: Math.max(0, words - wordGap) } }
}

/** A picture within a cell: whole, or filling it; in the middle, or, over words, down on these. */
function within(cell: Box, { width, height }: Size, { fill, isOverWords }: { fill: boolean; isOverWords: boolean }): Box {
  const across = cell.width / width
  const down = cell.height / height
  const scale = fill ? Math.max(across, down) : Math.min(across, down)
  const [w, h] = [width * scale, height * scale]
  const y = cell.y + (cell.height - h) * (isOverWords && !fill ? 1 : 0.5)
  return { x: cell.x + (cell.width - w) / 2, y, width: w, height: h }
}

function placed(gather: Gather, { size }: Laid, index: number, { cell, words }: { cell: Box; words: Box }): Placed {
  const turned =
    gather.turn && size.width !== size.height && cell.width !== cell.height && size.width > size.height !== cell.width > cell.height
  const seen = turned ? { width: size.height, height: size.width } : size
  const picture = within(cell, seen, { fill: gather.fill, isOverWords: gather.kind === 'sheet' && words.height > 0 })
  // Words stand right under what is seen of the picture.
  const bottom = Math.min(cell.y + cell.height, picture.y + picture.height)
  return { index, cell, picture, turned, words: gather.kind === 'sheet' ? words : { ...words, y: bottom + wordGap } }
}

function running(gather: Gather, { width, height }: Size): Pick<Page, 'head' | 'foot'> {
  const margin = toPoints(gather.marginMm)
  const box = (y: number): Box => ({ x: margin, y, width: Math.max(leastRoom, width - 2 * margin), height: runningPt * leading })
  return {
    head: gather.head.trim() === '' ? null : box(margin),
    foot: gather.foot.trim() === '' ? null : box(height - margin - runningPt * leading),
  }
}

/** A page around its picture: as large as this is at the resolution, with margin and words. */
function pageAround(gather: Gather, laid: Laid, index: number): Page {
  const margin = toPoints(gather.marginMm)
  const longest = Math.max(laid.size.width, laid.size.height)
  const scale = Math.min(pointsPerInch / gather.dpi, (mostPoints - 4 * margin) / longest)
  const [width, height] = [laid.size.width * scale, laid.size.height * scale]
  const words = wordsHeight(gather)
  const cell = { x: margin, y: margin + runningHeight(gather.head), width, height }
  const size = {
    width: width + 2 * margin,
    height: height + words + runningHeight(gather.head) + runningHeight(gather.foot) + 2 * margin,
  }
  const place = {
    index,
    cell,
    picture: cell,
    turned: false,
    words: { ...cell, y: cell.y + height + wordGap, height: Math.max(0, words - wordGap) },
  }
  return { ...size, pictures: [place], ...running(gather, size) }
}

/** Lays pictures on pages, in their order. No pictures make no page. */
export function layPages(gather: Gather, pictures: readonly Laid[]): Page[] {
  if (gather.kind === 'set' && gather.paper === 'picture') return pictures.map((laid, index) => pageAround(gather, laid, index))
  const size = paperSize(gather)
  const { columns, rows } = gridOf(gather)
  const pages: { place: Placed[] }[] = []
  let at = 0
  pictures.forEach((laid, index) => {
    const isNewFolder = gather.breakFolders && index > 0 && laid.folder !== pictures[index - 1]?.folder
    if (pages.length === 0 || at === columns * rows || isNewFolder) {
      pages.push({ place: [] })
      at = 0
    }
    pages.at(-1)?.place.push(placed(gather, laid, index, cellAt(gather, at++)))
  })
  return pages.map(({ place }) => ({ ...size, pictures: place, ...running(gather, size) }))
}

/** The longest edge that pictures need for their cells, in pixels; null where each keeps its size. */
export function edgeFor(gather: Gather): number | null {
  if (gather.kind === 'set') return null
  const { cell } = cellAt(gather, 0)
  const [short, long] = [Math.min(cell.width, cell.height), Math.max(cell.width, cell.height)]
  // What fills a cell reaches over it: by half as much again and more for pictures as long as 3 : 2 in a square.
  const points = gather.fill ? Math.max(long, short * 2) : long
  return Math.max(16, Math.ceil((points / pointsPerInch) * gather.dpi))
}

/** What is seen of a picture in its cell. */
export function seenOf(picture: Box, cell: Box): Box {
  const x = Math.max(picture.x, cell.x)
  const y = Math.max(picture.y, cell.y)
  return {
    x,
    y,
    width: Math.min(picture.x + picture.width, cell.x + cell.width) - x,
    height: Math.min(picture.y + picture.height, cell.y + cell.height) - y,
  }
}

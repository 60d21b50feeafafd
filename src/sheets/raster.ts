import sharp from 'sharp'
import { AppError } from '@/base/errors'
import type { Size } from '@/base/geometry'
import type { Gather } from '@/jobs/gather'
import { fillOutlines } from '@/operations/support/outline-fill'
import type { Book, OnPicture } from './book'
import { type Box, leading, type Page, type Placed, paperSize, runningPt, seenOf } from './layout'
import { ascent, hairline, inkOn } from './look'
import { readPicture } from './pictures'
import { Typesetter } from './type'
import { expandPageLine } from './words'

/* Pages as pictures: the same layout in pixels of sRGB, with its resolution. */

/** Of a page as a JPEG. */
const quality = 92
/** Larger pages are for a PDF. */
export const mostPagePixels = 120e6
const pointsPerInch = 72

const pixelsOf = (dpi: number, { width, height }: Size): Size => ({
  width: Math.max(1, Math.round((width / pointsPerInch) * dpi)),
  height: Math.max(1, Math.round((height / pointsPerInch) * dpi)),
})

/** How large a page is as a picture, in pixels. */
export const pagePixels = (gather: Gather): Size => pixelsOf(gather.dpi, paperSize(gather))

/**
 * One page of a book as the bytes of a file.
 * Memory: the page, 3 bytes a pixel, twice over and encoded, and one picture.
 * @throws AppError `pageTooLarge`
 */
export async function pageImage(book: Book, index: number, onPicture: OnPicture = () => undefined): Promise<Buffer> {
  const page = book.pages[index]
  if (!page) throw new RangeError(`There is no page ${index + 1}`)
  const { gather } = book
  const size = pixelsOf(gather.dpi, page)
  if (size.width * size.height > mostPagePixels) throw new AppError('pageTooLarge', { ...size, limit: mostPagePixels / 1e6 })
  const ground = await groundOf(size, gather.ground)
  let done = 0
  for (const place of page.pictures) {
    await layPicture(book, place, { pixels: ground, size })
    onPicture(++done)
  }
  const drawing = new Drawing(ground, size, gather.dpi)
  for (const { picture, cell } of gather.hairline ? page.pictures : []) drawing.frame(seenOf(picture, cell))
  drawWords(book, page, index, drawing)
  const drawn = sharp(ground, { raw: { ...size, channels: 3 } })
    .withIccProfile('srgb')
    .withMetadata({ density: gather.dpi })
  if (gather.format === 'png') return drawn.png().toBuffer()
  if (gather.format === 'tiff')
    return drawn.tiff({ compression: 'deflate', predictor: 'horizontal', xres: gather.dpi / 25.4, yres: gather.dpi / 25.4 }).toBuffer()
  return drawn.jpeg({ quality, chromaSubsampling: '4:4:4' }).toBuffer()
}

const groundOf = ({ width, height }: Size, background: string): Promise<Buffer> =>
  sharp({ create: { width, height, channels: 3, background } })
    .raw()
    .toBuffer()

/** A box of points in whole pixels. */
function pixelBox(dpi: number, { x, y, width, height }: Box): Box {
  const [left, top] = [Math.round((x / pointsPerInch) * dpi), Math.round((y / pointsPerInch) * dpi)]
  return {
    x: left,
    y: top,
    width: Math.max(1, Math.round(((x + width) / pointsPerInch) * dpi) - left),
    height: Math.max(1, Math.round(((y + height) / pointsPerInch) * dpi) - top),
  }
}

async function layPicture(
  { gather, pictures }: Book,
  { index, cell, picture, turned }: Placed,
  page: { readonly pixels: Buffer; readonly size: Size },
): Promise<void> {
  const shown = pictures[index]
  if (!shown) return
  const whole = pixelBox(gather.dpi, picture)
  const seen = seenOf(whole, pixelBox(gather.dpi, cell))
  const upright = sharp(await readPicture(shown.path))
    .autoOrient()
    .flatten({ background: gather.ground })
  const { data } = await (turned ? upright.rotate(90) : upright)
    .toColourspace('srgb')
    .resize({ width: whole.width, height: whole.height, fit: 'fill' })
    .extract({ left: seen.x - whole.x, top: seen.y - whole.y, width: seen.width, height: seen.height })
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true })
  const across = Math.min(seen.width, page.size.width - seen.x)
  for (let row = 0; row < seen.height && seen.y + row < page.size.height; row++)
    data.copy(page.pixels, ((seen.y + row) * page.size.width + seen.x) * 3, row * seen.width * 3, (row * seen.width + across) * 3)
}

/** Draws over the pixels of a page, in points. */
class Drawing {
  constructor(
    private readonly pixels: Buffer,
    private readonly size: Size,
    readonly dpi: number,
  ) {}

  /** A line around a box, as wide as there are pixels for. */
  frame(box: Box): void {
    const { x, y, width, height } = pixelBox(this.dpi, box)
    const thick = Math.max(1, Math.round((hairline.widthPt / pointsPerInch) * this.dpi))
    const colour = channels(hairline.colour)
    this.fill({ x, y, width, height: thick }, colour)
    this.fill({ x, y: y + height - thick, width, height: thick }, colour)
    this.fill({ x, y, width: thick, height }, colour)
    this.fill({ x: x + width - thick, y, width: thick, height }, colour)
  }

  /** Lays a colour over a box as far as the coverage says, 0–1 a pixel; over all of it where none is given. */
  fill(box: Box, colour: readonly number[], coverage?: Float32Array): void {
    for (let row = Math.max(0, -box.y); row < Math.min(box.height, this.size.height - box.y); row++)
      for (let column = Math.max(0, -box.x); column < Math.min(box.width, this.size.width - box.x); column++) {
        const share = coverage?.[row * box.width + column] ?? 1
        if (share === 0) continue
        const at = ((box.y + row) * this.size.width + box.x + column) * 3
        for (let c = 0; c < 3; c++) {
          const before = this.pixels[at + c] ?? 0
          this.pixels[at + c] = Math.round(before + ((colour[c] ?? 0) - before) * share)
        }
      }
  }
}

const channels = (colour: string): number[] => [1, 3, 5].map((at) => Number.parseInt(colour.slice(at, at + 2), 16))

/** Head, foot and the lines under pictures. */
function drawWords({ gather, pages, pictures, words, faces }: Book, page: Page, index: number, drawing: Drawing): void {
  const type = new Typesetter(faces)
  const ink = channels(inkOn(gather.ground))
  const scale = gather.dpi / pointsPerInch
  const line = (text: string, box: Box, size: number, inMiddle: boolean): void => {
    const shown = type.fitted(text, size, box.width)
    const x = inMiddle ? box.x + (box.width - type.width(shown, size)) / 2 : box.x
    const place = pixelBox(gather.dpi, { ...box, height: size * leading })
    const commands = type.outlines(shown, size * scale, x * scale - place.x, (box.y + ascent * size) * scale - place.y)
    drawing.fill(place, ink, fillOutlines(commands, place.width, place.height))
  }
  const counted = { ...words, page: index + 1, pages: pages.length }
  if (page.head) line(expandPageLine(gather.head, counted), page.head, runningPt, false)
  if (page.foot) line(expandPageLine(gather.foot, counted), page.foot, runningPt, false)
  for (const { index: which, words: box } of page.pictures)
    (pictures[which]?.captions ?? []).forEach((text, i) => {
      line(text, { ...box, y: box.y + i * gather.captionPt * leading }, gather.captionPt, true)
    })
}

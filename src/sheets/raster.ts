import sharp, { type OverlayOptions } from 'sharp'
import { AppError } from '@/base/errors'
import type { Size } from '@/base/geometry'
import type { Gather } from '@/jobs/gather'
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
 * Memory: the page three times over (3 and 4 bytes a pixel, and encoded), and one picture.
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
  const drawn = sharp(ground, { raw: { ...size, channels: 3 } })
    .composite([{ input: Buffer.from(drawing(book, page, index, size)), top: 0, left: 0, unlimited: true } as OverlayOptions])
    .removeAlpha()
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

/** Words and lines of a page, as SVG over its pixels. */
function drawing({ gather, pages, pictures, words, faces }: Book, page: Page, index: number, { width, height }: Size): string {
  const type = new Typesetter(faces)
  const line = (text: string, box: Box, size: number, inMiddle: boolean): string => {
    const shown = type.fitted(text, size, box.width)
    const x = inMiddle ? box.x + (box.width - type.width(shown, size)) / 2 : box.x
    return type.outlines(shown, size, x, box.y + ascent * size)
  }
  const counted = { ...words, page: index + 1, pages: pages.length }
  const running = [
    page.head && line(expandPageLine(gather.head, counted), page.head, runningPt, false),
    page.foot && line(expandPageLine(gather.foot, counted), page.foot, runningPt, false),
  ]
  const captions = page.pictures.flatMap(({ index: which, words: box }) =>
    (pictures[which]?.captions ?? []).map((text, i) =>
      line(text, { ...box, y: box.y + i * gather.captionPt * leading }, gather.captionPt, true),
    ),
  )
  const boxes = gather.hairline ? page.pictures.map(({ picture, cell }) => seenOf(picture, cell)) : []
  const lines = boxes.map(
    ({ x, y, width: w, height: h }) =>
      `<rect x="${x}" y="${y}" width="${w}" height="${h}" fill="none" stroke="${hairline.colour}" stroke-width="${hairline.widthPt}"/>`,
  )
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${page.width} ${page.height}"><path fill="${inkOn(gather.ground)}" d="${[...running, ...captions].filter(Boolean).join('')}"/>${lines.join('')}</svg>`
}

import { createWriteStream } from 'node:fs'
import { finished } from 'node:stream/promises'
import type { Book, OnPicture } from './book'
import { type Box, edgeFor, leading, type Page, type Placed, runningPt, seenOf } from './layout'
import { ascent, hairline, inkOn } from './look'
import { type PageJpeg, pageJpeg } from './pictures'
import { pageFaces, Typesetter } from './type'
import { expandPageLine } from './words'

/* Pages as a PDF (ISO 32000-1). JPEG files go in as they are, with their profiles. */

type Document = PDFKit.PDFDocument
/** What pdfkit can do, and its types do not tell. */
interface Inner {
  ref(data: Record<string, unknown>): { data: Record<string, unknown>; end(chunk?: Uint8Array): void }
  readonly readableLength: number
}
const inner = (document: Document): Inner => document as unknown as Inner

/** Bytes that may wait to be written before another picture is read. */
const mostWaiting = 8 * 2 ** 20

/**
 * Writes a book to a file that is not there yet. The same book gives the same bytes.
 * Memory: one picture at a time, and what a page of the PDF's own holds.
 */
export async function writePdf(book: Book, path: string, onPicture: OnPicture = () => undefined): Promise<void> {
  // Read only here: it is larger than all else that a helper starts with.
  const { default: PDFDocument } = await import('pdfkit')
  const document = new PDFDocument({
    autoFirstPage: false,
    margin: 0,
    info: {
      Title: book.title,
      ...(book.author ? { Author: book.author } : {}),
      Creator: 'Copper Loop',
      Producer: 'Copper Loop',
      CreationDate: new Date(book.madeAt),
      ModDate: new Date(book.madeAt),
    },
  })
  const file = createWriteStream(path, { flags: 'wx' })
  const written = finished(file)
  // What goes wrong with the file ends the work at the next picture.
  let failure: unknown
  written.catch((error: unknown) => {
    failure = error
  })
  document.pipe(file)
  const writer = new PdfWriter(document, book)
  let done = 0
  for (const [index, page] of book.pages.entries()) {
    writer.begin(page, index)
    for (const place of page.pictures) {
      await writer.lay(place)
      onPicture(++done)
      while (inner(document).readableLength > mostWaiting && failure === undefined) await new Promise((resolve) => setTimeout(resolve, 5))
      if (failure !== undefined) throw failure
    }
  }
  document.end()
  await written
}

class PdfWriter {
  private readonly type: Typesetter
  private readonly ink: string
  private readonly edge: number | null
  /** Profiles by content: all pictures of a set usually have the same. */
  private readonly profiles = new Map<string, unknown>()
  private made = 0

  constructor(
    private readonly document: Document,
    private readonly book: Book,
  ) {
    this.type = new Typesetter(book.faces)
    pageFaces.forEach((name, i) => {
      const face = book.faces[i]
      if (face) document.registerFont(name, Buffer.from(face))
    })
    this.ink = inkOn(book.gather.ground)
    this.edge = edgeFor(book.gather)
  }

  begin(page: Page, index: number): void {
    const { document, book } = this
    document.addPage({ size: [page.width, page.height], margin: 0 })
    if (book.gather.ground.toLowerCase() !== '#ffffff') document.rect(0, 0, page.width, page.height).fill(book.gather.ground)
    const words = { ...book.words, page: index + 1, pages: book.pages.length }
    if (page.head) this.line(expandPageLine(book.gather.head, words), page.head, runningPt)
    if (page.foot) this.line(expandPageLine(book.gather.foot, words), page.foot, runningPt)
  }

  async lay({ index, cell, picture, turned, words }: Placed): Promise<void> {
    const { document, book } = this
    const shown = book.pictures[index]
    if (!shown) return
    const { x, y, width, height } = seenOf(picture, cell)
    const jpeg = await pageJpeg(shown.path, this.edge, book.gather.ground)
    document.save()
    if (book.gather.fill) document.rect(x, y, width, height).clip()
    this.image(jpeg, picture, turned)
    document.restore()
    if (book.gather.hairline) document.rect(x, y, width, height).lineWidth(hairline.widthPt).stroke(hairline.colour)
    shown.captions.forEach((line, i) => {
      const size = book.gather.captionPt
      this.line(line, { ...words, y: words.y + i * size * leading }, size, 'middle')
    })
    if (book.gather.kind === 'set') document.outline.addItem(shown.name)
  }

  private image(jpeg: PageJpeg, box: Box, turned: boolean): void {
    const { document } = this
    const image = { width: jpeg.width, height: jpeg.height, label: `P${++this.made}`, obj: null as unknown, embed: () => undefined }
    const object = inner(document).ref({
      Type: 'XObject',
      Subtype: 'Image',
      BitsPerComponent: 8,
      Width: jpeg.width,
      Height: jpeg.height,
      ColorSpace: this.colours(jpeg),
      Filter: 'DCTDecode',
    })
    object.end(jpeg.bytes)
    image.obj = object
    const source = image as unknown as PDFKit.Mixins.ImageSrc
    if (!turned) {
      document.image(source, box.x, box.y, { width: box.width, height: box.height })
      return
    }
    // A quarter to the right about the middle of its place.
    const [middleX, middleY] = [box.x + box.width / 2, box.y + box.height / 2]
    document.rotate(90, { origin: [middleX, middleY] })
    document.image(source, middleX - box.height / 2, middleY - box.width / 2, {
      width: box.height,
      height: box.width,
    })
  }

  /** ISO 32000-1, 8.6.5.5: ICC-based colour, one stream for each profile. */
  private colours({ profile, channels }: PageJpeg): unknown {
    const plain = channels === 1 ? 'DeviceGray' : 'DeviceRGB'
    if (!profile) return plain
    const key = profile.toString('latin1')
    const known = this.profiles.get(key)
    if (known) return known
    const stream = inner(this.document).ref({ N: channels, Alternate: plain })
    stream.end(profile)
    const space = ['ICCBased', stream]
    this.profiles.set(key, space)
    return space
  }

  private line(text: string, box: Box, size: number, at: 'start' | 'middle' = 'start'): void {
    const { document, type } = this
    const shown = type.fitted(text, size, box.width)
    let x = at === 'middle' ? box.x + (box.width - type.width(shown, size)) / 2 : box.x
    for (const { face, text: part } of type.stretches(shown)) {
      document
        .font(pageFaces[face] ?? pageFaces[0], size)
        .fillColor(this.ink)
        .text(part, x, box.y + ascent * size, { lineBreak: false, baseline: 'alphabetic' })
      x += type.width(part, size)
    }
  }
}

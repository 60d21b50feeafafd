import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp, { type Sharp } from 'sharp'
import { beforeAll, describe, expect, it } from 'vitest'
import { deltaE00 } from '@/colour/delta-e'
import { srgb8ToLab } from '@/colour/lab'
import { colourSpaces } from '@/colour/spaces'
import { buildMatrixProfile } from '@/files/icc'
import { type Gather, gatherFor, gatherOf } from '@/jobs/gather'
import type { Book, BookPicture } from './book'
import { layPages, seenOf, toPoints } from './layout'
import { writePdf } from './pdf'
import { pageImage } from './raster'
import { pageFaces, Typesetter } from './type'

/* Pages against readers from outside: poppler (pdfinfo, pdfimages, pdftotext, pdftoppm) for PDF, libvips for pictures. */

const folder = mkdtempSync(join(tmpdir(), 'copper-loop-pages-'))
const at = (name: string): string => join(folder, name)
const faces = pageFaces.map((face) => readFileSync(`.build/fonts/${face}.woff`))
const run = (tool: string, ...words: string[]): string => execFileSync(tool, words, { encoding: 'utf8' })

/** A soft picture of its own colours. */
const draw = (width: number, height: number, hue: number) =>
  sharp(
    Buffer.from(
      `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}"><defs><linearGradient id="g" x2="1" y2="1"><stop stop-color="hsl(${hue},60%,30%)"/><stop offset="1" stop-color="hsl(${hue + 60},70%,80%)"/></linearGradient></defs><rect width="100%" height="100%" fill="url(#g)"/><circle cx="${width / 3}" cy="${height / 2}" r="${height / 4}" fill="hsl(${hue + 180},50%,50%)"/></svg>`,
    ),
  ).removeAlpha()

const files: BookPicture[] = []
const file = async (name: string, width: number, height: number, hue: number, make: (picture: Sharp) => Sharp): Promise<void> => {
  await make(draw(width, height, hue)).toFile(at(name))
  files.push({ path: at(name), name: `Picture ${name}`, size: { width, height }, folder: '', captions: [name, 'Second line'] })
}
beforeAll(async () => {
  await file('a.jpg', 600, 400, 20, (picture) => picture.jpeg({ quality: 90 }))
  await file('b.jpg', 400, 600, 120, (picture) => picture.jpeg({ quality: 90, progressive: true }))
  await file('c.jpg', 600, 400, 200, (picture) => picture.jpeg({ quality: 90 }).withMetadata({ icc: at('wide.icc') }))
  await file('d.jpg', 600, 400, 0, (picture) => picture.toColourspace('b-w').jpeg({ quality: 90 }))
})
writeFileSync(at('wide.icc'), buildMatrixProfile(colourSpaces.oprgb))

const bookOf = (gather: Gather, pictures: readonly BookPicture[] = files): Book => ({
  ...{ gather, pictures, faces, pages: layPages(gather, pictures), madeAt: Date.UTC(2026, 10, 29) },
  ...{ title: 'Twelve vases', author: 'Tern Lane Pottery' },
  words: { loop: 'Vases', delivery: 'Sheet', run: '7', today: '2026-11-29T10:00:00' },
})
let made = 0
async function pdfOf(book: Book): Promise<string> {
  const path = at(`${++made}.pdf`)
  await writePdf(book, path)
  return path
}

/** Mean colour difference of two pictures of one size. */
function meanDifference(a: Buffer, b: Buffer): number {
  let sum = 0
  const colour = (from: Buffer, i: number) => srgb8ToLab([from[i] ?? 0, from[i + 1] ?? 0, from[i + 2] ?? 0])
  for (let i = 0; i < a.length; i += 3) sum += deltaE00(colour(a, i), colour(b, i))
  return sum / (a.length / 3)
}

describe('a set in one PDF', () => {
  it('has a page as large as each picture, says who made it, and has bookmarks', async () => {
    const path = await pdfOf(bookOf(gatherFor('set')))
    const info = run('pdfinfo', '-l', '9', path)
    expect(info).toMatch(/Title:\s+Twelve vases/)
    expect(info).toMatch(/Author:\s+Tern Lane Pottery/)
    expect(info).toMatch(/CreationDate:\s+Sun Nov 29 \d\d:00:00 2026/)
    expect(info).toMatch(/Pages:\s+4/)
    // 600 px at 300 dpi are 2 inches.
    expect(info).toMatch(/Page\s+1 size:\s+144 x 96 pts/)
    expect(info).toMatch(/Page\s+2 size:\s+96 x 144 pts/)
    const bookmarks = readFileSync(path, 'latin1').match(/\/Title \(Picture [a-d]\.jpg\)/g)
    expect(bookmarks).toHaveLength(4)
  })
  it('holds the delivered JPEG files byte for byte, with their profiles', async () => {
    const path = await pdfOf(bookOf(gatherFor('set')))
    run('pdfimages', '-all', path, at('out'))
    const hash = (name: string): string =>
      createHash('sha256')
        .update(readFileSync(at(name)))
        .digest('hex')
    const taken = readdirSync(folder)
      .filter((name) => name.startsWith('out-'))
      .sort()
    expect(taken.map(hash)).toEqual(['a.jpg', 'b.jpg', 'c.jpg', 'd.jpg'].map(hash))
    const list = run('pdfimages', '-list', path)
      .split('\n')
      .slice(2)
      .map((line) => line.trim().split(/\s+/))
    expect(list.map(([, , , width, height, colour]) => [width, height, colour]).slice(0, 4)).toEqual([
      ['600', '400', 'rgb'],
      ['400', '600', 'rgb'],
      ['600', '400', 'icc'],
      ['600', '400', 'gray'],
    ])
    // x-ppi and y-ppi.
    expect(list[0]?.slice(12, 14)).toEqual(['300', '300'])
  })
  it('shows what was delivered', async () => {
    const path = await pdfOf(bookOf(gatherFor('set'), files.slice(0, 2)))
    run('pdftoppm', '-r', '300', '-png', path, at('page'))
    for (const [page, source] of [
      ['page-1.png', 'a.jpg'],
      ['page-2.png', 'b.jpg'],
    ] as const) {
      const [seen, delivered] = await Promise.all([page, source].map((name) => sharp(at(name)).removeAlpha().raw().toBuffer()))
      expect(meanDifference(seen as Buffer, delivered as Buffer)).toBeLessThan(1)
    }
  })
  it('is the same file when it is made again', async () => {
    const [first, second] = [await pdfOf(bookOf(gatherFor('set'))), await pdfOf(bookOf(gatherFor('set')))]
    expect(readFileSync(first).equals(readFileSync(second))).toBe(true)
  })
})

describe('a contact sheet', () => {
  // A4 after ISO 216 in points of 1/72 inch (ISO 32000-1, 8.3.2.3).
  it('has the paper’s size, its words, and pictures where they were laid', async () => {
    const gather = gatherOf({ columns: 2, rows: 1, captions: ['{name}', 'x'], head: 'Vases of {loop}', hairline: true })
    const path = await pdfOf(bookOf(gather))
    expect(run('pdfinfo', path)).toMatch(/Page size:\s+595\.\d+ x 841\.\d+ pts \(A4\)/)
    expect(run('pdfinfo', path)).toMatch(/Pages:\s+2/)
    const words = run('pdftotext', '-layout', path, '-')
    for (const expected of ['a.jpg', 'd.jpg', 'Second line', 'Vases of Vases', 'Vases, 29 November 2026, page 2 of 2'])
      expect(words).toContain(expected)
  })
  it('comes out the same as a PDF and as a picture', async () => {
    const gather = gatherOf({ columns: 2, rows: 2, dpi: 100, format: 'png', captions: ['{name}'], fill: true, ground: '#e8e4da' })
    const book = bookOf(gather)
    run('pdftoppm', '-r', '100', '-png', await pdfOf(book), at('sheet'))
    const picture = await pageImage(book, 0)
    const [seen, drawn] = await Promise.all(
      [sharp(at('sheet-1.png')), sharp(picture)].map((each) => each.removeAlpha().raw().toBuffer({ resolveWithObject: true })),
    )
    // The reader rounds the page up to whole pixels.
    expect([seen?.info.width, (seen?.info.height ?? 0) - (drawn?.info.height ?? 0)]).toEqual([drawn?.info.width, 1])
    expect(meanDifference(seen?.data.subarray(0, drawn?.data.length) as Buffer, drawn?.data as Buffer)).toBeLessThan(1)
  })
  it('as a picture has its size, resolution and profile, in each format', async () => {
    for (const format of ['jpeg', 'png', 'tiff'] as const) {
      const gather = gatherOf({ paper: 'own', ownWidthMm: 101.6, ownHeightMm: 50.8, marginMm: 2, dpi: 150, columns: 2, rows: 1, format })
      const { width, height, format: is, density, icc } = await sharp(await pageImage(bookOf(gather), 0)).metadata()
      expect([width, height, is, density]).toEqual([600, 300, format, 150])
      expect(icc?.toString('latin1').replaceAll('\0', '')).toContain('sRGB')
    }
  })
  it('turns and cuts pictures as it says, and leaves the ground between them', async () => {
    const gather = gatherOf({
      paper: 'own',
      ownWidthMm: 50.8,
      ownHeightMm: 101.6,
      marginMm: 5.08,
      foot: '',
      captions: [],
      columns: 1,
      rows: 1,
      dpi: 100,
      turn: true,
      ground: '#102030',
      format: 'png',
    })
    const book = bookOf(gather, files.slice(0, 1))
    const place = book.pages[0]?.pictures[0]
    if (!place) throw new Error('There is no picture')
    expect(place.turned).toBe(true)
    const { x, y, width, height } = seenOf(place.picture, place.cell)
    const { data, info } = await sharp(await pageImage(book, 0))
      .raw()
      .toBuffer({ resolveWithObject: true })
    const pixel = (px: number, py: number): number[] => [...data.subarray((py * info.width + px) * 3, (py * info.width + px) * 3 + 3)]
    expect(pixel(2, 2)).toEqual([0x10, 0x20, 0x30])
    expect(pixel(Math.floor((toPoints(5.08) / 72) * 100) - 2, 200)).toEqual([0x10, 0x20, 0x30])
    // The upper left corner of the source comes to the upper right.
    const source = await sharp(at('a.jpg')).raw().toBuffer()
    const corner = pixel(Math.round(((x + width) / 72) * 100) - 3, Math.round((y / 72) * 100) + 2)
    expect(
      deltaE00(srgb8ToLab([source[6] ?? 0, source[7] ?? 0, source[8] ?? 0]), srgb8ToLab(corner as [number, number, number])),
    ).toBeLessThan(4)
    expect(height).toBeGreaterThan(width)
  })
  it('takes what is no plain JPEG too: sixteen bits, four inks, see-through', async () => {
    await draw(300, 200, 40).toColourspace('rgb16').png().toFile(at('e.png'))
    await draw(300, 200, 90).toColourspace('cmyk').jpeg().toFile(at('f.jpg'))
    await draw(300, 200, 90).ensureAlpha(0.5).webp().toFile(at('g.webp'))
    const odd = ['e.png', 'f.jpg', 'g.webp'].map((name) => ({
      path: at(name),
      name,
      size: { width: 300, height: 200 },
      folder: '',
      captions: [name],
    }))
    const book = bookOf(gatherOf({ columns: 3, rows: 1, dpi: 72, format: 'png' }), odd)
    expect(run('pdfimages', '-list', await pdfOf(book)).match(/jpeg/g)).toHaveLength(3)
    expect((await sharp(await pageImage(book, 0)).metadata()).width).toBe(595)
  })
  it('takes a panorama of 20,000 pixels into a cell, made as small as its place, and onto a page of its own as it is', async () => {
    await draw(20_000, 1500, 60).jpeg({ quality: 80 }).toFile(at('wide.jpg'))
    const wide = [{ path: at('wide.jpg'), name: 'wide', size: { width: 20_000, height: 1500 }, folder: '', captions: ['wide'] }]
    const imagesOf = (path: string): string[][] =>
      run('pdfimages', '-list', path)
        .trim()
        .split('\n')
        .slice(2)
        .map((line) => line.trim().split(/\s+/).slice(3, 5))
    const gather = gatherOf({ columns: 4, rows: 5, dpi: 100, format: 'png' })
    const [[width] = []] = imagesOf(await pdfOf(bookOf(gather, wide)))
    expect(Number(width)).toBeLessThan(300)
    expect((await sharp(await pageImage(bookOf(gather, wide), 0)).metadata()).width).toBe(827)
    const whole = await pdfOf(bookOf(gatherFor('set'), wide))
    expect(imagesOf(whole)).toEqual([['20000', '1500']])
    expect(run('pdfinfo', whole)).toMatch(/Page size:\s+4800 x 360 pts/)
  })
  it('is refused as a picture where it would be too large', async () => {
    const gather = gatherOf({ paper: 'own', ownWidthMm: 2000, ownHeightMm: 2000, dpi: 1200, format: 'png' })
    await expect(pageImage(bookOf(gather), 0)).rejects.toMatchObject({ code: 'pageTooLarge' })
  })
  it('does not write over a file, and tells when a picture has gone', async () => {
    const path = await pdfOf(bookOf(gatherFor('set'), files.slice(0, 1)))
    await expect(writePdf(bookOf(gatherFor('set'), files.slice(0, 1)), path)).rejects.toThrow(/EEXIST/)
    const gone = [{ ...(files[0] as BookPicture), path: at('gone.jpg') }]
    await expect(writePdf(bookOf(gatherFor('set'), gone), at('never.pdf'))).rejects.toThrow(/gone.jpg is no longer there/)
  })
})

describe('words on pages', () => {
  const type = new Typesetter(faces)
  it('are set in the face that has their signs; what none has is a question mark', () => {
    expect(type.stretches('Łódź 🎉 שלום').map(({ face, text }) => [face, text])).toEqual([
      [1, 'Ł'],
      [0, 'ód'],
      [1, 'ź'],
      [0, ' ? ????'],
    ])
  })
  it('are cut where there is no more room, however long they are', () => {
    const long = 'word '.repeat(100)
    const cut = type.fitted(long, 8, 90)
    expect(type.width(cut, 8)).toBeLessThanOrEqual(90)
    expect(cut).toMatch(/…$/)
    expect(type.fitted('short', 8, 90)).toBe('short')
    expect(type.fitted(long, 8, 1)).toBe('')
  })
})

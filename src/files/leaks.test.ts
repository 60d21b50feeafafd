import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { beforeAll, describe, expect, it } from 'vitest'
import { defaultEncoding, type EncodingFormat } from '@/jobs/encoding'
import { keepAll, type MetadataPolicy } from '@/jobs/metadata-policy'
import { type CarriedMetadata, decodePicture } from './decode'
import { encodePicture } from './encode'
import { insertSegments } from './metadata/jpeg-segments'
import { metadataFor } from './metadata/metadata'

/*
 * Where a picture was taken, and how it was before it was cropped, searched for in the delivered bytes themselves, and by
 * exiftool (Debian: libimage-exiftool-perl) as a reader from outside.
 */

const formats = ['jpeg', 'png', 'tiff', 'webp', 'avif'] as const
const size = { width: 24, height: 16 }
/** Words that stand for a place wherever one may be written, so that they are found in any bytes. */
const place = 'Ternlanewick'
const folder = mkdtempSync(join(tmpdir(), 'copper-loop-leaks-'))
const exiftool = (...args: string[]): string => execFileSync('exiftool', args, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'ignore'] })

const xmpOf = (body: string): string =>
  `<?xpacket begin="\uFEFF" id="W5M0MpCehiHzreSzNTczkc9d"?><x:xmpmeta xmlns:x="adobe:ns:meta/"><r:RDF xmlns:r="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><r:Description r:about="" ` +
  `xmlns:e="http://ns.adobe.com/exif/1.0/" xmlns:p="http://example.org/desk/1.0/" xmlns:core="http://iptc.org/std/Iptc4xmpCore/1.0/xmlns/" ` +
  `xmlns:ext="http://iptc.org/std/Iptc4xmpExt/2008-02-29/" xmlns:drone="http://example.org/drone/1.0/" xmlns:g="http://www.w3.org/2003/01/geo/wgs84_pos#" ` +
  `xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:xmp="http://ns.adobe.com/xap/1.0/" xmlns:img="http://ns.adobe.com/xap/1.0/g/img/" ` +
  `e:GPSLatitude="56,20.25N" drone:GpsLatitude="+56.33" p:City="${place}-a">${body}</r:Description></r:RDF></x:xmpmeta><?xpacket end="w"?>`

const placesInXmp = xmpOf(
  `<p:State>${place}-b</p:State\n><core:Location>${place}-c</core:Location><core:CountryCode>${place}-d</core:CountryCode>` +
    `<ext:City>${place}-e</ext:City><ext:ProvinceState>${place}-f</ext:ProvinceState><ext:Sublocation>${place}-g</ext:Sublocation>` +
    `<ext:LocationShown><r:Bag><r:li r:parseType="Resource"><ext:WorldRegion>${place}-h</ext:WorldRegion></r:li></r:Bag></ext:LocationShown>` +
    `<g:lat>56.3375</g:lat><drone:AbsoluteAltitude>${place}-i</drone:AbsoluteAltitude>` +
    `<dc:title><r:Alt><r:li xml:lang="x-default">Kept title</r:li></r:Alt></dc:title><p:AuthorsPosition>Kept position</p:AuthorsPosition>` +
    `<xmp:Thumbnails><r:Alt><r:li r:parseType="Resource"><img:image>THUMBNAILINXMP</img:image></r:li></r:Alt></xmp:Thumbnails>`,
)

/** An EXIF block with coordinates, a maker's notes that name a place, and a small picture of how it was. */
function exifBlock(small: Buffer): Buffer {
  const entry = (tag: number, type: number, count: number, value: number | Buffer): Buffer => {
    const bytes = Buffer.alloc(12)
    bytes.writeUInt16LE(tag, 0)
    bytes.writeUInt16LE(type, 2)
    bytes.writeUInt32LE(count, 4)
    if (typeof value === 'number') bytes.writeUInt32LE(value, 8)
    else value.copy(bytes, 8)
    return bytes
  }
  const directory = (entries: readonly Buffer[], next: number): Buffer => {
    const head = Buffer.alloc(2)
    head.writeUInt16LE(entries.length)
    const link = Buffer.alloc(4)
    link.writeUInt32LE(next)
    return Buffer.concat([head, ...entries, link])
  }
  const note = Buffer.from(`MAKER ${place}-j\0`)
  const latitude = Buffer.alloc(24)
  for (const [i, value] of [56, 1, 20, 1, 15, 1].entries()) latitude.writeUInt32LE(value, i * 4)
  const sensitivity = Buffer.from('SPECTRAL\0')
  const at = { first: 8, exif: 100, gps: 200, second: 300, note: 400, latitude: 500, sensitivity: 540, small: 600 }
  const block = Buffer.alloc(at.small + small.length)
  block.write('II*\0', 'latin1')
  block.writeUInt32LE(at.first, 4)
  directory([entry(0x0112, 3, 1, 1), entry(0x8769, 4, 1, at.exif), entry(0x8825, 4, 1, at.gps)], at.second).copy(block, at.first)
  directory([entry(0x8824, 2, 9, at.sensitivity), entry(0x8827, 3, 1, 400), entry(0x927c, 7, note.length, at.note)], 0).copy(block, at.exif)
  directory([entry(1, 2, 2, Buffer.from('N\0')), entry(2, 5, 3, at.latitude)], 0).copy(block, at.gps)
  directory([entry(0x0103, 3, 1, 6), entry(0x0201, 4, 1, at.small), entry(0x0202, 4, 1, small.length)], 0).copy(block, at.second)
  note.copy(block, at.note)
  latitude.copy(block, at.latitude)
  sensitivity.copy(block, at.sensitivity)
  small.copy(block, at.small)
  return Buffer.concat([Buffer.from('Exif\0\0', 'latin1'), block])
}

/** What stands before the resources of a JPEG's APP13, as cameras' files have it. */
let kindOfBlock: Buffer = Buffer.alloc(0)

/** Image resources as other programs write them: IPTC records, and beside them the same again, with small pictures. */
function resources(small: Buffer): Buffer {
  const dataset = (number: number, text: string): Buffer =>
    Buffer.concat([Buffer.from([0x1c, 2, number, text.length >> 8, text.length & 255]), Buffer.from(text)])
  const extended = Buffer.concat([Buffer.from([0x1c, 2, 101, 0x80, 4, 0, 0, 0, 14]), Buffer.from(`${place}-k`)])
  const records = Buffer.concat([dataset(5, 'Kept name'), dataset(90, `${place}-l`), extended, dataset(92, `${place}-m`)])
  const resource = (id: number, data: Buffer): Buffer => {
    const head = Buffer.from(`8BIM\0\0\0\0\0\0\0\0`, 'latin1')
    head.writeUInt16BE(id, 4)
    head.writeUInt32BE(data.length, 8)
    return Buffer.concat([head, data, Buffer.alloc(data.length & 1)])
  }
  return Buffer.concat([
    kindOfBlock,
    resource(0x0422, exifBlock(small).subarray(6)),
    resource(0x0424, Buffer.from(placesInXmp)),
    resource(0x040c, Buffer.concat([Buffer.alloc(28), small])),
    resource(0x0404, records),
  ])
}

const encodings: Readonly<Record<string, (text: string) => Buffer>> = {
  'UTF-8': (text) => Buffer.from(text),
  'UTF-16, big end first': (text) => Buffer.from(`\uFEFF${text}`, 'utf16le').swap16(),
  'UTF-16, little end first': (text) => Buffer.from(`\uFEFF${text}`, 'utf16le'),
}

/** A source JPEG with all of it in it. */
async function source(encoding = 'UTF-8'): Promise<Buffer> {
  // The mark of its own is searched for: a small picture with these bytes is one of how it was.
  const small = Buffer.concat([
    await sharp({ create: { width: 16, height: 12, channels: 3, background: '#f0f' } })
      .jpeg()
      .toBuffer(),
    Buffer.from('SMALLPICTURE'),
  ])
  const plain = await sharp({ create: { ...size, channels: 3, background: '#a54' } })
    .jpeg()
    .toBuffer()
  const xmp = encodings[encoding]?.(placesInXmp)
  return insertSegments(plain, new Uint8Array(), { exif: exifBlock(small), iptc: resources(small), xmp })
}

async function deliver(carried: CarriedMetadata, policy: MetadataPolicy, format: EncodingFormat): Promise<Buffer> {
  const told = await metadataFor(carried, { ...keepAll, policy })
  const values = new Uint8ClampedArray(size.width * size.height * 3).fill(120)
  return encodePicture({ values, channels: 3 }, size, { ...defaultEncoding, format }, told)
}

/** Whether text stands in bytes, one or two bytes a letter, either end first. */
const holds = (file: Buffer, text: string): boolean => {
  const wide = Buffer.from(text, 'utf16le')
  return [Buffer.from(text), wide, Buffer.from(wide).swap16()].some((each) => file.includes(each))
}

describe('a source', () => {
  let carried: CarriedMetadata
  beforeAll(async () => {
    const { iptc } = await sharp('demo/pictures/vessels/TLK27_0437.jpg').metadata()
    kindOfBlock = iptc?.subarray(0, iptc.indexOf('8BIM')) ?? Buffer.alloc(0)
    carried = (await decodePicture(await source(), 'x.jpg')).carried
  })

  it('has all of it in it, as exiftool reads it', async () => {
    const path = join(folder, 'source.jpg')
    writeFileSync(path, await source())
    const read = exiftool('-a', '-G1', '-s', '-n', path)
    expect(read).toMatch(/GPSLatitude\s*: 56\.3375/)
    for (const letter of 'abcdefgl') expect(read).toContain(`${place}-${letter}`)
    expect(read).toMatch(/ThumbnailImage/)
    expect(carried.exif && carried.iptc && carried.xmp).toBeTruthy()
  })

  it.each(formats)('without its location says nothing of it in a %s, in whatever bytes', async (format) => {
    const file = await deliver(carried, 'noLocation', format)
    for (const text of [place, '56,20.25N', '+56.33', '56.3375', 'GPSLatitude', 'SMALLPICTURE', 'THUMBNAILINXMP'])
      expect([text, holds(file, text)]).toEqual([text, false])
    const path = join(folder, `delivered.${format}`)
    writeFileSync(path, file)
    const read = exiftool('-a', '-G1', '-s', '-u', path)
    expect(read).not.toMatch(/GPS|City|State|Country|Location|latitude|altitude|Thumbnail/i)
    // What is no place stays.
    expect(read).toContain('Kept title')
    expect(read).toContain('Kept position')
    if (format === 'jpeg') expect(read).toContain('Kept name')
    // libvips writes no EXIF into a TIFF. Elsewhere it is whole: 0x8824 is SpectralSensitivity (CIPA DC-008, 4.6.5), nothing to be spared.
    if (format !== 'tiff') expect(read).toMatch(/SpectralSensitivity\s*: SPECTRAL[\s\S]*ISO\s*: 400/)
  })

  it.each(formats)('keeps no small picture of how it was in a %s, though all it tells may go', async (format) => {
    const file = await deliver(carried, 'all', format)
    for (const text of ['SMALLPICTURE', 'THUMBNAILINXMP']) expect([text, holds(file, text)]).toEqual([text, false])
    const path = join(folder, `all.${format}`)
    writeFileSync(path, file)
    const read = exiftool('-a', '-G1', '-s', '-n', path)
    expect(read).not.toMatch(/Thumbnail/)
    expect(read).toMatch(/GPSLatitude\s*: 56\.3375/)
    expect(read).toContain(`${place}-b`)
  })

  it.each(Object.keys(encodings))('is read in %s', async (encoding) => {
    const { xmp } = (await decodePicture(await source(encoding), 'x.jpg')).carried
    const file = await deliver({ xmp }, 'noLocation', 'jpeg')
    expect(holds(file, place)).toBe(false)
    expect(holds(file, 'Kept title')).toBe(true)
  })

  it('of rights alone, or of nothing, says no place either', async () => {
    for (const policy of ['rights', 'none'] as const) {
      const file = await deliver(carried, policy, 'jpeg')
      expect([policy, holds(file, place), holds(file, 'SMALLPICTURE')]).toEqual([policy, false, false])
    }
  })

  it('with a packet that can’t be read, or defines entities, gives nothing of it away', async () => {
    for (const xmp of [`${placesInXmp}<broken`, `<!DOCTYPE x [<!ENTITY p "${place}">]>${placesInXmp}`]) {
      const file = await deliver({ xmp: Buffer.from(xmp) }, 'noLocation', 'jpeg')
      expect(holds(file, place)).toBe(false)
    }
  })
})

describe('the resolution of a file', () => {
  it.each(formats)('is stated in a %s only where somebody stated one', async (format) => {
    const values = new Uint8ClampedArray(size.width * size.height * 3).fill(120)
    const read = async (dpi: number | null): Promise<string> => {
      const path = join(folder, `dpi-${dpi}.${format}`)
      writeFileSync(path, await encodePicture({ values, channels: 3 }, size, { ...defaultEncoding, format, dpi }, {}))
      expect(readFileSync(path).length).toBeGreaterThan(100)
      return exiftool('-a', '-G1', '-s', '-n', '-XResolution', '-PixelsPerUnitX', '-ResolutionUnit', '-PixelUnits', path)
    }
    // JFIF and TIFF must hold numbers: without a unit they are a ratio. EXIF must state a resolution, 72 dpi where none is known (CIPA DC-008).
    const unstated = { jpeg: /^$/, png: /^$/, tiff: /ResolutionUnit\s*: 1/, webp: /: 72\s/, avif: /: 72\s/ }
    expect(await read(null)).toMatch(unstated[format])
    if (format === 'png' || format === 'tiff' || format === 'jpeg') expect(await read(300)).toMatch(/: (300|11811|118\.1)/)
  })
})

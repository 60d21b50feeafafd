import { readFileSync } from 'node:fs'
import exifr from 'exifr'
import fc from 'fast-check'
import sharp from 'sharp'
import { beforeAll, describe, expect, it } from 'vitest'
import { defaultEncoding, type EncodingFormat } from '@/jobs/encoding'
import { keepAll, keywordsOf, type MetadataPolicy, type WrittenFields } from '@/jobs/metadata-policy'
import { type CarriedMetadata, decodePicture } from '../decode'
import { encodePicture } from '../encode'
import { exifWith, uprightExif, withoutExifLocation } from './exif'
import { editIim } from './iim'
import { metadataFor } from './metadata'
import { withFields, withoutLocation, withoutThumbnails } from './xmp'

/* Delivered files are read by exifr, an independent reader of EXIF, IPTC and XMP. */

const fields = (part: Partial<WrittenFields> = {}): WrittenFields => ({ ...keepAll.fields, ...part })
const size = { width: 4, height: 3 }

/** A demo picture with a place in EXIF, IPTC and XMP. */
let carried: CarriedMetadata
beforeAll(async () => {
  const original = readFileSync('demo/pictures/vessels/TLK27_0437.jpg')
  const placed = await sharp(original)
    .resize(40)
    .keepMetadata()
    .withExifMerge({ IFD3: { GPSLatitudeRef: 'N', GPSLatitude: '56/1 20/1 0/1', GPSLongitudeRef: 'W', GPSLongitude: '4/1 30/1 0/1' } })
    .jpeg()
    .toBuffer()
  const found = (await decodePicture(placed, 'x.jpg')).carried
  const town = Buffer.concat([Buffer.from([0x1c, 2, 90, 0, 9]), Buffer.from('Tern Lane')])
  const before = found.iptc?.subarray(0, found.iptc.indexOf('8BIM')) ?? Buffer.alloc(0)
  const head = Buffer.concat([before, Buffer.from('8BIM\x04\x04\0\0', 'latin1')])
  const own = Buffer.concat([Buffer.from([0x1c, 2, 5, 0, 6]), Buffer.from('Bottle'), town])
  const length = Buffer.alloc(4)
  length.writeUInt32BE(own.length)
  const xmp =
    '<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description rdf:about="" xmlns:place="http://example.org/place/" xmlns:exif="http://ns.adobe.com/exif/1.0/" xmlns:dc="http://purl.org/dc/elements/1.1/" place:City="Tern Lane" exif:GPSLatitude="56,20N"><dc:creator><rdf:Seq><rdf:li>Ada Quill</rdf:li></rdf:Seq></dc:creator><dc:rights><rdf:Alt><rdf:li xml:lang="x-default">© Tern Lane Kiln</rdf:li></rdf:Alt></dc:rights></rdf:Description></rdf:RDF></x:xmpmeta>'
  carried = { exif: found.exif, iptc: Buffer.concat([head, length, own, Buffer.alloc(own.length & 1)]), xmp: Buffer.from(xmp) }
})

async function deliver(policy: MetadataPolicy, part: Partial<WrittenFields> = {}, format: EncodingFormat = 'jpeg') {
  const told = await metadataFor(carried, { policy, fields: fields(part) })
  const values = new Uint8ClampedArray(size.width * size.height * 3).fill(120)
  const file = await encodePicture({ values, channels: 3 }, size, { ...defaultEncoding, format }, told)
  const tags = (await exifr.parse(file, { tiff: true, exif: true, gps: true, iptc: true, xmp: true } as never).catch(() => undefined)) ?? {}
  return { file, tags }
}
const textOf = (file: Buffer) => file.toString('latin1')

describe('what a delivered file tells', () => {
  it('is all that the source told, as a rule', async () => {
    const { tags } = await deliver('all')
    expect(tags).toMatchObject({ ISO: 400, ObjectName: 'Bottle', City: 'Tern Lane' })
    expect(tags.latitude).toBeCloseTo(56.333, 2)
  })
  it('without location has none left anywhere, not even in bytes nobody points to', async () => {
    const { file, tags } = await deliver('noLocation')
    expect(tags).toMatchObject({ ISO: 400, ObjectName: 'Bottle' })
    expect(tags.latitude).toBeUndefined()
    expect(tags.GPSLatitude).toBeUndefined()
    expect(tags.City).toBeUndefined()
    expect(textOf(file)).not.toContain('Tern Lane\0')
    expect(textOf(file)).not.toContain('place:City')
    expect(textOf(file)).not.toContain('56,20N')
  })
  it('of rights alone is title, creator and rights, wherever the source had them', async () => {
    const { tags } = await deliver('rights')
    expect(tags.ISO).toBeUndefined()
    expect(tags.latitude).toBeUndefined()
    expect(tags.title?.value ?? tags.title).toBe('Bottle')
    expect(tags.creator).toBe('Ada Quill')
    expect(tags).toMatchObject({ Artist: 'Ada Quill' })
  })
  it('of nothing is nothing but pixels and profile', async () => {
    const { file, tags } = await deliver('none')
    expect(Object.keys(tags)).toEqual([])
    expect((await sharp(file).metadata()).icc).toBeDefined()
  })
  it.each(['jpeg', 'png', 'tiff', 'webp', 'avif'] as const)('is what was written into it, in %s', async (format) => {
    const { file } = await deliver('all', { title: 'Vase “ünik” & <more>', creator: 'A. Q.', keywords: 'glaze, red, glaze' }, format)
    // libvips hands the packet out of every container; the entities are read as XML has them.
    const packet = (await sharp(file).metadata()).xmp?.toString('utf8') ?? ''
    const listed = (name: string) =>
      [...(packet.match(new RegExp(`<${name}>(.*?)</${name}>`, 's'))?.[1] ?? '').matchAll(/<rdf:li[^>]*>(.*?)<\/rdf:li>/gs)].map((match) =>
        (match[1] ?? '').replaceAll('&lt;', '<').replaceAll('&gt;', '>').replaceAll('&quot;', '"').replaceAll('&amp;', '&'),
      )
    expect(listed('dc:title')).toEqual(['Vase “ünik” & <more>'])
    expect(listed('dc:creator')).toEqual(['A. Q.'])
    expect(listed('dc:subject')).toEqual(['glaze', 'red'])
  })
  it('says the same in every block it has: what a field replaces is gone', async () => {
    const { file, tags } = await deliver('all', { title: 'New', rights: '© 2026' })
    expect(tags.ObjectName).toBeUndefined()
    expect(textOf(file)).not.toContain('Bottle')
    expect(tags).toMatchObject({ ISO: 400, Copyright: expect.stringMatching(/2026/) })
    expect(tags.creator).toBe('Ada Quill')
  })
})

describe('editing blocks', () => {
  it('leaves the rest of an EXIF block readable, whatever is written, long or short', async () => {
    await fc.assert(
      fc.asyncProperty(fc.stringMatching(/^[ -~]{1,40}$/), fc.stringMatching(/^[ -~]{1,3}$/), async (creator, rights) => {
        const exif = exifWith(carried.exif, { creator, rights })
        const values = new Uint8ClampedArray(36).fill(9)
        const file = await encodePicture({ values, channels: 3 }, size, defaultEncoding, { exif })
        const tags = await exifr.parse(file, { tiff: true, exif: true, gps: true } as never)
        expect(tags).toMatchObject({ Artist: creator.trim() === '' ? tags.Artist : creator.trim(), ISO: 400 })
        expect(tags.latitude).toBeCloseTo(56.333, 2)
      }),
      { numRuns: 25 },
    )
  })
  it('answers any bytes, and never throws', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), fc.constantFrom('II*\0', 'MM\0*', 'Exif\0\0II*\0', ''), (bytes, start) => {
        const block = Buffer.concat([Buffer.from(start, 'latin1'), bytes])
        withoutExifLocation(block)
        uprightExif(block, 3, 2)
        exifWith(block, { creator: 'x' })
        editIim(Buffer.concat([Buffer.from('8BIM', 'latin1'), bytes]), new Set([5]))
        withoutLocation(block)
        withoutThumbnails(block)
        withFields(block, { title: 'x' })
      }),
    )
  })
  it('reads keywords as a list, each once', () => expect(keywordsOf(' red, glaze ,,red')).toEqual(['red', 'glaze']))
})

import { createHash } from 'node:crypto'
import { inflateSync } from 'node:zlib'
import exifr from 'exifr'
import fc from 'fast-check'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import { colourSpaces } from '@/colour/spaces'
import { buildMatrixProfile } from './icc'
import { insertSegments } from './metadata/jpeg-segments'
import { insertChunks } from './metadata/png-chunks'

const picture = (): ReturnType<typeof sharp> => sharp({ create: { width: 9, height: 7, channels: 3, background: '#a4542a' } })
const jpegFile = await picture().jpeg().toBuffer()
const pngFile = await picture().png().toBuffer()
const profile = buildMatrixProfile(colourSpaces['display-p3'])

interface Segment {
  readonly marker: number
  readonly payload: Buffer
}

/** Segments before the scan (ITU-T T.81, B.1.1.4: FF, marker, length that counts itself), and all that follows. */
function segmentsOf(jpeg: Buffer): { segments: Segment[]; scan: Buffer } {
  const segments: Segment[] = []
  expect(jpeg.readUInt16BE(0)).toBe(0xffd8)
  let at = 2
  while (jpeg[at + 1] !== 0xda) {
    expect(jpeg[at]).toBe(0xff)
    const length = jpeg.readUInt16BE(at + 2)
    segments.push({ marker: jpeg[at + 1] as number, payload: jpeg.subarray(at + 4, at + 2 + length) })
    at += 2 + length
  }
  return { segments, scan: jpeg.subarray(at) }
}
const beginning = (segments: readonly Segment[], marker: number, text: string): Buffer[] =>
  segments.filter((one) => one.marker === marker && one.payload.toString('latin1', 0, text.length) === text).map(({ payload }) => payload)

/** Chunks (ISO/IEC 15948, 5.3), each with its check sum verified. */
function chunksOf(png: Buffer): { type: string; data: Buffer }[] {
  const chunks: { type: string; data: Buffer }[] = []
  for (let at = 8; at < png.length; ) {
    const length = png.readUInt32BE(at)
    const body = png.subarray(at + 4, at + 8 + length)
    expect(png.readUInt32BE(at + 8 + length)).toBe(checkSum(body))
    chunks.push({ type: body.toString('latin1', 0, 4), data: body.subarray(4) })
    at += 12 + length
  }
  return chunks
}
/** CRC-32 bit by bit, by the polynomial of ISO/IEC 15948, 5.5. */
function checkSum(bytes: Buffer): number {
  let crc = 0xffffffff
  for (const byte of bytes) {
    crc ^= byte
    for (let bit = 0; bit < 8; bit++) crc = crc & 1 ? (crc >>> 1) ^ 0xedb88320 : crc >>> 1
  }
  return (crc ^ 0xffffffff) >>> 0
}

describe('blocks put into a JPEG file', () => {
  /** The first segment of most JPEG files (JFIF 1.02). */
  const jfif = Buffer.from('ffe000104a46494600010200000100010000', 'hex')
  it('stand behind SOI, and JFIF where there is one, and leave the scan as it is', () => {
    const withJfif = Buffer.concat([jpegFile.subarray(0, 2), jfif, jpegFile.subarray(2)])
    expect(
      segmentsOf(insertSegments(withJfif, profile, {}))
        .segments.map(({ marker }) => marker)
        .slice(0, 2),
    ).toEqual([0xe0, 0xe2])
    const carried = { exif: Buffer.from('Exif\0\0MM..'), xmp: Buffer.from('<x:xmpmeta/>'), iptc: Buffer.from('a block of IPTC') }
    const { segments, scan } = segmentsOf(insertSegments(jpegFile, profile, carried))
    const before = segmentsOf(jpegFile)
    expect(scan.equals(before.scan)).toBe(true)
    expect(segments.map(({ marker }) => marker).slice(0, 4)).toEqual([0xe1, 0xe1, 0xed, 0xe2])
    expect(segments.slice(4).map(({ marker }) => marker)).toEqual(before.segments.map(({ marker }) => marker))
    expect(beginning(segments, 0xe1, 'Exif\0\0')).toHaveLength(1)
    expect(beginning(segments, 0xe1, 'http://ns.adobe.com/xap/1.0/\0')[0]?.toString('latin1')).toMatch(/<x:xmpmeta\/>$/)
    expect(beginning(segments, 0xed, 'a block of IPTC')).toHaveLength(1)
    expect(beginning(segments, 0xe2, 'ICC_PROFILE\0')).toHaveLength(1)
  })
  it('carry a profile of any length, in numbered pieces that fit together again (ICC.1, B.4)', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 300_000 }), (length) => {
        const large = Buffer.alloc(length, Buffer.from('a profile of some length '))
        const pieces = beginning(segmentsOf(insertSegments(jpegFile, large, {})).segments, 0xe2, 'ICC_PROFILE\0')
        expect(pieces.map((piece) => piece[12])).toEqual(pieces.map((_, i) => i + 1))
        for (const piece of pieces) expect(piece[13]).toBe(pieces.length)
        expect(Buffer.concat(pieces.map((piece) => piece.subarray(14))).equals(large)).toBe(true)
      }),
      { numRuns: 20 },
    )
  })
  it('are left out where they are too long for a segment, and the file stays whole', async () => {
    const file = insertSegments(jpegFile, profile, { iptc: Buffer.alloc(70_000, 'x'), exif: Buffer.alloc(65_534, 'e') })
    const { segments } = segmentsOf(file)
    expect(segments.filter(({ marker }) => marker === 0xe1 || marker === 0xed)).toEqual([])
    expect((await sharp(file).metadata()).width).toBe(9)
  })
  it('XMP too long for a segment goes in pieces that its packet names, and another reader puts them together', async () => {
    const history = Array.from({ length: 4000 }, (_, i) => `<rdf:li>turned ${i} and fired</rdf:li>`).join('')
    const packet =
      '<?xpacket begin="" id="W5M0MpCehiHzreSzNTczkc9d"?><x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">' +
      '<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:format>of the kiln</dc:format>' +
      `<dc:subject><rdf:Bag>${history}</rdf:Bag></dc:subject></rdf:Description></rdf:RDF></x:xmpmeta><?xpacket end="w"?>`
    const file = insertSegments(jpegFile, profile, { xmp: Buffer.from(packet) })
    const pieces = beginning(segmentsOf(file).segments, 0xe1, 'http://ns.adobe.com/xmp/extension/\0')
    expect(pieces.length).toBe(3)
    const whole = Buffer.concat(pieces.map((piece) => piece.subarray(75))).toString('utf8')
    expect(whole).toBe(packet.replace(/<\?xpacket[^>]*\?>/g, ''))
    // The name is the MD5 of the rest; the length and the places are told in each piece.
    const name = createHash('md5').update(whole).digest('hex').toUpperCase()
    expect(pieces.map((piece) => [piece.toString('latin1', 35, 67), piece.readUInt32BE(67), piece.readUInt32BE(71)])).toEqual(
      [0, 65400, 130800].map((place) => [name, whole.length, place]),
    )
    const read = await exifr.parse(file, { xmp: { multiSegment: true, parse: true }, tiff: false } as never)
    expect(read).toMatchObject({ format: 'of the kiln' })
    expect(read.subject).toHaveLength(4000)
    expect((await sharp(file).metadata()).width).toBe(9)
  })
  it('are read by others: libvips finds the very profile', async () => {
    expect((await sharp(insertSegments(jpegFile, profile, {})).metadata()).icc?.equals(profile)).toBe(true)
  })
})

describe('blocks put into a PNG file', () => {
  it('stand before the pixels with right check sums, and leave the pixels as they are', () => {
    // The one check sum that everybody knows: an empty IEND.
    expect(checkSum(Buffer.from('IEND'))).toBe(0xae426082)
    const chunks = chunksOf(insertChunks(pngFile, profile, { exif: Buffer.from('Exif\0\0II*\0'), xmp: Buffer.from('<x:xmpmeta/>') }))
    const types = chunks.map(({ type }) => type)
    expect(types[0]).toBe('IHDR')
    expect(types.at(-1)).toBe('IEND')
    for (const type of ['iCCP', 'eXIf', 'iTXt']) expect(types.indexOf(type)).toBeLessThan(types.indexOf('IDAT'))
    const data = (from: typeof chunks): Buffer => Buffer.concat(from.filter(({ type }) => type === 'IDAT').map((one) => one.data))
    expect(data(chunks).equals(data(chunksOf(pngFile)))).toBe(true)
  })
  it('hold EXIF without the header of JPEG, XMP under its keyword, and the profile packed', async () => {
    const file = insertChunks(pngFile, profile, { exif: Buffer.from('Exif\0\0II*\0'), xmp: Buffer.from('<x:xmpmeta/>') })
    const find = (type: string): Buffer => chunksOf(file).find((one) => one.type === type)?.data as Buffer
    expect(find('eXIf').toString('latin1')).toBe('II*\0')
    expect(find('iTXt').toString('latin1')).toBe('XML:com.adobe.xmp\0\0\0\0\0<x:xmpmeta/>')
    const packed = find('iCCP')
    expect(inflateSync(packed.subarray(packed.indexOf(0) + 2)).equals(profile)).toBe(true)
    expect((await sharp(file).metadata()).icc?.equals(profile)).toBe(true)
  })
})

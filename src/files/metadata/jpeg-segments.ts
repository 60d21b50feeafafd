import { createHash } from 'node:crypto'
import type { CarriedMetadata } from '../decode'

/*
 * A JPEG file is SOI, marker segments, then the scan (ITU-T T.81, annex B). Metadata travels in APPn segments:
 * EXIF in APP1 (CIPA DC-008, 4.5.5), XMP in APP1 (ISO 16684-1), IPTC in APP13 (IIM in an image resource block),
 * ICC profiles in APP2 (ICC.1:2022, annex B.4).
 */

const app1 = 0xe1
const app2 = 0xe2
const app13 = 0xed
/** A segment's length field counts itself and has 16 bits. */
const maxPayloadBytes = 65533
const xmpHeader = 'http://ns.adobe.com/xap/1.0/\0'
/** Goes before what a packet of XMP has no room for, with a name, the whole length and where the piece belongs. */
const extensionHeader = 'http://ns.adobe.com/xmp/extension/\0'
const extensionBytes = 65400
const iccHeader = 'ICC_PROFILE\0'
/** Marker, chunk number and count stand before each piece of a profile. */
const iccChunkBytes = maxPayloadBytes - iccHeader.length - 2
const exifHeader = 'Exif\0\0'

function segment(marker: number, payload: Uint8Array): Buffer {
  const head = Buffer.from([0xff, marker, (payload.length + 2) >> 8, (payload.length + 2) & 255])
  return Buffer.concat([head, payload])
}

function iccSegments(profile: Uint8Array): Buffer[] {
  const count = Math.ceil(profile.length / iccChunkBytes)
  return Array.from({ length: count }, (_, i) =>
    segment(
      app2,
      Buffer.concat([Buffer.from(iccHeader), Buffer.from([i + 1, count]), profile.subarray(i * iccChunkBytes, (i + 1) * iccChunkBytes)]),
    ),
  )
}

const withHeader = (header: string, bytes: Buffer): Buffer =>
  bytes.subarray(0, header.length).equals(Buffer.from(header, 'latin1')) ? bytes : Buffer.concat([Buffer.from(header, 'latin1'), bytes])

/** A packet in one segment, or one that names the rest by its digest, and the rest in pieces (XMP Specification, part 3, 1.1.3.1). */
function xmpSegments(packet: Buffer): Buffer[] {
  const whole = withHeader(xmpHeader, packet)
  if (whole.length <= maxPayloadBytes) return [segment(app1, whole)]
  const rest = Buffer.from(packet.toString('utf8').replace(/^\uFEFF|<\?xpacket[^>]*\?>/g, ''))
  const name = createHash('md5').update(rest).digest('hex').toUpperCase()
  const pieces = Array.from({ length: Math.ceil(rest.length / extensionBytes) }, (_, i) => {
    const place = Buffer.alloc(8)
    place.writeUInt32BE(rest.length, 0)
    place.writeUInt32BE(i * extensionBytes, 4)
    const piece = rest.subarray(i * extensionBytes, (i + 1) * extensionBytes)
    return segment(app1, Buffer.concat([Buffer.from(extensionHeader + name, 'latin1'), place, piece]))
  })
  return [segment(app1, Buffer.from(xmpHeader + packetNaming(name), 'utf8')), ...pieces]
}

const packetNaming = (name: string): string =>
  '<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">' +
  `<rdf:Description rdf:about="" xmlns:xmpNote="http://ns.adobe.com/xmp/note/" xmpNote:HasExtendedXMP="${name}"/>` +
  '</rdf:RDF></x:xmpmeta>'

/** Blocks too long for one segment are left out: they can't be carried in one piece. */
const fitting = (marker: number, payload: Buffer): Buffer[] => (payload.length <= maxPayloadBytes ? [segment(marker, payload)] : [])

/** Where the first segments end that must stay in front: SOI and a JFIF APP0. */
function insertionPoint(jpeg: Buffer): number {
  return jpeg[2] === 0xff && jpeg[3] === 0xe0 ? 4 + jpeg.readUInt16BE(4) : 2
}

/** Puts metadata and a colour profile into a JPEG file that has none. The scan stays as it is, byte for byte. */
export function insertSegments(jpeg: Buffer, profile: Uint8Array, carried: CarriedMetadata): Buffer {
  const at = insertionPoint(jpeg)
  return Buffer.concat([
    jpeg.subarray(0, at),
    ...(carried.exif ? fitting(app1, withHeader(exifHeader, carried.exif)) : []),
    ...(carried.xmp ? xmpSegments(carried.xmp) : []),
    ...(carried.iptc ? fitting(app13, carried.iptc) : []),
    ...iccSegments(profile),
    jpeg.subarray(at),
  ])
}

import { crc32, deflateSync } from 'node:zlib'
import type { CarriedMetadata } from '../decode'

/*
 * A PNG file is a signature and chunks: length, type, data, CRC (ISO/IEC 15948:2004, 5.3). Profiles travel in iCCP (11.3.3.3), EXIF in
 * eXIf (PNG third edition, 11.3.5.5), XMP in an iTXt of a fixed keyword (ISO 16684-3). All stand before the pixels.
 */

const signatureBytes = 8
const headerChunkBytes = 25

function chunk(type: string, data: Buffer): Buffer {
  const body = Buffer.concat([Buffer.from(type, 'latin1'), data])
  const frame = Buffer.alloc(8)
  frame.writeUInt32BE(data.length, 0)
  frame.writeUInt32BE(crc32(body), 4)
  return Buffer.concat([frame.subarray(0, 4), body, frame.subarray(4)])
}

const profileChunk = (profile: Uint8Array): Buffer => chunk('iCCP', Buffer.concat([Buffer.from('icc\0\0', 'latin1'), deflateSync(profile)]))

/** EXIF without the header that JPEG puts before it. */
const exifChunk = (exif: Buffer): Buffer => chunk('eXIf', exif.toString('latin1', 0, 6) === 'Exif\0\0' ? exif.subarray(6) : exif)

const xmpChunk = (xmp: Buffer): Buffer => chunk('iTXt', Buffer.concat([Buffer.from('XML:com.adobe.xmp\0\0\0\0\0', 'latin1'), xmp]))

/** Puts metadata and a colour profile into a PNG file that has none. The pixels stay as they are, byte for byte. */
export function insertChunks(png: Buffer, profile: Uint8Array, { exif, xmp }: CarriedMetadata): Buffer {
  const at = signatureBytes + headerChunkBytes
  return Buffer.concat([
    png.subarray(0, at),
    profileChunk(profile),
    ...(exif ? [exifChunk(exif)] : []),
    ...(xmp ? [xmpChunk(xmp)] : []),
    png.subarray(at),
  ])
}

/** A PNG without the resolution that libvips writes into every file, though nobody stated one (pHYs: ISO/IEC 15948:2004, 11.3.5.3). */
export function withoutResolution(png: Buffer): Buffer {
  let at = signatureBytes
  while (at + 12 <= png.length) {
    const end = at + 12 + png.readUInt32BE(at)
    const type = png.toString('latin1', at + 4, at + 8)
    if (type === 'pHYs') return Buffer.concat([png.subarray(0, at), png.subarray(end)])
    if (type === 'IDAT') break
    at = end
  }
  return png
}

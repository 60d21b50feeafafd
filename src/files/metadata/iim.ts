/*
 * IPTC-IIM 4.2 records inside an image resource block, as JPEG's APP13 carries them: resources "8BIM", id, name, size, data; the
 * records are resource 0x0404, datasets of 0x1C, record, number, size.
 */

const iimResource = 0x0404
const signature = '8BIM'
const longestHeaderBytes = 32

/** Datasets of record 2 that repeat what a delivery writes, by field. */
export const iimFields = { title: [5], description: [120], creator: [80], rights: [116], keywords: [25] } as const
/** Where a picture was taken: content location, sub-location, city, state, country. */
export const iimLocation: readonly number[] = [26, 27, 90, 92, 95, 100, 101]

/** The records without some datasets of record 2. What can't be read ends the reading and is left out. */
function withoutDatasets(records: Buffer, dropped: ReadonlySet<number>): Buffer {
  const kept: Buffer[] = []
  let at = 0
  while (at + 5 <= records.length && records[at] === 0x1c) {
    const [length, from] = datasetSize(records, at)
    const end = from + length
    if (end > records.length) break
    if (!(records[at + 1] === 2 && dropped.has(records[at + 2] ?? 0))) kept.push(records.subarray(at, end))
    at = end
  }
  return Buffer.concat(kept)
}

/** How long a dataset's data are, and where they begin; an extended one says first in how many bytes it says so (IIM 4.2, 1.5). */
function datasetSize(records: Buffer, at: number): readonly [length: number, from: number] {
  const size = records.readUInt16BE(at + 3)
  if (!(size & 0x8000)) return [size, at + 5]
  const bytes = size & 0x7fff
  if (bytes < 1 || bytes > 4 || at + 5 + bytes > records.length) return [records.length, at]
  return [records.readUIntBE(at + 5, bytes), at + 5 + bytes]
}

/**
 * A block of resources made anew from the IPTC records alone, some datasets taken out. Its other resources are left
 * behind: they hold small pictures of how it was, and EXIF and XMP once more. A block that can't be read, or holds no
 * records, is dropped: undefined.
 */
export function editIim(block: Buffer, dropped: ReadonlySet<number>): Buffer | undefined {
  // A name of the block's kind may stand before the first resource.
  const first = block.indexOf(signature, 0, 'latin1')
  if (first < 0 || first > longestHeaderBytes) return undefined
  let at = first
  while (at + 12 <= block.length) {
    if (block.toString('latin1', at, at + 4) !== signature) return undefined
    const id = block.readUInt16BE(at + 4)
    // A name of one length byte and its letters, and data, each padded to an even length.
    const nameBytes = (1 + (block[at + 6] ?? 0) + 1) & ~1
    const sizeAt = at + 6 + nameBytes
    if (sizeAt + 4 > block.length) return undefined
    const size = block.readUInt32BE(sizeAt)
    const end = sizeAt + 4 + size
    if (end > block.length) return undefined
    if (id === iimResource) return resourceOf(block.subarray(0, first), withoutDatasets(block.subarray(sizeAt + 4, end), dropped))
    at = end + (size & 1)
  }
  return undefined
}

function resourceOf(kind: Buffer, records: Buffer): Buffer | undefined {
  if (records.length === 0) return undefined
  const head = Buffer.concat([kind, Buffer.from(`${signature}\x04\x04\0\0`, 'latin1')])
  const length = Buffer.alloc(4)
  length.writeUInt32BE(records.length)
  return Buffer.concat([head, length, records, Buffer.alloc(records.length & 1)])
}

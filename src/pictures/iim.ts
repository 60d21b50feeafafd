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

/** The records without some datasets of record 2. Extended datasets end the reading: what stands there is kept as it is. */
function withoutDatasets(records: Buffer, dropped: ReadonlySet<number>): Buffer {
  const kept: Buffer[] = []
  let at = 0
  while (at + 5 <= records.length && records[at] === 0x1c) {
    const size = records.readUInt16BE(at + 3)
    if (size & 0x8000) break
    const end = at + 5 + size
    if (!(records[at + 1] === 2 && dropped.has(records[at + 2] ?? 0))) kept.push(records.subarray(at, end))
    at = end
  }
  return Buffer.concat([...kept, records.subarray(at)])
}

/** A block of resources with some IPTC datasets taken out. A block that can't be read is dropped: undefined. */
export function editIim(block: Buffer, dropped: ReadonlySet<number>): Buffer | undefined {
  // A name of the block's kind may stand before the first resource.
  const first = block.indexOf(signature, 0, 'latin1')
  if (first < 0 || first > longestHeaderBytes) return undefined
  const parts: Buffer[] = [block.subarray(0, first)]
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
    const head = block.subarray(at, sizeAt)
    const data = block.subarray(sizeAt + 4, end)
    const edited = id === iimResource ? withoutDatasets(data, dropped) : data
    const length = Buffer.alloc(4)
    length.writeUInt32BE(edited.length)
    parts.push(head, length, edited, Buffer.alloc(edited.length & 1))
    at = end + (size & 1)
  }
  return Buffer.concat(parts)
}

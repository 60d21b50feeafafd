import { type MetadataWishes, type WrittenField, type WrittenFields, writtenFields } from '@/jobs/metadata-policy'
import type { CarriedMetadata } from '../decode'
import { exifWith, withoutExifLocation } from './exif'
import { editIim, iimFields, iimLocation } from './iim'
import { type Tags, tagReader } from './tag-reader'
import { withFields, withoutLocation, withoutThumbnails } from './xmp'

/** What a delivered file tells: the source's own as far as the policy lets it through, and the delivery's fields in its place. */
export async function metadataFor(carried: CarriedMetadata, { policy, fields }: MetadataWishes): Promise<CarriedMetadata> {
  const own = policy === 'rights' ? { ...(await rightsOf(carried)), ...given(fields) } : given(fields)
  const base = policy === 'all' ? whole(carried) : policy === 'noLocation' ? placeless(carried) : {}
  return written(base, own)
}

/** Fields that say something. */
const given = (fields: WrittenFields): Partial<WrittenFields> =>
  Object.fromEntries(Object.entries(fields).filter(([, line]) => line !== ''))

/** Everything but small pictures of how it was; those in EXIF go when the block is made upright. */
const whole = ({ exif, iptc, xmp }: CarriedMetadata): CarriedMetadata => ({
  exif,
  iptc: iptc && editIim(iptc, new Set()),
  xmp: xmp && withoutThumbnails(xmp),
})

function placeless(carried: CarriedMetadata): CarriedMetadata {
  const { exif, iptc, xmp } = whole(carried)
  return {
    exif: exif && withoutExifLocation(exif),
    iptc: iptc && editIim(iptc, new Set(iimLocation)),
    xmp: xmp && withoutLocation(xmp),
  }
}

function written(base: CarriedMetadata, fields: Partial<WrittenFields>): CarriedMetadata {
  const names = writtenFields.filter((field) => fields[field])
  if (names.length === 0) return base
  return {
    exif: exifWith(base.exif, { description: fields.description, creator: fields.creator, rights: fields.rights }),
    iptc: base.iptc && editIim(base.iptc, new Set(names.flatMap((field: WrittenField): readonly number[] => iimFields[field]))),
    xmp: withFields(base.xmp, fields),
  }
}

/** Title, creator and rights as the source has them, wherever it has them. */
async function rightsOf({ exif, iptc, xmp }: CarriedMetadata): Promise<Partial<WrittenFields>> {
  const parsed = { ...(await tagsOf('exif', exif)), ...(await tagsOf('iptc', iptc)), ...(await tagsOf('xmp', xmp)) }
  const first = (...values: unknown[]): string => values.map(text).find(Boolean) ?? ''
  return given({
    title: first(parsed.title, parsed.ObjectName),
    creator: first(parsed.creator, parsed.Byline, parsed.Artist),
    rights: first(parsed.rights, parsed.CopyrightNotice, parsed.Copyright),
    description: '',
    keywords: '',
  })
}

/** A value as text: lists with commas, of language alternatives the text. */
function text(value: unknown): string {
  if (typeof value === 'string') return value
  if (Array.isArray(value)) return value.map(text).join(', ')
  return typeof value === 'object' && value !== null && 'value' in value ? text(value.value) : ''
}

const readTags = tagReader({ tiff: true, exif: true, gps: false, iptc: true, xmp: true, icc: false, mergeOutput: true })

async function tagsOf(kind: 'exif' | 'iptc' | 'xmp', block: Buffer | undefined): Promise<Tags> {
  if (!block) return {}
  return (await readTags(carrierOf(kind, block))) ?? {}
}

/** The smallest JPEG that carries one block, for a reader that wants a file. */
function carrierOf(kind: 'exif' | 'iptc' | 'xmp', block: Buffer): Buffer {
  // IPTC blocks bring their own.
  const headers = { exif: 'Exif\0\0', iptc: '', xmp: 'http://ns.adobe.com/xap/1.0/\0' }
  const header = Buffer.from(headers[kind], 'latin1')
  const payload = block.subarray(0, header.length).equals(header) ? block : Buffer.concat([header, block])
  const length = Buffer.alloc(2)
  length.writeUInt16BE(Math.min(65535, payload.length + 2))
  return Buffer.concat([Buffer.from([0xff, 0xd8, 0xff, kind === 'iptc' ? 0xed : 0xe1]), length, payload, Buffer.from([0xff, 0xd9])])
}

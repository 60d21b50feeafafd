import { keywordsOf, type WrittenFields } from '@/core/metadata'

/*
 * XMP packets (ISO 16684-1): RDF about one picture. Only a few properties are ever changed, so the rest of a packet stays as text.
 */

const escaped = (text: string): string =>
  text.replace(/[<>&"]/g, (sign) => ({ '<': '&lt;', '>': '&gt;', '&': '&amp;', '"': '&quot;' })[sign] ?? '')

/** Dublin Core properties of the written fields, as ISO 16684-1, 8.3 has them: language alternatives, ordered and unordered lists. */
const properties: Readonly<Record<keyof WrittenFields, readonly [name: string, write: (line: string) => string]>> = {
  title: ['dc:title', alternative],
  description: ['dc:description', alternative],
  creator: ['dc:creator', (line) => `<rdf:Seq><rdf:li>${escaped(line)}</rdf:li></rdf:Seq>`],
  rights: ['dc:rights', alternative],
  keywords: [
    'dc:subject',
    (line) =>
      `<rdf:Bag>${keywordsOf(line)
        .map((word) => `<rdf:li>${escaped(word)}</rdf:li>`)
        .join('')}</rdf:Bag>`,
  ],
}

function alternative(line: string): string {
  return `<rdf:Alt><rdf:li xml:lang="x-default">${escaped(line)}</rdf:li></rdf:Alt>`
}

/** Takes a property out of a packet, written as an element or as an attribute. `name` may match several, or one in any namespace. */
function withoutProperty(xmp: string, name: string): string {
  const element = new RegExp(`<(${name})(\\s[^>]*)?(/>|>[\\s\\S]*?</\\1>)`, 'g')
  return xmp.replace(element, '').replace(new RegExp(`\\s${name}\\s*=\\s*("[^"]*"|'[^']*')`, 'g'), '')
}

/** Coordinates, and places in words. */
const locationProperties = [
  'exif:GPS\\w+',
  '\\w+:City',
  '\\w+:State',
  '\\w+:Country',
  'Iptc4xmpCore:Location',
  'Iptc4xmpCore:CountryCode',
  'Iptc4xmpExt:LocationCreated',
  'Iptc4xmpExt:LocationShown',
]

export const withoutLocation = (xmp: string): string => locationProperties.reduce(withoutProperty, xmp)

const emptyPacket =
  '<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"></rdf:RDF></x:xmpmeta>'

/** A packet with the fields that are not empty, in place of what it said of them. Without a packet to begin with, a new one. */
export function withFields(packet: string | undefined, fields: Partial<WrittenFields>): string | undefined {
  const written = (Object.keys(properties) as (keyof WrittenFields)[]).filter((field) => fields[field])
  if (written.length === 0) return packet
  const bare = written.reduce((xmp, field) => withoutProperty(xmp, properties[field][0]), packet ?? emptyPacket)
  const lines = written.map((field) => {
    const [name, write] = properties[field]
    return `<${name}>${write(fields[field] ?? '')}</${name}>`
  })
  const about = `<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/">${lines.join('')}</rdf:Description>`
  return bare.includes('</rdf:RDF>') ? bare.replace('</rdf:RDF>', `${about}</rdf:RDF>`) : withFields(undefined, fields)
}

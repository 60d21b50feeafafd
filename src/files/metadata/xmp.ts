import { DOMParser, type Document, type Element, type Node, XMLSerializer } from '@xmldom/xmldom'
import { keysOf } from '@/base/schema'
import { keywordsOf, type WrittenFields } from '@/jobs/metadata-policy'

/*
 * XMP packets (ISO 16684-1): RDF about one picture, read and written as XML with namespaces: what a property is called in
 * a file is up to whoever wrote it, what it means is its namespace and local name.
 */

const rdf = 'http://www.w3.org/1999/02/22-rdf-syntax-ns#'
const dc = 'http://purl.org/dc/elements/1.1/'
const xmlns = 'http://www.w3.org/2000/xmlns/'
const xmlNamespace = 'http://www.w3.org/XML/1998/namespace'
const meta = 'adobe:ns:meta/'

/** Larger packets than this hold something else. */
const maxPacketBytes = 16 << 20

/** A packet's text in whichever of its encodings (ISO 16684-1, 7.3.2); undefined for UTF-32, which nobody writes. */
function textOf(packet: Buffer): string | undefined {
  const [a, b, c] = packet
  if ((a === 0xff && b === 0xfe) || (a === 0x3c && b === 0 && c !== 0)) return packet.toString('utf16le')
  if ((a === 0xfe && b === 0xff) || (a === 0 && b === 0x3c)) {
    const even = packet.subarray(0, packet.length & ~1)
    return Buffer.from(even).swap16().toString('utf16le')
  }
  return a === 0 || (a === 0x3c && b === 0) ? undefined : packet.toString('utf8')
}

/** A packet as a document; undefined for one that can't be read, or defines entities. */
function parsePacket(packet: Buffer): Document | undefined {
  const text = packet.length <= maxPacketBytes ? textOf(packet) : undefined
  if (text === undefined || /<!DOCTYPE|<!ENTITY/i.test(text)) return undefined
  const source = text.replace(/^\uFEFF|^\s*<\?xml\s[^>]*\?>/g, '').trim()
  try {
    const onError = (level: string, message: string): void => {
      if (level !== 'warning') throw new SyntaxError(message)
    }
    return new DOMParser({ onError }).parseFromString(source, 'application/xml')
  } catch {
    return undefined
  }
}

function writePacket(document: Document): Buffer | undefined {
  try {
    return Buffer.from(new XMLSerializer().serializeToString(document), 'utf8')
  } catch {
    // Nested so deeply that writing it gives up.
    return undefined
  }
}

const isElement = (node: Node | null): node is Element => node?.nodeType === 1

/** Takes out all properties that are meant, as elements and as attributes, wherever they stand. */
function removeProperties(document: Document, isMeant: (namespace: string | null, name: string) => boolean): void {
  const open: Element[] = document.documentElement ? [document.documentElement] : []
  for (let element = open.pop(); element; element = open.pop()) {
    for (const attribute of [...element.attributes]) {
      const { namespaceURI, localName } = attribute
      const isProperty = namespaceURI !== null && namespaceURI !== rdf && namespaceURI !== xmlns && namespaceURI !== xmlNamespace
      if (isProperty && isMeant(namespaceURI, localName ?? '')) element.removeAttributeNode(attribute)
    }
    for (const child of [...element.childNodes]) {
      if (!isElement(child)) continue
      const isProperty = child.namespaceURI !== rdf && child.namespaceURI !== meta
      if (isProperty && isMeant(child.namespaceURI, child.localName ?? '')) element.removeChild(child)
      else open.push(child)
    }
  }
}

/** What a property's local name contains, or is, if it tells a position or a place, in whatever namespace. */
const locationParts = /gps|latitude|longitude|altitude|location|country|province|geo(tag|hash|name|pos|coord)|coordinate|placename/i
const locationNames: ReadonlySet<string> = new Set(
  'city state worldregion lat long lon lng alt place places address street postalcode'.split(' '),
)
const isLocation = (_: string | null, name: string): boolean => locationParts.test(name) || locationNames.has(name.toLowerCase())

/** Small pictures of how it was (ISO 16684-2: xmp:Thumbnails), under whatever name. */
const isThumbnail = (_: string | null, name: string): boolean => /^(thumbnails?|.*previewimage)$/i.test(name)

/** A packet without positions and places. One that can't be read is dropped: undefined. */
export function withoutLocation(packet: Buffer): Buffer | undefined {
  const document = parsePacket(packet)
  if (!document) return undefined
  removeProperties(document, isLocation)
  return writePacket(document)
}

/** A packet without small pictures of how it was; untouched if it can't hold any. */
export function withoutThumbnails(packet: Buffer): Buffer | undefined {
  const text = textOf(packet)
  if (text !== undefined && !/thumbnail|previewimage/i.test(text)) return packet
  const document = parsePacket(packet)
  if (!document) return undefined
  removeProperties(document, isThumbnail)
  return writePacket(document)
}

const emptyPacket = Buffer.from(`<x:xmpmeta xmlns:x="${meta}"><rdf:RDF xmlns:rdf="${rdf}"></rdf:RDF></x:xmpmeta>`)

/** Dublin Core properties of the written fields, as ISO 16684-1, 8.3 has them: language alternatives, ordered and unordered lists. */
const properties: Readonly<Record<keyof WrittenFields, readonly [name: string, list: 'Alt' | 'Seq' | 'Bag']>> = {
  title: ['title', 'Alt'],
  description: ['description', 'Alt'],
  creator: ['creator', 'Seq'],
  rights: ['rights', 'Alt'],
  keywords: ['subject', 'Bag'],
}

/** What XML 1.0 can't hold in any form is left out. */
// biome-ignore lint/suspicious/noControlCharactersInRegex: control characters are what must be found
const notInXml = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g

function propertyElement(document: Document, field: keyof WrittenFields, line: string): Element {
  const [name, list] = properties[field]
  const property = document.createElementNS(dc, `dc:${name}`)
  const items = document.createElementNS(rdf, `rdf:${list}`)
  for (const text of field === 'keywords' ? keywordsOf(line) : [line]) {
    const item = document.createElementNS(rdf, 'rdf:li')
    if (list === 'Alt') item.setAttributeNS(xmlNamespace, 'xml:lang', 'x-default')
    item.appendChild(document.createTextNode(text.replace(notInXml, '')))
    items.appendChild(item)
  }
  property.appendChild(items)
  return property
}

/** A packet with the fields that are not empty, in place of what it said of them. Without a packet that can be read, a new one. */
export function withFields(packet: Buffer | undefined, fields: Partial<WrittenFields>): Buffer | undefined {
  const written = keysOf(properties).filter((field) => fields[field])
  if (written.length === 0) return packet
  const document = parsePacket(packet ?? emptyPacket)
  const root = document?.getElementsByTagNameNS(rdf, 'RDF').item(0)
  if (!document || !root) return packet === emptyPacket ? undefined : withFields(emptyPacket, fields)
  const names = new Set(written.map((field) => properties[field][0]))
  removeProperties(document, (namespace, name) => namespace === dc && names.has(name))
  const about = document.createElementNS(rdf, 'rdf:Description')
  about.setAttributeNS(rdf, 'rdf:about', '')
  about.setAttributeNS(xmlns, 'xmlns:dc', dc)
  for (const field of written) about.appendChild(propertyElement(document, field, fields[field] ?? ''))
  root.appendChild(about)
  return writePacket(document)
}

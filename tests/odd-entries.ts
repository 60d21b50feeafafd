import { execFileSync } from 'node:child_process'
import { mkdirSync, symlinkSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { gzipSync } from 'node:zlib'
import sharp, { type Sharp } from 'sharp'
import { type DngOptions, dng } from './dng'

/** What must come of an entry: delivered; failed with such words; or no part of the run at all. */
export type Outcome = 'delivered' | 'no part' | RegExp

export interface OddEntry {
  readonly name: string
  readonly outcome: Outcome
  /** Bytes of a file, or whatever else makes the entry at a path. */
  readonly make: Buffer | string | ((path: string) => void)
}

const notAPicture = /is not a picture that can be read/
const damaged = /is damaged/
const tooLarge = /has more than 400 million pixels/

const size = { width: 40, height: 30 }
const noise = (channels: 1 | 2 | 3 | 4, { width, height } = size): Sharp => {
  const pixels = Buffer.alloc(width * height * channels)
  for (let i = 0; i < pixels.length; i++) pixels[i] = (i * 2654435761) >>> 24
  return sharp(pixels, { raw: { width, height, channels } })
}
const photo = (edge = 60): Sharp => sharp('demo/pictures/vessels/TLK27_0418.jpg').resize(edge, edge, { fit: 'inside' })

/** A PNG that says it is so large and holds next to nothing. */
function declaredPng(width: number, height: number): Buffer {
  const chunk = (type: string, data: Buffer): Buffer => {
    const body = Buffer.concat([Buffer.from(type, 'latin1'), data])
    const bytes = Buffer.alloc(8)
    bytes.writeUInt32BE(data.length, 0)
    bytes.writeUInt32BE(crc(body), 4)
    return Buffer.concat([bytes.subarray(0, 4), body, bytes.subarray(4)])
  }
  const head = Buffer.alloc(13)
  head.writeUInt32BE(width, 0)
  head.writeUInt32BE(height, 4)
  head.set([8, 2, 0, 0, 0], 8)
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10]),
    chunk('IHDR', head),
    chunk('IDAT', Buffer.from([0x78, 0x9c])),
    chunk('IEND', Buffer.alloc(0)),
  ])
}
function crc(bytes: Buffer): number {
  let value = 0xffffffff
  for (const byte of bytes) {
    value ^= byte
    for (let bit = 0; bit < 8; bit++) value = value & 1 ? (value >>> 1) ^ 0xedb88320 : value >>> 1
  }
  return (value ^ 0xffffffff) >>> 0
}

/** Pictures as other programs write them: every one can be delivered. */
async function soundPictures(): Promise<OddEntry[]> {
  const made: [string, Promise<Buffer>][] = [
    ...Array.from({ length: 8 }, (_, i): [string, Promise<Buffer>] => [
      `turned-${i + 1}.jpg`,
      photo()
        .withMetadata({ orientation: i + 1 })
        .jpeg()
        .toBuffer(),
    ]),
    ...[1, 2, 3, 4].map((channels): [string, Promise<Buffer>] => [
      `channels-${channels}.png`,
      noise(channels as 1)
        .png()
        .toBuffer(),
    ]),
    ...[1, 3, 4].map((channels): [string, Promise<Buffer>] => [
      `deep-${channels}.png`,
      noise(channels as 1)
        .toColourspace(channels === 1 ? 'grey16' : 'rgb16')
        .png()
        .toBuffer(),
    ]),
    ...(['none', 'lzw', 'deflate', 'packbits', 'jpeg'] as const).map((compression): [string, Promise<Buffer>] => [
      `${compression}.tif`,
      photo().tiff({ compression }).toBuffer(),
    ]),
    ...([8, 16] as const).map((bits): [string, Promise<Buffer>] => [
      `tiles-${bits}.tiff`,
      (bits === 16 ? photo().toColourspace('rgb16') : photo()).tiff({ tile: true, tileWidth: 16, tileHeight: 16 }).toBuffer(),
    ]),
    ['cmyk.tif', photo().toColourspace('cmyk').tiff().toBuffer()],
    ['lab.tif', photo().toColourspace('lab').tiff().toBuffer()],
    ['float.tif', photo().toColourspace('scrgb').tiff().toBuffer()],
    ['grey.tif', photo().toColourspace('b-w').tiff().toBuffer()],
    ['bilevel.tif', photo().toColourspace('b-w').tiff({ bitdepth: 1 }).toBuffer()],
    ['big-tiff.tif', photo().tiff({ bigtiff: true }).toBuffer()],
    ['palette.png', photo().png({ palette: true, colours: 7 }).toBuffer()],
    ['interlaced.png', photo().png({ progressive: true }).toBuffer()],
    ['progressive.jpg', photo().jpeg({ progressive: true }).toBuffer()],
    ['optimised.jpeg', photo().jpeg({ mozjpeg: true }).toBuffer()],
    ['grey.jpg', photo().toColourspace('b-w').jpeg().toBuffer()],
    ['cmyk.jpg', photo().toColourspace('cmyk').jpeg().toBuffer()],
    ['worst.jpg', photo().jpeg({ quality: 1 }).toBuffer()],
    ['best.JPG', photo().jpeg({ quality: 100, chromaSubsampling: '4:4:4' }).toBuffer()],
    ['wide-gamut.jpg', photo().withIccProfile('p3').jpeg().toBuffer()],
    ['lossy.webp', photo().webp().toBuffer()],
    ['lossless.webp', photo().webp({ lossless: true }).toBuffer()],
    ['clear.webp', noise(4).webp().toBuffer()],
    ['next.avif', photo().avif({ effort: 0 }).toBuffer()],
    ['one-pixel.jpg', noise(3, { width: 1, height: 1 }).jpeg().toBuffer()],
    ['one-pixel.png', noise(4, { width: 1, height: 1 }).png().toBuffer()],
    ['a-line.png', noise(3, { width: 1, height: 3000 }).png().toBuffer()],
    ['a-row.jpg', noise(3, { width: 3000, height: 1 }).jpeg().toBuffer()],
    ['panorama.png', noise(1, { width: 9000, height: 4 }).png().toBuffer()],
    [
      'three-pages.tif',
      sharp(Buffer.alloc(30 * 30 * 3, 90), { raw: { width: 30, height: 30, channels: 3, pageHeight: 10 } })
        .tiff()
        .toBuffer(),
    ],
    [
      'moving.webp',
      sharp(
        Buffer.alloc(30 * 30 * 3).map((_, i) => (i * 2654435761) >>> 24),
        { raw: { width: 30, height: 30, channels: 3, pageHeight: 10 } },
      )
        .webp()
        .toBuffer(),
    ],
  ]
  return Promise.all(made.map(async ([name, bytes]) => ({ name, outcome: 'delivered' as const, make: await bytes })))
}

const mosaic: DngOptions = { size: { width: 64, height: 48 }, at: (x, y) => (x + y) / 200, matrices: [[1, 0, 0, 0, 1, 0, 0, 0, 1]] }
const raw = dng(mosaic)

/** Files that say one thing and are another. */
async function mislabelled(): Promise<OddEntry[]> {
  const [jpeg, png, tiff, webp] = await Promise.all([
    photo().jpeg().toBuffer(),
    photo().png().toBuffer(),
    photo().tiff().toBuffer(),
    photo().webp().toBuffer(),
  ])
  const svg = '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><rect width="9" height="9"/></svg>'
  const bomb = `<svg xmlns="http://www.w3.org/2000/svg"><defs><g id="a"><rect/></g></defs>${'<use href="#a"/>'.repeat(2000)}</svg>`
  const others: [string, Buffer | string][] = [
    ['drawing', svg],
    ['drawing-with-head', `<?xml version="1.0"?>${svg}`],
    ['many-uses', bomb],
    ['packed-drawing', gzipSync(svg)],
    ['page', '<!doctype html><title>x</title><script>alert(1)</script>'],
    ['document', '%PDF-1.7\n1 0 obj<<>>endobj\ntrailer<<>>\n%%EOF'],
    ['archive', Buffer.from('PK\u0005\u0006\0\0\0\0\0\0\0\0\0\0\0\0\0\0\0\0\0\0', 'latin1')],
    ['program', Buffer.from('\u007fELF\u0002\u0001\u0001', 'latin1')],
    ['script', '#!/bin/sh\nrm -rf /\n'],
    ['words', 'a line of text'],
    ['zeros', Buffer.alloc(4096)],
    ['ones', Buffer.alloc(4096, 255)],
    ['moving', await noise(3).gif().toBuffer()],
    ['bitmap', Buffer.from('BM\x3a\0\0\0\0\0\0\0\x36\0\0\0\x28\0\0\0\x01\0\0\0\x01\0\0\0\x01\0\x18\0', 'latin1')],
    ['phone', Buffer.from('\0\0\0\x18ftypheic\0\0\0\0mif1heic', 'latin1')],
    ['film', Buffer.from('\0\0\0\x18ftypisom\0\0\0\0isomavc1', 'latin1')],
    ['matrix', 'P3\n1 1\n255\n1 2 3\n'],
    ['one-byte', 'x'],
    ['json', '{"a":1}'],
  ]
  return [
    { name: 'really-png.jpg', outcome: 'delivered', make: png },
    { name: 'really-jpeg.png', outcome: 'delivered', make: jpeg },
    { name: 'really-tiff.jpeg', outcome: 'delivered', make: tiff },
    { name: 'really-webp.tif', outcome: 'delivered', make: webp },
    { name: 'really-jpeg.nef', outcome: 'delivered', make: jpeg },
    { name: 'really-raw.tif', outcome: 'delivered', make: raw },
    { name: 'no-raw.cr2', outcome: notAPicture, make: tiff },
    { name: 'words.arw', outcome: notAPicture, make: 'a line of text' },
    { name: 'camera.dng', outcome: 'delivered', make: raw },
    { name: 'cut.dng', outcome: damaged, make: raw.subarray(0, raw.length / 2) },
    { name: 'packed.dng', outcome: /raw file that can't be decoded/, make: dng({ ...mosaic, compression: 60_000 }) },
    ...others.map(([name, make], i) => ({ name: `${name}.${['jpg', 'png', 'tif', 'webp', 'avif'][i % 5]}`, outcome: notAPicture, make })),
  ]
}

/** Pictures of which a part is missing, or is not what it was. */
async function broken(): Promise<OddEntry[]> {
  const whole = {
    jpg: await photo(400).jpeg({ quality: 90 }).toBuffer(),
    png: await photo(200).png().toBuffer(),
    tif: await photo(200).tiff({ compression: 'lzw' }).toBuffer(),
    webp: await photo(200).webp({ lossless: true }).toBuffer(),
    avif: await photo(200).avif({ effort: 0 }).toBuffer(),
  }
  const cut = Object.entries(whole).flatMap(([kind, bytes]) =>
    [0.9, 0.6, 0.3].map((share) => ({
      name: `cut-${share * 100}.${kind}`,
      outcome: kind === 'avif' || kind === 'tif' ? /is damaged|is not a picture/ : damaged,
      make: bytes.subarray(0, Math.floor(bytes.length * share)),
    })),
  )
  const zeroed = [0.35, 0.5, 0.65].map((share) => {
    const bytes = Buffer.from(whole.jpg)
    const from = Math.floor(bytes.length * share)
    return { name: `zeroed-${share * 100}.jpg`, outcome: damaged, make: bytes.fill(0, from, from + 512) }
  })
  const empties = ['jpg', 'png', 'tif', 'webp', 'avif'].map((kind) => ({
    name: `empty.${kind}`,
    outcome: /is empty/,
    make: Buffer.alloc(0),
  }))
  return [
    ...cut,
    ...zeroed,
    ...empties,
    { name: 'head-alone.jpg', outcome: damaged, make: Buffer.from([0xff, 0xd8, 0xff, 0xe0]) },
    { name: 'head-alone.png', outcome: damaged, make: Buffer.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10]) },
    { name: 'tables-alone.jpg', outcome: damaged, make: whole.jpg.subarray(0, 300) },
    { name: 'enormous.png', outcome: tooLarge, make: declaredPng(60_000, 60_000) },
    { name: 'long.png', outcome: tooLarge, make: declaredPng(2_000_000, 300) },
    { name: 'hollow.png', outcome: damaged, make: declaredPng(500, 500) },
    { name: 'something-behind.jpg', outcome: 'delivered', make: Buffer.concat([whole.jpg, Buffer.from('a film of it'.repeat(99))]) },
    { name: 'twice.jpg', outcome: 'delivered', make: Buffer.concat([whole.jpg, whole.jpg]) },
  ]
}

/** Sound pictures under names that some system does not take, or takes for another's. */
async function oddNames(): Promise<OddEntry[]> {
  const jpeg = await photo().jpeg().toBuffer()
  const names = [
    ...[
      'with space',
      ' leading space',
      'trailing space ',
      'trailing dot.',
      'two..dots',
      'CON',
      'nul',
      'COM1',
      'lpt9.x',
      'a:b',
      'a*b',
      'a?b',
      'a"b',
      'a<b>c',
      'a|b',
    ],
    ...[
      'back\\slash',
      'new\nline',
      'tab\tulator',
      'bell\u0007',
      'escape\u001b[2J',
      'percent%41',
      'per%cent',
      '-dash',
      '--force',
      '$HOME',
      '`whoami`',
      "quote'd",
      '{name}',
      '{n:1}',
    ],
    ...[
      'emoji 🏺',
      'right\u202eleft',
      'עברית',
      'العربية',
      '青磁',
      'ＦＵＬＬ',
      'zero\u200bwidth',
      'a\u0301ccent',
      '\u00e1ccent',
      '\ufffd',
      'ø'.repeat(125),
      'x'.repeat(251),
    ],
    ...['Same', 'same', 'SAME'],
    ...['semi;colon', 'amp&ersand', 'plus+', 'at@', 'hash#', 'comma,', 'equals=', '~', '(1)', '[a]', '!', '0', '.jpg'.slice(1)],
  ]
  return names.map((name) => ({ name: `${name}.jpg`, outcome: 'delivered' as const, make: jpeg }))
}

/** Entries that are no files, or no pictures that are read. */
async function noPictures(folder: string): Promise<OddEntry[]> {
  const jpeg = await photo().jpeg().toBuffer()
  const none = (name: string, make: OddEntry['make']): OddEntry => ({ name, outcome: 'no part', make })
  return [
    none('link.jpg', (path) => symlinkSync(join(folder, 'grey.jpg'), path)),
    none('dead-link.jpg', (path) => symlinkSync('/nowhere', path)),
    none('circle.jpg', (path) => symlinkSync(path, path)),
    none('way-out.jpg', (path) => symlinkSync('/etc/passwd', path)),
    none('device.jpg', (path) => symlinkSync('/dev/zero', path)),
    none('folder-link', (path) => symlinkSync('/etc', path)),
    none('pipe.jpg', (path) => execFileSync('mkfifo', [path])),
    none('folder.jpg', (path) => mkdirSync(path)),
    none('.hidden.jpg', jpeg),
    none('.DS_Store', 'x'),
    none('Thumbs.db', 'x'),
    none('notes.txt', 'x'),
    none('no-suffix', jpeg),
    ...['heic', 'gif', 'psd', 'svg', 'bmp', 'xmp', 'jpg~'].map((suffix) => none(`raw.${suffix}`, jpeg)),
  ]
}

/** Lays all of them into a folder. */
export async function layOddEntries(folder: string): Promise<readonly OddEntry[]> {
  const entries = [
    ...(await soundPictures()),
    ...(await mislabelled()),
    ...(await broken()),
    ...(await oddNames()),
    ...(await noPictures(folder)),
  ]
  for (const { name, make } of entries) {
    const path = join(folder, name)
    if (typeof make === 'function') make(path)
    else writeFileSync(path, make)
  }
  return entries
}

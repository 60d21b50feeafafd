import { mkdirSync, mkdtempSync, readdirSync, readFileSync, renameSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setImmediate } from 'node:timers/promises'
import exifr from 'exifr'
import fc from 'fast-check'
import jpegJs from 'jpeg-js'
import sharp, { type Sharp } from 'sharp'
import { describe, expect, it } from 'vitest'
import { AppError } from '@/base/errors'
import { evaluateCurve } from '@/colour/curve'
import { colourSpaces, rgbToRgb, workingSpace } from '@/colour/spaces'
import { defaultEncoding, type Encoding } from '@/jobs/encoding'
import { busyPicture } from '../../tests/pictures'
import { worstDifference } from '../../tests/render'
import { decodePicture } from './decode'
import { encodePicture } from './encode'
import { readFacts } from './facts'
import { buildMatrixProfile, readMatrixProfile } from './icc'
import { uprightExif } from './metadata/exif'
import { placeFile, sha256, temporaryName, temporaryPrefix } from './placing'
import { Roots } from './roots'
import { scanIntake } from './scan'

const folder = (): string => mkdtempSync(join(tmpdir(), 'copper-loop-test-'))
const demo = (path: string): Buffer => readFileSync(join('demo', path))
const jpeg: Encoding = { ...defaultEncoding, qualityPercent: 92 }

describe('colour profiles', () => {
  it.each(Object.values(colourSpaces))('our $name profile reads back as its own primaries and curve', (space) => {
    const colour = readMatrixProfile(buildMatrixProfile(space))
    expect(colour).toBeDefined()
    rgbToRgb(space, workingSpace).forEach((value, i) => {
      // s15Fixed16 holds sixteen binary places; the inverse doubles the rounding.
      expect(Math.abs((colour?.toWorking[i] ?? 9) - value)).toBeLessThan(2e-4)
    })
    for (const x of [0, 0.02, 0.2, 0.5, 1])
      expect(evaluateCurve(colour?.curves[1] ?? { kind: 'gamma', exponent: 9 }, x)).toBeCloseTo(space.transfer.decode(x), 4)
  })
  it('is taken by libvips’ colour management: our sRGB to its sRGB leaves every code within one', async () => {
    const source = busyPicture(80, 60)
    const tagged = await encodePicture(
      { values: new Uint8ClampedArray(source.pixels), channels: 3 },
      source.size,
      { ...jpeg, qualityPercent: 100 },
      {},
    )
    const asIs = await sharp(tagged, { ignoreIcc: true }).raw().toBuffer()
    const managed = await sharp(tagged).withIccProfile('srgb').raw().toBuffer()
    expect(worstDifference(asIs, managed)).toBeLessThanOrEqual(1)
  })
  it('agrees with libvips on a wide-gamut picture of the demo: within two codes after conversion to sRGB', async () => {
    const bytes = demo('odd-files/wide-gamut.jpg')
    const { renderSteps } = await import('../../tests/render')
    const { source } = await decodePicture(bytes, 'wide-gamut.jpg')
    const ours = (await renderSteps(source, [])).pixels
    const theirs = await sharp(bytes).autoOrient().toColourspace('srgb').raw().toBuffer()
    const far = ours.reduce((count, code, i) => count + (Math.abs(code - (theirs[i] ?? 0)) > 2 ? 1 : 0), 0)
    expect(source.colour.curves[0].kind).toBe('gamma')
    expect(far / ours.length).toBeLessThan(0.001)
  })
  it.each([
    ['nothing', Buffer.alloc(0)],
    ['noise', Buffer.alloc(400, 0xa5)],
    ['a header alone', Buffer.from(buildMatrixProfile(colourSpaces.srgb)).subarray(0, 140)],
  ])('%s is no profile, and no crash', (_, bytes) => {
    expect(readMatrixProfile(bytes)).toBeUndefined()
  })
})

describe('decoding', () => {
  it.each([
    ['vessels/TLK27_0437.jpg', [1600, 2400]],
    ['vessels/TLK27_0415.jpg', [2400, 1600]],
  ] as const)('%s comes out upright', async (name, [width, height]) => {
    expect((await decodePicture(demo(`pictures/${name}`), name)).source.size).toEqual({ width, height })
  })
  it('turns every EXIF orientation upright: the red corner is always at the upper left', async () => {
    const corner = Buffer.alloc(32 * 16 * 3, 40)
    for (let y = 0; y < 6; y++) for (let x = 0; x < 6; x++) corner.set([250, 20, 20], (y * 32 + x) * 3)
    const upright = sharp(corner, { raw: { width: 32, height: 16, channels: 3 } })
    // libvips mirrors before it turns.
    const undo: readonly ((image: Sharp) => Sharp)[] = [
      (i) => i,
      (i) => i.flop(),
      (i) => i.rotate(180),
      (i) => i.flip(),
      (i) => i.flop().rotate(270),
      (i) => i.rotate(270),
      (i) => i.flop().rotate(90),
      (i) => i.rotate(90),
    ]
    for (const [index, work] of undo.entries()) {
      const stored = await work(sharp(await upright.clone().png().toBuffer()))
        .png()
        .toBuffer()
      const tagged = await sharp(stored)
        .withMetadata({ orientation: index + 1 })
        .jpeg({ quality: 100, chromaSubsampling: '4:4:4' })
        .toBuffer()
      const { source } = await decodePicture(tagged, 'x.jpg')
      expect(source.size).toEqual({ width: 32, height: 16 })
      expect(source.pixels[0]).toBeGreaterThan(200)
      expect(source.pixels[source.pixels.length - 3]).toBeLessThan(80)
    }
  })
  it.each([
    ['cmyk.jpg', 8],
    ['greyscale.jpg', 8],
    ['alpha.png', 8],
    ['sixteen-bit.tif', 16],
    ['SHELF.JPG', 8],
  ] as const)('%s is read, with %i bits', async (name, bits) => {
    const { source } = await decodePicture(demo(`odd-files/${name}`), name)
    expect(source.pixels.BYTES_PER_ELEMENT * 8).toBe(bits)
    expect(source.pixels.length).toBe(source.size.width * source.size.height * 3)
  })
  it.each([
    ['empty.jpg', 'fileEmpty'],
    ['notes.jpg', 'notAPicture'],
  ])('%s is told by its facts: %s', async (name, code) => {
    await expect(readFacts(demo(`odd-files/${name}`), name)).rejects.toMatchObject({ code })
  })
  it.each([
    ['truncated.jpg', 'pictureDamaged'],
    ['notes.jpg', 'notAPicture'],
  ])('%s fails with a clear error: %s', async (name, code) => {
    await expect(decodePicture(demo(`odd-files/${name}`), name)).rejects.toMatchObject({ code })
  })
  it('answers any bytes with a picture or an AppError', async () => {
    const head = demo('odd-files/SHELF.JPG').subarray(0, 3000)
    await fc.assert(
      fc.asyncProperty(fc.nat(2999), fc.nat(255), fc.uint8Array({ maxLength: 300 }), async (at, value, tail) => {
        const bytes = Buffer.concat([head, tail])
        bytes[at] = value
        await decodePicture(bytes, 'fuzz.jpg').catch((error) => expect(error).toBeInstanceOf(AppError))
      }),
      { numRuns: 60 },
    )
  })
})

describe('a delivered JPEG, read by other libraries', () => {
  const encoded = async () => {
    const bytes = demo('pictures/vessels/TLK27_0437.jpg')
    const { source, carried } = await decodePicture(bytes, 'x.jpg')
    return { source, file: await encodePicture({ values: new Uint8ClampedArray(source.pixels), channels: 3 }, source.size, jpeg, carried) }
  }
  it('has the pixels that were given, within the loss of the format (jpeg-js)', async () => {
    const { source, file } = await encoded()
    const read = jpegJs.decode(file, { useTArray: true, formatAsRGBA: false, maxMemoryUsageInMB: 1024 })
    expect([read.width, read.height]).toEqual([source.size.width, source.size.height])
    const mean = read.data.reduce((sum, code, i) => sum + Math.abs(code - (source.pixels[i] ?? 0)), 0) / read.data.length
    expect(mean).toBeLessThan(2)
  })
  it('carries camera data, title, keywords and profile, upright and without the old thumbnail (exifr)', async () => {
    const { file } = await encoded()
    const tags = await exifr.parse(file, { iptc: true, xmp: true, icc: true, ifd1: true, translateValues: false } as never)
    expect(tags).toMatchObject({ Orientation: 1, ISO: 400, ObjectName: 'Speckled bottle and cup', ProfileDescription: 'sRGB' })
    expect(await exifr.thumbnail(file)).toBeUndefined()
  })
})

describe('EXIF of a delivered picture', () => {
  it.each([
    ['nothing', Buffer.alloc(0)],
    ['noise', Buffer.from('MM\0*\0\0\xff\xff rubbish', 'latin1')],
    ['no TIFF', Buffer.from('Exif\0\0XX')],
  ])('is dropped when it is %s', (_, exif) => {
    expect(uprightExif(exif, 10, 10)).toBeUndefined()
  })
  it('does not touch the block it was given', async () => {
    const { exif } = await sharp(demo('pictures/vessels/TLK27_0437.jpg')).metadata()
    const before = Buffer.from(exif ?? [])
    expect(uprightExif(exif ?? Buffer.alloc(0), 10, 20)).not.toEqual(before)
    expect(exif).toEqual(before)
  })
})

describe('roots', () => {
  const outside = folder()
  const root = folder()
  mkdirSync(join(root, 'inside'))
  symlinkSync(outside, join(root, 'way-out'))
  symlinkSync(join(root, 'inside'), join(root, 'way-in'))
  const roots = new Roots([root, join(root, 'not-there')])

  it.each([
    [root],
    [join(root, 'inside')],
    [join(root, 'new', 'deeper', 'file.jpg')],
    [join(root, 'way-in', 'x')],
    [`${root}/inside/../inside/x`],
  ])('allow %s', (path) => {
    expect(roots.allows(path)).toBe(true)
  })
  it.each([
    ['/etc/passwd'],
    [outside],
    [join(root, 'way-out')],
    [join(root, 'way-out', 'x', 'y')],
    [`${root}/../x`],
    [`${root}-beside`],
    ['relative/path'],
    [''],
    [`${root}/a\0b`],
    [`${root}/inside/../../../../etc`],
  ])('refuse %s', (path) => {
    expect(() => roots.check(path)).toThrow(AppError)
  })
  it('give back where a link really leads', () => expect(roots.check(join(root, 'way-in', 'x'))).toBe(join(root, 'inside', 'x')))
})

describe('scanning an intake', () => {
  const intake = folder()
  mkdirSync(join(intake, 'b', 'deep'), { recursive: true })
  mkdirSync(join(intake, '.hidden'))
  for (const name of ['p10.jpg', 'p2.JPG', 'p1.tiff', 'notes.txt', '.dot.jpg', 'b/x.png', 'b/deep/y.webp', '.hidden/z.jpg'])
    writeFileSync(join(intake, name), 'x')
  symlinkSync(join(intake, 'p1.tiff'), join(intake, 'link.jpg'))

  it('finds pictures by name in natural order, passing over hidden files and links', async () => {
    expect((await scanIntake({ folder: intake, subfolders: false })).found.map((picture) => picture.relativePath)).toEqual([
      'p1.tiff',
      'p2.JPG',
      'p10.jpg',
    ])
    expect((await scanIntake({ folder: intake, subfolders: true })).found.map((picture) => picture.relativePath)).toEqual([
      'p1.tiff',
      'p2.JPG',
      'p10.jpg',
      'b/x.png',
      'b/deep/y.webp',
    ])
    const told: number[] = []
    await scanIntake({ folder: intake, subfolders: true }, ({ pictures }) => void told.push(pictures))
    expect(told).toEqual([3, 4, 5])
  })
  it.each([
    [join(intake, 'gone'), 'folderMissing'],
    [join(intake, 'p10.jpg'), 'notAFolder'],
  ])('%s is a clear error: %s', async (path, code) => {
    await expect(scanIntake({ folder: path, subfolders: true })).rejects.toMatchObject({ code })
  })
  it('gives size and time as they are', async () => {
    utimesSync(join(intake, 'p10.jpg'), 1_000, 1_234.5)
    expect((await scanIntake({ folder: intake, subfolders: false })).found.at(-1)).toMatchObject({ sizeBytes: 1, modifiedMs: 1_234_500 })
  })
})

describe('placing a file', () => {
  const bytes = Buffer.from('a whole picture')
  const attempt = { runId: 'run', resultId: 1, token: 3 }
  it('writes it whole, makes subfolders, and leaves nothing else behind', async () => {
    const base = folder()
    expect(await placeFile(bytes, { base, target: join(base, 'a/b/c.jpg'), attempt })).toBe('written')
    expect(readFileSync(join(base, 'a/b/c.jpg'))).toEqual(bytes)
    expect(readdirSync(join(base, 'a/b'))).toEqual(['c.jpg'])
  })
  it('never replaces another file', async () => {
    const base = folder()
    writeFileSync(join(base, 'c.jpg'), 'somebody else’s')
    await expect(placeFile(bytes, { base, target: join(base, 'c.jpg'), attempt })).rejects.toMatchObject({ code: 'deliveryExists' })
    expect(readFileSync(join(base, 'c.jpg'), 'utf8')).toBe('somebody else’s')
    expect(readdirSync(base)).toEqual(['c.jpg'])
  })
  it('replaces the very file that is meant, and no other', async () => {
    const base = folder()
    const path = join(base, 'c.jpg')
    writeFileSync(path, 'delivered before')
    const meant = sha256(Buffer.from('delivered before'))
    expect(await placeFile(bytes, { base, target: path, attempt, replaces: meant })).toBe('written')
    expect(readFileSync(path)).toEqual(bytes)
    writeFileSync(path, 'retouched since')
    await expect(placeFile(bytes, { base, target: path, attempt, replaces: meant })).rejects.toMatchObject({ code: 'deliveryExists' })
    expect(readFileSync(path, 'utf8')).toBe('retouched since')
    expect(await placeFile(bytes, { base, target: join(base, 'gone.jpg'), attempt, replaces: meant })).toBe('written')
    expect(readdirSync(base).sort()).toEqual(['c.jpg', 'gone.jpg'])
  })
  it('takes the very same content for its own, left by an attempt that was cut off', async () => {
    const base = folder()
    writeFileSync(join(base, 'c.jpg'), bytes)
    writeFileSync(join(base, temporaryName({ ...attempt, token: 2 })), 'half a pict')
    expect(await placeFile(bytes, { base, target: join(base, 'c.jpg'), attempt })).toBe('alreadyThere')
    expect(readdirSync(base).filter((name) => name.startsWith(temporaryPrefix))).toEqual([])
  })
  it('does not make a new folder in place of a disk that went away', async () => {
    const base = join(folder(), 'disk')
    await expect(placeFile(bytes, { base, target: join(base, 'c.jpg'), attempt })).rejects.toMatchObject({ code: 'deliveryUnwritable' })
  })
  it('does not make one either when the disk goes away between two of its steps', async () => {
    const parent = folder()
    const base = join(parent, 'disk')
    mkdirSync(base)
    const codes: unknown[] = []
    const place = (i: number) =>
      placeFile(bytes, { base, target: join(base, `${i}/deep/c.jpg`), attempt }).then(
        (placement) => codes.push(placement),
        ({ code }: AppError) => codes.push(code),
      )
    const lane = async (from: number): Promise<void> => {
      for (let i = 0; i < 60; i++) await place(from + i)
    }
    const lanes = Promise.all([0, 1000, 2000, 3000].map(lane))
    while (codes.length < 100) await setImmediate()
    renameSync(base, join(parent, 'away'))
    await lanes
    expect(readdirSync(parent)).toEqual(['away'])
    expect([...new Set(codes)].toSorted()).toEqual(['deliveryUnwritable', 'written'])
  })
  it('tells a name that can’t be written from a fault of the place', async () => {
    const base = folder()
    await expect(placeFile(bytes, { base, target: join(base, 'x'.repeat(300)), attempt })).rejects.toMatchObject({
      code: 'deliveryRefused',
    })
  })
  it('hashes as FIPS 180-4 does: the example "abc"', () => {
    expect(sha256(Buffer.from('abc'))).toBe('ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad')
  })
})

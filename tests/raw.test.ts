import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { deviation, mean } from 'd3'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import type { Size } from '@/base/geometry'
import { codeAt, numberAt } from '@/base/numbers'
import { asShot, asShotToWorking, type CameraColour } from '@/colour/camera'
import { deltaE00 } from '@/colour/delta-e'
import { xyzToLab } from '@/colour/lab'
import { degreesBetween, invert, matrix3, transform, type Vector3, vector3 } from '@/colour/matrix'
import { colourSpaces, d65, rgbToRgb, rgbToXyz, workingSpace, xyzOfChromaticity } from '@/colour/spaces'
import { srgbTransfer } from '@/colour/transfer'
import { resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { decodePicture } from '@/files/decode'
import { readFacts } from '@/files/facts'
import { askRaw } from '@/files/raw/raw-thread'
import { newStep, type Step } from '@/macros/step'
import type { InterleavedSource } from '@/pixels/picture'
import { type DngOptions, dng } from './dng'
import { testKernels } from './kernels'
import { renderSteps } from './render'

/*
 * Raw files whose right answer is known: those of the demo, computed with their true values beside them, and mosaics that our own small
 * writer makes of known pictures.
 */

const demo = (name: string): Buffer => readFileSync(`demo/raw/${name}.dng`)
const truth = JSON.parse(readFileSync('demo/raw/raw-truth.json', 'utf8'))
const truthOf = (name: string) => truth.files[`${name}.dng`]
const names: readonly string[] = Object.keys(truth.files).map((file: string) => file.replace('.dng', ''))

/** Linear working RGB, the mean of a square about a place. */
function lightAt({ size, pixels, colour }: InterleavedSource, [x, y]: readonly [number, number], reach = 6): Vector3 {
  const sum = [0, 0, 0]
  for (let row = Math.round(y) - reach; row <= Math.round(y) + reach; row++)
    for (let column = Math.round(x) - reach; column <= Math.round(x) + reach; column++)
      for (let channel = 0; channel < 3; channel++)
        sum[channel] = numberAt(sum, channel) + codeAt(pixels, (row * size.width + column) * 3 + channel)
  return transform(colour.toWorking, vector3(sum.map((value) => value / (2 * reach + 1) ** 2 / 65535)))
}

type Corner = readonly [number, number]
/** A place in a quadrilateral: from its top left corner, across and down. */
function within([bottomLeft, bottomRight, topRight, topLeft]: readonly Corner[], across: number, down: number): Corner {
  const mix = (a: Corner = [0, 0], b: Corner = [0, 0], share = 0): Corner => [a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share]
  return mix(mix(topLeft, topRight, across), mix(bottomLeft, bottomRight, across), down)
}

const workingXyz = rgbToXyz(workingSpace)
const white = xyzOfChromaticity(d65)
const fromSrgb = rgbToRgb(colourSpaces.srgb, workingSpace)

describe('raw files of the demo', () => {
  it.each(names)('%s: size upright, camera and time are told', async (name) => {
    const [width, height] = truthOf(name).upright_size
    const { source, carried } = await decodePicture(demo(name), `${name}.dng`)
    expect(source.size).toEqual({ width, height })
    const facts = await readFacts(demo(name), `${name}.dng`)
    expect(facts).toMatchObject({ size: { width, height }, format: 'raw', iso: truthOf(name).iso, camera: 'Marram Optical MO-2' })
    expect(facts.taken).toMatch(/^2026-03-14T/)
    const exif = (await sharp(Buffer.from(demoJpegWith(await tinyJpeg(), carried.exif))).metadata()).exif
    expect(exif?.toString('latin1')).toContain('MO Macro-Zoom')
  })
  it.each(names)('%s: the light as shot, in numbers', async (name) => {
    const { raw } = await readFacts(demo(name), `${name}.dng`)
    const { neutral_as_shot: neutral, neutral_true: own, light_kelvin: kelvin } = truthOf(name)
    expect(raw?.neutral.map((value) => value.toFixed(4))).toEqual(neutral.map((value: number) => value.toFixed(4)))
    if (JSON.stringify(own) === JSON.stringify(neutral))
      expect(Math.abs(asShot(raw as CameraColour).kelvin / kelvin - 1)).toBeLessThan(0.005)
  })
  it('the chart: mean ΔE00 of 24 patches below 1.5, the worst below 3', async () => {
    const { source } = await decodePicture(demo('TLK27_0415'), 'TLK27_0415.dng')
    const places = Array.from({ length: 24 }, (_, i) => [((i % 6) + 0.5) / 6, (Math.floor(i / 6) + 0.5) / 4] as const)
    const seen = places.map(([across, down]) => lightAt(source, within(truthOf('TLK27_0415').chart_corners_px, across, down)))
    const wanted = truth.chart_patches_linear.map((patch: number[]) => transform(fromSrgb, vector3(patch)))
    // How brightly the chart is lit changes across it: a plane through the logarithms.
    const [gain, alongX, alongY] = planeThrough(
      places.map(([x, y], i) => [x, y, Math.log(luminance(seen[i] as Vector3) / luminance(wanted[i]))]),
    )
    const errors = seen.map((colour, i) => {
      const [x, y] = places[i] as readonly [number, number]
      const light = Math.exp(gain + alongX * x + alongY * y)
      return deltaE00(labOf(vector3(colour.map((value) => value / light))), labOf(wanted[i]))
    })
    expect(errors.reduce((sum, error) => sum + error, 0) / 24).toBeLessThan(1.5)
    expect(Math.max(...errors)).toBeLessThan(3)
  })
  it('reduced while decoding, it is the same picture', async () => {
    const bytes = demo('TLK27_0422')
    const [whole, small] = [await decodePicture(bytes, 'x.dng'), await decodePicture(bytes, 'x.dng', { maxEdge: 512 })]
    expect(Math.max(small.source.size.width, small.source.size.height)).toBe(512)
    const scale = small.source.size.width / whole.source.size.width
    for (const place of [
      [600, 300],
      [600, 900],
      [200, 1500],
    ] as const) {
      const [a, b] = [lightAt(whole.source, place, 40), lightAt(small.source, [place[0] * scale, place[1] * scale], 11)]
      for (const channel of [0, 1, 2] as const) expect(b[channel]).toBeCloseTo(a[channel], 2)
    }
  })
  it('light above white is there', async () => {
    const { source } = await decodePicture(demo('TLK27_0410'), 'TLK27_0410.dng')
    const { size, pixels, colour } = source
    let above = 0
    for (let i = 0; i < size.width * size.height; i++) {
      const light = transform(colour.toWorking, vector3([0, 1, 2].map((channel) => codeAt(pixels, i * 3 + channel) / 65535)))
      if (luminance(light) > 1.05) above++
    }
    expect(above / (size.width * size.height)).toBeGreaterThan(0.02)
  })
})

const luminance = (rgb: Vector3): number => transform(workingXyz, rgb)[1]
const labOf = (rgb: Vector3): Vector3 => xyzToLab(transform(workingXyz, rgb), white)

/** Least squares: c + a·x + b·y. */
function planeThrough(points: readonly (readonly [number, number, number])[]): Vector3 {
  const sums = Array<number>(9).fill(0)
  const right = [0, 0, 0]
  for (const [x, y, z] of points)
    for (const [row, a] of [1, x, y].entries()) {
      right[row] = numberAt(right, row) + a * z
      for (const [column, b] of [1, x, y].entries()) sums[row * 3 + column] = numberAt(sums, row * 3 + column) + a * b
    }
  return transform(invert(matrix3(sums)), vector3(right))
}

const tinyJpeg = (): Promise<Buffer> =>
  sharp({ create: { width: 8, height: 8, channels: 3, background: '#888' } })
    .jpeg()
    .toBuffer()
/** A JPEG with an EXIF block in it (CIPA DC-008, 4.7.2). */
function demoJpegWith(jpeg: Buffer, exif: Buffer | undefined): Buffer {
  if (!exif) throw new Error('No EXIF was carried')
  const block = exif.toString('latin1', 0, 4) === 'Exif' ? exif : Buffer.concat([Buffer.from('Exif\0\0'), exif])
  const length = Buffer.alloc(2)
  length.writeUInt16BE(block.length + 2)
  return Buffer.concat([jpeg.subarray(0, 2), Buffer.from([0xff, 0xe1]), length, block, jpeg.subarray(2)])
}

/** A smooth picture with an edge, between 0.05 and 0.85, in camera values. */
const size: Size = { width: 96, height: 64 }
const scene = (x: number, y: number, channel: number): number =>
  0.45 + 0.3 * Math.sin(x / 9 + channel) * Math.cos(y / 11 - channel / 2) + (x > 48 ? 0.1 : 0)
/** Camera = XYZ: balanced values of a neutral of 1, 1, 1 are XYZ relative to it. */
const plain: DngOptions = { size, at: scene, neutral: [1, 1, 1], matrices: [[1, 0, 0, 0, 1, 0, 0, 0, 1]] }

async function decoded(options: Partial<DngOptions>): Promise<InterleavedSource> {
  return (await decodePicture(dng({ ...plain, ...options }), 'made.dng')).source
}

/** Mean and worst distance from the scene, in camera values, away from the border. */
function distanceFrom(
  { size: { width, height }, pixels }: InterleavedSource,
  at: DngOptions['at'],
  white = 1,
): { mean: number; worst: number } {
  let [sum, worst, count] = [0, 0, 0]
  for (let y = 6; y < height - 6; y++)
    for (let x = 6; x < width - 6; x++)
      for (const channel of [0, 1, 2] as const) {
        const error = Math.abs((codeAt(pixels, (y * width + x) * 3 + channel) / 65535) * white - at(x, y, channel))
        sum += error
        count++
        worst = Math.max(worst, error)
      }
  return { mean: sum / count, worst }
}

describe('mosaics of a known picture', () => {
  it.each(['RGGB', 'BGGR', 'GRBG', 'GBRG', 'sixBySix', 'linear'] as const)('%s comes out as it was', async (pattern) => {
    // The decoder takes six by six in tiles of 512 pixels, and wants one.
    const enough = pattern === 'sixBySix' ? { width: 600, height: 520 } : size
    const { mean } = distanceFrom(await decoded({ pattern, size: enough }), scene)
    expect(mean).toBeLessThan(pattern === 'linear' ? 1e-4 : 0.01)
  })
  it.each([
    [8, 0, 255],
    [12, 256, 4095],
    [14, 1024, 16383],
    [16, 4096, 60000],
  ] as const)('%i bits from %i to %i', async (bits, black, white) => {
    const { mean } = distanceFrom(await decoded({ bits, black, white }), scene)
    expect(mean).toBeLessThan(0.01)
  })
  it.each([12, 14, 16] as const)('packed without loss, %i bits: the same to the bit as not packed', async (bits) => {
    const levels = { bits, black: 64, white: 2 ** bits - 1 }
    expect((await decoded({ ...levels, lossless: true })).pixels).toEqual((await decoded(levels)).pixels)
  })
  it('a sensor without colours gives grey', async () => {
    const bytes = dng({ ...plain, pattern: 'grey' })
    const { source } = await decodePicture(bytes, 'grey.dng')
    expect(source.size).toEqual(size)
    const [r, g, b] = lightAt(source, [20, 20], 0)
    expect(Math.max(Math.abs(r - g), Math.abs(b - g))).toBeLessThan(1e-3)
    expect(g).toBeCloseTo(scene(20, 20, 1), 2)
    expect((await readFacts(bytes, 'grey.dng')).space).toBe('grey16')
  })
  it.each([1, 2, 3, 4, 5, 6, 7, 8])('orientation %i is upright', async (orientation) => {
    const marked = (x: number, y: number): number => (x < 24 && y < 16 ? 0.8 : 0.2)
    const bytes = dng({ ...plain, at: marked, orientation })
    const { source } = await decodePicture(bytes, 'turned.dng')
    const turned = orientation >= 5
    expect(source.size).toEqual(turned ? { width: 64, height: 96 } : size)
    expect((await readFacts(bytes, 'turned.dng')).size).toEqual(source.size)
    // Where the stored picture's upper left corner is shown (TIFF 6.0, tag 274).
    const [right, low] = [[2, 3, 7, 6].includes(orientation), [3, 4, 7, 8].includes(orientation)]
    const place: Corner = [right ? source.size.width - 8 : 8, low ? source.size.height - 8 : 8]
    expect(luminance(lightAt(source, place, 2))).toBeGreaterThan(0.6)
    expect(luminance(lightAt(source, [source.size.width - place[0], source.size.height - place[1]], 2))).toBeLessThan(0.3)
  })
  it.each([
    [97, 65],
    [31, 23],
  ])('odd sizes: %i × %i', async (width, height) => {
    expect((await decoded({ size: { width, height } })).size).toEqual({ width, height })
  })
  it('shows the part that the file wants shown, turned or not', async () => {
    const crop = [8, 4, 60, 40] as const
    const cropped = await decoded({ crop })
    expect(cropped.size).toEqual({ width: 60, height: 40 })
    expect(distanceFrom(cropped, (x, y, channel) => scene(x + 8, y + 4, channel)).mean).toBeLessThan(0.01)
    const bytes = dng({ ...plain, crop, orientation: 6 })
    expect((await decodePicture(bytes, 'x.dng')).source.size).toEqual({ width: 40, height: 60 })
    expect((await readFacts(bytes, 'x.dng')).size).toEqual({ width: 40, height: 60 })
  })
  it('BaselineExposure says where white is', async () => {
    const [asIs, lifted] = [await decoded({}), await decoded({ baselineExposure: 1.5 })]
    const ratio = luminance(lightAt(lifted, [30, 30])) / luminance(lightAt(asIs, [30, 30]))
    expect(Math.log2(ratio)).toBeCloseTo(1.5, 3)
  })
  it('facts take the head of the file alone, and say the same', async () => {
    const path = 'demo/raw/TLK27_0422.dng'
    expect(await readFacts(path, path)).toEqual(await readFacts(readFileSync(path), path))
  })
  it('a preview inside is not taken for the picture', async () => {
    const preview = await sharp({ create: { width: 160, height: 120, channels: 3, background: '#f00' } })
      .jpeg()
      .toBuffer()
    const bytes = dng({ ...plain, preview })
    expect((await readFacts(bytes, 'x.dng')).size).toEqual(size)
    expect(distanceFrom((await decodePicture(bytes, 'x.dng')).source, scene).mean).toBeLessThan(0.01)
    const found = await askRaw('preview', bytes, { path: 'x.dng' })
    expect((await sharp(found?.jpeg).metadata()).width).toBe(160)
  })
})

describe('demosaicing', () => {
  it('is as good as LibRaw’s own command at the same settings: PSNR within 0.3 dB', async () => {
    const { data, info } = await sharp('demo/pictures/kiln-and-yard/TLK27_0403.jpg').resize(600).raw().toBuffer({ resolveWithObject: true })
    const light = (x: number, y: number, channel: number): number =>
      0.9 * srgbTransfer.decode(codeAt(data, (y * info.width + x) * 3 + channel) / 255)
    const bytes = dng({ ...plain, size: { width: info.width, height: info.height }, at: light })
    const folder = mkdtempSync(join(tmpdir(), 'copper-loop-raw-'))
    const [file, out] = [join(folder, 'a.dng'), join(folder, 'a.ppm')]
    writeFileSync(file, bytes)
    execFileSync('dcraw_emu', [
      '-4',
      '-g',
      '1',
      '1',
      '-r',
      '1',
      '1',
      '1',
      '1',
      '-H',
      '1',
      '-W',
      '-c',
      '0',
      '-o',
      '0',
      '-q',
      '2',
      '-Z',
      out,
      file,
    ])
    const theirs = readFileSync(out)
    const start = theirs.length - info.width * info.height * 6
    const { pixels } = (await decodePicture(bytes, 'a.dng')).source
    const psnr = (value: (index: number) => number): number => {
      let [sum, count] = [0, 0]
      for (let y = 8; y < info.height - 8; y++)
        for (let x = 8; x < info.width - 8; x++)
          for (let channel = 0; channel < 3; channel++) {
            sum += (srgbTransfer.encode(value((y * info.width + x) * 3 + channel)) - srgbTransfer.encode(light(x, y, channel))) ** 2
            count++
          }
      return -10 * Math.log10(sum / count)
    }
    const [ours, reference] = [psnr((i) => codeAt(pixels, i) / 65535), psnr((i) => theirs.readUInt16BE(start + i * 2) / 65535)]
    expect(reference).toBeGreaterThan(25)
    expect(Math.abs(ours - reference)).toBeLessThan(0.3)
    rmSync(folder, { recursive: true })
  })
})

describe('what is measured on a raw file', () => {
  it('noise of a sensor, demosaiced, is found and taken away', async () => {
    let state = 7
    const random = (): number => {
      state = (Math.imul(state, 1664525) + 1013904223) >>> 0
      return state / 2 ** 32
    }
    // The sum of twelve is near enough to normal.
    const normal = (): number => Array.from({ length: 12 }, random).reduce((sum, value) => sum + value, -6)
    const [grey, sigma] = [0.18, 0.012]
    const bytes = dng({ ...plain, size: { width: 512, height: 384 }, iso: 6400, at: () => grey + sigma * normal() })
    const { source } = await decodePicture(bytes, 'noisy.dng')
    const subject = { facts: await readFacts(bytes, 'noisy.dng'), name: 'noisy.dng' }
    const spread = async (steps: readonly Step[]): Promise<{ mean: number; deviation: number }> => {
      const { pixels } = await renderSteps(source, steps, false, 'clip', subject)
      const greens = Array.from({ length: 200 * 200 }, (_, i) =>
        codeAt(pixels, ((100 + Math.floor(i / 200)) * 512 + 100 + (i % 200)) * 3 + 1),
      )
      return { mean: mean(greens) ?? 0, deviation: deviation(greens) ?? 0 }
    }
    const [before, after] = [await spread([]), await spread([newStep('noise-reduction', 'n')])]
    expect(before.deviation).toBeGreaterThan(2)
    expect(after.deviation).toBeLessThan(before.deviation * 0.4)
    expect(Math.abs(after.mean - before.mean)).toBeLessThan(0.5)
  })
  it('light that the camera judged wrongly is found: lamps, taken for daylight', async () => {
    const bytes = demo('TLK27_0449')
    const { source } = await decodePicture(bytes, 'x.dng')
    const subject = { facts: await readFacts(bytes, 'x.dng'), name: 'x.dng' }
    const kernels = await testKernels()
    const step = newStep('white-balance', 'w', { by: 'auto', surePercent: 0 })
    const [resolved] = resolveSteps([step], source.size, { sampler: createSampler(kernels, source), subject })
    const { neutral_true: own, light_kelvin: kelvin } = truthOf('TLK27_0449')
    // What something neutral is before the step, and what the step makes of it.
    const { raw } = subject.facts
    const seen = transform(
      asShotToWorking(raw as CameraColour),
      vector3(own.map((value: number, i: number) => value / numberAt(raw?.neutral ?? [], i))),
    )
    const balanced = transform(matrix3(resolved?.constants.matrix as readonly number[]), seen)
    expect(kelvin).toBeLessThan(4000)
    expect(degreesBetween(balanced, [1, 1, 1])).toBeLessThan(degreesBetween(seen, [1, 1, 1]) * 0.6)
  })
})

describe('what is no whole raw file', () => {
  const whole = dng(plain)
  it.each([
    ['cut off in the picture', whole.subarray(0, whole.length - 4000), 'cut.dng', 'pictureDamaged'],
    ['cut off in its head', demo('TLK27_0415').subarray(0, 300), 'head.dng', 'pictureDamaged'],
    ['noise', Buffer.alloc(5000, 0xa5), 'noise.dng', 'notAPicture'],
    ['a TIFF by the name of a raw file', undefined, 'tiff.nef', 'notAPicture'],
    ['compression that nobody knows', dng({ ...plain, compression: 60000 }), 'packed.dng', 'rawUnknown'],
  ] as const)('%s', async (_, given, path, code) => {
    const bytes =
      given ??
      (await sharp({ create: { width: 20, height: 20, channels: 3, background: '#555' } })
        .tiff()
        .toBuffer())
    await expect(decodePicture(bytes, path)).rejects.toMatchObject({ code })
  })
  it('60,000 pixels a side that are not there', async () => {
    const bytes = dng({ ...plain, saidSize: { width: 60_000, height: 60_000 } })
    await expect(readFacts(bytes, 'huge.dng')).rejects.toMatchObject({ code: 'pictureTooLarge' })
    await expect(decodePicture(bytes, 'huge.dng')).rejects.toMatchObject({ code: 'pictureTooLarge' })
  })
  it('a JPEG by the name of a raw file is the JPEG it is; a raw file by the name of a TIFF is a raw file', async () => {
    const jpeg = readFileSync('demo/pictures/vessels/TLK27_0415.jpg')
    expect((await readFacts(jpeg, 'x.dng')).format).toBe('jpeg')
    expect((await readFacts(whole, 'x.tif')).format).toBe('raw')
  })
  it('maker’s notes of one byte, and a broken preview, harm nothing', async () => {
    const odd = dng({ ...plain, makerNote: Buffer.from([7]), preview: Buffer.from('no JPEG at all') })
    expect((await decodePicture(odd, 'odd.dng')).source.size).toEqual(size)
    expect(
      await askRaw('preview', odd, { path: 'odd.dng' }).then(
        (found) =>
          found &&
          sharp(found.jpeg)
            .metadata()
            .catch(() => null),
      ),
    ).toBeFalsy()
  })
  it('one that takes too long is given up, and the next is read', async () => {
    const large = dng({ ...plain, size: { width: 2400, height: 1600 } })
    await expect(askRaw('whole', large, { path: 'slow.dng', patienceMs: 1 })).rejects.toMatchObject({ code: 'rawEndless' })
    expect((await decodePicture(whole, 'next.dng')).source.size).toEqual(size)
  })
})

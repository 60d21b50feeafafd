import { execFileSync } from 'node:child_process'
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import type { Kernels } from '@kernels/binding'
import { mean, median } from 'd3'
import sharp from 'sharp'
import type { Size } from '@/base/geometry'
import { srgbTransfer } from '@/colour/transfer'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { decodePicture } from '@/files/decode'
import { newStep } from '@/macros/step'
import type { Settings } from '@/operations'
import { withCameraNoise } from '../tests/camera-noise'
import { normals } from '../tests/pictures'
import { benchFolder } from './pictures'

/** Of an environment that has scikit-image and PyWavelets. */
const python = process.env.COPPER_LOOP_PYTHON ?? '/usr/bin/python3'
const folder = join(benchFolder, 'noise')
const sigmas = [15, 25, 50] as const
/** Deviations at 18 % grey in linear light, as the demo's camera has them (demo/truth.json), and what the file goes through. */
const cameras = [
  { name: 'iso1600', sigma: 0.0107 },
  { name: 'iso6400', sigma: 0.0227 },
] as const
const qualities = [undefined, 92, 85] as const
/** Full strength compares the method; the default leaves a little grain on purpose. */
const variants: Readonly<Record<string, Settings>> = {
  ours: { brightnessNoisePercent: 100 },
  'ours-thorough': { brightnessNoisePercent: 100, care: 'thorough' },
  'ours-default': {},
}

/** The tone curve that the demo's simulated camera ends with (demo/truth.json, "about"). */
const cameraTone = (y: number): number => srgbTransfer.encode(y <= 0.7 ? y : 0.7 + 0.3 * (1 - Math.exp(-(y - 0.7) / 0.3)))

const png = (pixels: Uint8Array | Uint8ClampedArray, size: Size, path: string): Promise<unknown> =>
  sharp(pixels, { raw: { ...size, channels: 3 } })
    .png({ compressionLevel: 1 })
    .toFile(path)

const throughJpeg = async (pixels: Uint8ClampedArray, size: Size, quality: number): Promise<Uint8Array> =>
  sharp(
    await sharp(pixels, { raw: { ...size, channels: 3 } })
      .jpeg({ quality })
      .toBuffer(),
  )
    .raw()
    .toBuffer()

interface Case {
  readonly name: string
  readonly noisy: string
  /** As the camera wrote it. */
  readonly iso?: number
}

/** Clean crops with white noise added, and the same crops as the demo's camera saw them. */
async function layOut(): Promise<Case[]> {
  rmSync(folder, { recursive: true, force: true })
  mkdirSync(folder, { recursive: true })
  const cases: Case[] = []
  const truth = JSON.parse(readFileSync('demo/truth.json', 'utf8')).files as Record<string, { iso: number; defocus_radius_px: number }>
  for (const file of readdirSync('demo/truth')) {
    const { data, info } = await sharp(join('demo/truth', file))
      .toColourspace('rgb16')
      .raw({ depth: 'ushort' })
      .toBuffer({ resolveWithObject: true })
    const codes = new Uint16Array(data.buffer, data.byteOffset, data.length / 2)
    const size = { width: info.width, height: info.height }
    const clean = Uint8Array.from(codes, (code) => Math.round(255 * Math.min(1, cameraTone((code / 65535) * 4))))
    const [, picture = '', x = '0', y = '0'] = file.match(/^(\w+?)_x(\d+)_y(\d+)\.png$/) ?? []
    const short = picture.slice(-4)
    for (const sigma of sigmas) {
      const name = `${short}_s${sigma}`
      const normal = normals(sigma)
      const noisy = clean.map((code) => Math.min(255, Math.max(0, Math.round(code + sigma * normal()))))
      cases.push({ name, noisy: join(folder, `${name}.noisy.png`) })
      await png(clean, size, join(folder, `${name}.clean.png`))
      await png(noisy, size, join(folder, `${name}.noisy.png`))
    }
    for (const { name: camera, sigma } of cameras) {
      const seen = Uint8ClampedArray.from(withCameraNoise(clean, size.width, size.height, { sigma, seed: 11 }), Math.round)
      for (const quality of qualities) {
        const name = `${short}_${camera}${quality ? `-${quality}` : ''}`
        const noisy = join(folder, `${name}.noisy.png`)
        await png(clean, size, join(folder, `${name}.clean.png`))
        await png(quality ? await throughJpeg(seen, size, quality) : seen, size, noisy)
        cases.push({ name, noisy })
      }
    }
    const source = readdirSync('demo/pictures', { recursive: true, encoding: 'utf8' }).find((path) => path.endsWith(`${picture}.jpg`))
    // The truth of a soft picture is sharp: it tells nothing about noise.
    if (!source || truth[`${picture}.jpg`]?.defocus_radius_px) continue
    const name = `${short}_camera`
    const crop = await sharp(join('demo/pictures', source))
      .extract({ left: Number(x), top: Number(y), ...size })
      .raw()
      .toBuffer()
    await png(clean, size, join(folder, `${name}.clean.png`))
    await png(crop, size, join(folder, `${name}.noisy.png`))
    cases.push({ name, noisy: join(folder, `${name}.noisy.png`), iso: truth[`${picture}.jpg`]?.iso })
  }
  return cases
}

export interface NoiseRow {
  readonly name: string
  readonly method: string
  readonly psnr: number
  readonly ssim: number
  readonly seconds: number | null
}

async function ours(kernels: Kernels, cases: readonly Case[]): Promise<Map<string, number>> {
  const seconds = new Map<string, number>()
  for (const { name, noisy, iso } of cases)
    for (const [variant, settings] of Object.entries(variants)) {
      const { source } = await decodePicture(readFileSync(noisy), noisy)
      const subject = { name, facts: { size: source.size, format: 'png', bits: 8, space: 'srgb', hasAlpha: false, iso } }
      const render = () => {
        const steps = resolveSteps([newStep('noise-reduction', 'n', settings)], source.size, {
          sampler: createSampler(kernels, source),
          subject,
        })
        return renderEncoded(kernels, planRender(source, steps, 'full'), { space: 'srgb', channels: 3, dither: false })
      }
      render()
      const start = performance.now()
      const pixels = render()
      seconds.set(`${name}.${variant}`, (performance.now() - start) / 1000)
      await png(pixels, source.size, join(folder, `${name}.${variant}.png`))
    }
  return seconds
}

/** PSNR and SSIM of ours and of scikit-image's, case by case; undefined where that library is not installed. */
export async function compareNoise(kernels: Kernels): Promise<readonly NoiseRow[] | undefined> {
  if (!existsSync(python)) return undefined
  try {
    execFileSync(python, ['-c', 'import skimage, pywt'], { stdio: 'ignore' })
  } catch {
    return undefined
  }
  const seconds = await ours(kernels, await layOut())
  const rows = JSON.parse(
    execFileSync(python, ['bench/noise_references.py', folder], { encoding: 'utf8', maxBuffer: 1 << 24 }),
  ) as NoiseRow[]
  return rows.map((row) => ({ ...row, seconds: row.seconds ?? seconds.get(`${row.name}.${row.method}`) ?? null }))
}

/** *Thorough* and a plain reference in the middles of the pictures with white noise, once `compareNoise` has laid them out. */
export const compareThorough = (): readonly NoiseRow[] =>
  (JSON.parse(execFileSync(python, ['bench/block_matching.py', folder], { encoding: 'utf8' })) as NoiseRow[]).map((row) => ({
    ...row,
    seconds: null,
  }))

/** Means over the pictures: one line a noise kind, one figure a method. */
export function summarise(
  rows: readonly NoiseRow[],
): Record<string, Record<string, { psnr: number; ssim: number; megapixelsPerSecond: number }>> {
  const result: Record<string, Record<string, { psnr: number; ssim: number; megapixelsPerSecond: number }>> = {}
  for (const kind of new Set(rows.map(({ name }) => name.slice(5))))
    for (const method of new Set(rows.map((row) => row.method))) {
      const some = rows.filter((row) => row.name.slice(5) === kind && row.method === method)
      const average = (value: (row: NoiseRow) => number): number => mean(some, value) ?? Number.NaN
      const megapixels = (768 * 768) / 1e6
      const line = {
        psnr: average((r) => r.psnr),
        ssim: average((r) => r.ssim),
        megapixelsPerSecond: megapixels / average((r) => r.seconds ?? Number.NaN),
      }
      result[kind] = { ...result[kind], [method]: line }
    }
  return result
}

export interface WholeRates {
  readonly megapixels: number
  /** Megapixels a second. */
  readonly ours: number
  readonly wavelet: number
  readonly means: number
}

/** A whole picture as cameras make them, with white noise of sigma 15: what measuring costs no longer hides the rate. Medians of three. */
export async function wholeRates(kernels: Kernels): Promise<WholeRates> {
  const size = { width: 6000, height: 4000 }
  const path = join(folder, 'whole.png')
  const clean = await sharp('demo/pictures/kiln-and-yard/TLK27_0410.jpg').resize(size.width, size.height, { fit: 'fill' }).raw().toBuffer()
  const normal = normals(15)
  await png(
    Uint8ClampedArray.from(clean, (code) => Math.round(code + 15 * normal())),
    size,
    path,
  )
  const { source } = await decodePicture(readFileSync(path), path)
  const subject = { name: 'whole', facts: { size, format: 'png', bits: 8, space: 'srgb', hasAlpha: false } } as const
  const reduce = (): void => {
    const steps = resolveSteps([newStep('noise-reduction', 'n')], size, { sampler: createSampler(kernels, source), subject })
    renderEncoded(kernels, planRender(source, steps, 'full'), { space: 'srgb', channels: 3, dither: false })
  }
  const megapixels = (size.width * size.height) / 1e6
  reduce()
  // In turns: a machine that is busy for a while is so for all of them.
  const rounds = [0, 1, 2].map((): Omit<WholeRates, 'megapixels'> => {
    const start = performance.now()
    reduce()
    const ours = (1000 * megapixels) / (performance.now() - start)
    const theirs = execFileSync(python, ['bench/noise_references.py', '--whole', path], { encoding: 'utf8' })
    return { ours, ...JSON.parse(theirs) }
  })
  const middle = (rate: (round: (typeof rounds)[number]) => number): number => median(rounds, rate) ?? Number.NaN
  return { megapixels, ours: middle((r) => r.ours), wavelet: middle((r) => r.wavelet), means: middle((r) => r.means) }
}

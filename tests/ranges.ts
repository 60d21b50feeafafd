import { readFileSync } from 'node:fs'
import type { Kernels } from '@kernels/binding'
import sharp from 'sharp'
import { deltaE00 } from '@/colour/delta-e'
import { srgb8ToLab } from '@/colour/lab'
import { vector3 } from '@/colour/matrix'
import { srgbTransfer } from '@/colour/transfer'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { newStep } from '@/macros/step'
import type { Settings } from '@/operations'
import { srgbColour } from './pictures'

/* Good pictures, and the same taken wrongly or scanned flat: what finding the full range makes of them, as ΔE00 from the good one. */

/** What becomes of a code of 8 bits. */
export const mishaps = {
  'as it is': (code: number) => code,
  'a stop dark': (code: number) => 255 * srgbTransfer.encode(srgbTransfer.decode(code / 255) / 2),
  'a stop bright': (code: number) => 255 * srgbTransfer.encode(Math.min(1, srgbTransfer.decode(code / 255) * 2)),
  'scanned flat': (code: number) => 55 + code / 2,
} as const
export type Mishap = keyof typeof mishaps

export interface Away {
  readonly before: number
  readonly after: number
}

/** Mean ΔE00 from the good picture, before and after. */
export async function awayFrom(kernels: Kernels, path: string, mishap: Mishap, settings: Settings): Promise<Away> {
  const { data, info } = await sharp(path).resize(256, 256, { fit: 'inside' }).removeAlpha().raw().toBuffer({ resolveWithObject: true })
  const codes = Uint8Array.from(data, (code) => Math.round(mishaps[mishap](code)))
  const source = { kind: 'interleaved' as const, size: { width: info.width, height: info.height }, pixels: codes, colour: srgbColour }
  const steps = resolveSteps([newStep('full-range', 'r', settings)], source.size, { sampler: createSampler(kernels, source) })
  const pixels = renderEncoded(kernels, planRender(source, steps, 'full'), { space: 'srgb', channels: 3, dither: false })
  const labAt = (some: ArrayLike<number>, i: number) => srgb8ToLab(vector3([0, 1, 2].map((c) => some[3 * i + c] ?? 0)))
  let [before, after, count] = [0, 0, 0]
  for (let i = 0; i < info.width * info.height; i += 5) {
    const good = labAt(data, i)
    before += deltaE00(good, labAt(codes, i))
    after += deltaE00(good, labAt(pixels, i))
    count++
  }
  return { before: before / count, after: after / count }
}

/** The demo's pictures that were exposed rightly and by plain light. */
export function goodPictures(): string[] {
  const truth = JSON.parse(readFileSync('demo/truth.json', 'utf8')).files as Record<string, { folder: string; ev_error: number }>
  return Object.entries(truth).flatMap(([name, { folder, ev_error }]) => (ev_error === 0 ? [`demo/pictures/${folder}/${name}`] : []))
}

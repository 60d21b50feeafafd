import { readFileSync } from 'node:fs'
import type { Kernels } from '@kernels/binding'
import { luminanceWeights } from '@/colour/spaces'
import { resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { decodePicture } from '@/files/decode'
import { newStep } from '@/macros/step'
import { match } from '@/operations/catalogue/match'
import { type LinearPicture, quantile } from '@/pixels/linear-picture'

/** Median luminance of a picture. */
export function middleLight({ size, planes }: LinearPicture): number {
  const length = size.width * size.height
  const light = Float32Array.from({ length }, (_, i) =>
    luminanceWeights.reduce((sum, weight, c) => sum + weight * (planes[c * length + i] as number), 0),
  )
  return quantile(light, 0.5)
}

interface Taken {
  readonly path: string
  readonly name: string
  /** How much too bright it was taken, in stops. */
  readonly evError: number
}

const numberOf = (name: string): number => Number(name.match(/(\d+)\.\w+$/)?.[1])

/** Of the same folder the picture nearest in number that was rightly exposed: what a person would take for a reference. */
function neighbourOf(picture: Taken, all: readonly Taken[]): Taken | undefined {
  const folder = (path: string): string => path.slice(0, path.lastIndexOf('/'))
  const away = (other: Taken): number => Math.abs(numberOf(other.name) - numberOf(picture.name))
  return all
    .filter((other) => other !== picture && other.evError === 0 && folder(other.path) === folder(picture.path))
    .sort((a, b) => away(a) - away(b))[0]
}

/** How much too bright each picture is, in stops either way, once its tones were matched to its neighbour's. */
export async function matchedErrors(kernels: Kernels, pictures: readonly Taken[]): Promise<Map<string, number>> {
  const errors = new Map<string, number>()
  for (const picture of pictures) {
    const neighbour = neighbourOf(picture, pictures)
    if (!neighbour) continue
    const [own, reference] = await Promise.all(
      [picture, neighbour].map(async ({ path }) => (await decodePicture(readFileSync(path), path)).source),
    )
    if (!own || !reference) continue
    const measured = match.measure?.(createSampler(kernels, reference).copy([]))
    const sampler = createSampler(kernels, own)
    const resolved = resolveSteps([newStep('match', 'm', { reference: measured ?? [], what: 'tone' })], own.size, { sampler })
    errors.set(picture.name, Math.abs(picture.evError + Math.log2(middleLight(sampler.copy(resolved)) / middleLight(sampler.copy([])))))
  }
  return errors
}

import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Kernels } from '@kernels/binding'
import { median } from 'd3'
import { colourSpaces, rgbToRgb, workingSpace } from '@/core/colour/spaces'
import { invert, type Matrix3, transform } from '@/core/matrix'
import { createEye } from '@/engine/eye'
import { resolveSteps } from '@/engine/resolve'
import { newStep } from '@/macro/step'
import { decodePicture } from '@/pictures/decode'

interface TrueValues {
  readonly cast_rgb_gains: readonly [number, number, number]
}

const angleDegrees = (a: readonly number[], b: readonly number[]): number => {
  const dot = a.reduce((sum, value, i) => sum + value * (b[i] ?? 0), 0)
  return (Math.acos(Math.min(1, dot / (Math.hypot(...a) * Math.hypot(...b)))) * 180) / Math.PI
}

/**
 * Median angle between the light that white balance finds and the true one, over the demo set, in degrees: the usual
 * measure of colour constancy (common practice); and the same with nothing done.
 */
export async function castErrors(kernels: Kernels): Promise<{ estimated: number; untouched: number; pictures: number }> {
  const truth = JSON.parse(readFileSync('demo/truth.json', 'utf8')).files as Record<string, TrueValues>
  const paths = readdirSync('demo/pictures', { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile() && truth[entry.name])
    .map((entry) => join(entry.parentPath, entry.name))
  const estimated: number[] = []
  const untouched: number[] = []
  for (const path of paths) {
    const { source } = await decodePicture(readFileSync(path), path)
    const [step] = resolveSteps([newStep('white-balance', 'w', { by: 'auto' })], source.size, { eye: createEye(kernels, source) })
    const white = transform(invert(step?.constants.matrix as unknown as Matrix3), [1, 1, 1])
    const light = transform(rgbToRgb(workingSpace, colourSpaces.srgb), white)
    const gains = truth[path.split('/').at(-1) ?? '']?.cast_rgb_gains ?? [1, 1, 1]
    estimated.push(angleDegrees(light, gains))
    untouched.push(angleDegrees([1, 1, 1], gains))
  }
  return { estimated: median(estimated) ?? Number.NaN, untouched: median(untouched) ?? Number.NaN, pictures: paths.length }
}

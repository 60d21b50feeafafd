import type { Kernels } from '@kernels/binding'
import { isWholeJpeg } from '@kernels/jpeg-scan'
import sharp from 'sharp'
import { areaCopy, isEightBit } from '@/engine/area-copy'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { decodePicture } from '@/files/decode'
import { encodePicture } from '@/files/encode'
import { sha256 } from '@/files/placing'
import { medianMs, medianOfTurns, type Row } from './measure'
import { bytesOf, largePicture } from './pictures'
import { tenSteps, webJpeg } from './ten-steps'

/*
 * What the goals of the engine can't go below: the parts of a picture's way that no change of the steps makes shorter, by themselves.
 */

const size = { width: 2048, height: 1365 }

/** The kernels, and what has been spent in each of them. */
function timedKernels({ run, heap }: Kernels): { readonly kernels: Kernels; readonly spent: Map<string, number> } {
  const spent = new Map<string, number>()
  const timed = Object.entries(run).map(([name, work]) => [
    name,
    (...values: unknown[]) => {
      const started = performance.now()
      const result = work(...values)
      spent.set(name, (spent.get(name) ?? 0) + performance.now() - started)
      return result
    },
  ])
  return { kernels: { run: Object.fromEntries(timed), heap }, spent }
}

const sum = (values: Iterable<number>): number => [...values].reduce((all, value) => all + value, 0)

/** Rows without goals: they say how near the goals are. */
export async function floorRows(kernels: Kernels): Promise<Row[]> {
  const path = await largePicture()
  const bytes = await bytesOf(path)
  const { source, carried } = await decodePicture(bytes, path)
  const pixels = new Uint8ClampedArray(await sharp(bytes).resize(size.width, size.height).raw().toBuffer())
  const [around, theirs] = (await medianOfTurns(5, [
    async () => {
      sha256(bytes)
      await decodePicture(bytes, path)
      isWholeJpeg(kernels, bytes)
      await encodePicture({ values: pixels, channels: 3 }, size, webJpeg, carried)
    },
    () => sharp(bytes).resize(2048).jpeg({ quality: 88 }).toBuffer(),
  ])) as [number, number]
  const reading = await medianMs(5, () => isEightBit(source) && areaCopy(kernels, source, { width: 512, height: 341 }))
  const measure = () => resolveSteps(tenSteps, source.size, { sampler: createSampler(kernels, source) })
  const measuring = await medianMs(5, measure)
  const plan = planRender(source, measure(), 'full')
  const { kernels: timed, spent } = timedKernels(kernels)
  const render = () => renderEncoded(timed, plan, { space: 'srgb', channels: 3, dither: true })
  render()
  spent.clear()
  const started = performance.now()
  render()
  const rendering = performance.now() - started
  const inKernels = sum(spent.values())
  const dearest = [...spent]
    .toSorted(([, a], [, b]) => b - a)
    .slice(0, 8)
    .map(([name, ms]) => `${name} ${ms.toFixed(0)}`)
  const row = (what: string, measured: string): Row => ({ what, measured, goal: '', met: true })
  return [
    row(
      'no resize is shorter than hash, decoding, looking for damage and encoding alone; against the library’s whole resize',
      `${(around / theirs).toFixed(2)} × (${around.toFixed(0)} ms against ${theirs.toFixed(0)} ms)`,
    ),
    row(
      'no measuring is shorter than reading every code of 24 MP once; of all measuring',
      `${reading.toFixed(0)} of ${measuring.toFixed(0)} ms`,
    ),
    row(
      'ten steps: rendering; of that in the kernels; the dearest of them',
      `${rendering.toFixed(0)} ms; ${inKernels.toFixed(0)} ms (${((100 * inKernels) / rendering).toFixed(0)} %); ${dearest.join(', ')}`,
    ),
  ]
}

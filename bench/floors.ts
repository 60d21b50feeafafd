import type { Kernels } from '@kernels/binding'
import { isWholeJpeg } from '@kernels/jpeg-scan'
import sharp from 'sharp'
import { present } from '@/base/present'
import { areaCopy, isEightBit } from '@/engine/area-copy'
import { type Plan, planRender } from '@/engine/plan'
import { renderEncoded, renderProxy } from '@/engine/render'
import { resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { decodePicture } from '@/files/decode'
import { encodePicture } from '@/files/encode'
import { sha256 } from '@/files/placing'
import { newStep, type Step } from '@/macros/step'
import { medianMs, medianOfTurns, type Row } from './measure'
import { bytesOf, largePicture } from './pictures'
import { tenSteps, webJpeg } from './ten-steps'

/*
 * What the goals of the engine can't go below: the parts of a picture's way that no change of the steps makes shorter, by themselves.
 */

const size = { width: 2048, height: 1365 }
const noiseReduction = [newStep('noise-reduction', 'noise')]

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

/** What a piece of work takes, and what of it is spent in kernels, in milliseconds. */
interface Spent {
  readonly whole: number
  readonly inKernels: number
  /** The kernels that take most, in words. */
  readonly dearest: string
}

/** Of a few goes the middle one, by what it spends in kernels; the first, which compiles, is thrown away. */
async function inKernelsAlone(kernels: Kernels, work: (timed: Kernels) => unknown): Promise<Spent> {
  const { kernels: timed, spent } = timedKernels(kernels)
  const goes: Spent[] = []
  for (let i = 0; i < 6; i++) {
    spent.clear()
    const started = performance.now()
    await work(timed)
    const whole = performance.now() - started
    const dearest = [...spent]
      .toSorted(([, a], [, b]) => b - a)
      .slice(0, 8)
      .map(([name, ms]) => `${name} ${ms.toFixed(0)}`)
      .join(', ')
    if (i > 0) goes.push({ whole, inKernels: sum(spent.values()), dearest })
  }
  return present(goes.toSorted((a, b) => a.inKernels - b.inKernels)[goes.length >> 1])
}

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
  const measure = (timed: Kernels, steps: readonly Step[]) => resolveSteps(steps, source.size, { sampler: createSampler(timed, source) })
  const measuring = await inKernelsAlone(kernels, (timed) => measure(timed, tenSteps))
  const render = (timed: Kernels, plan: Plan) => renderEncoded(timed, plan, { space: 'srgb', channels: 3, dither: true })
  const plan = planRender(source, measure(kernels, tenSteps), 'full')
  const ten = await inKernelsAlone(kernels, (timed) => render(timed, plan))
  const cleaned = await inKernelsAlone(kernels, (timed) => render(timed, planRender(source, measure(timed, noiseReduction), 'full')))
  const proxy = await inKernelsAlone(kernels, (timed) => renderProxy(timed, source, 0.29))
  const row = (what: string, measured: string): Row => ({ what, measured, goal: '', met: true })
  const told = ({ whole, inKernels, dearest }: Spent): string =>
    `${whole.toFixed(0)} ms; ${inKernels.toFixed(0)} ms (${((100 * inKernels) / whole).toFixed(0)} %); ${dearest}`
  return [
    row(
      'no resize is shorter than hash, decoding, looking for damage and encoding alone; against the library’s whole resize',
      `${(around / theirs).toFixed(2)} × (${around.toFixed(0)} ms against ${theirs.toFixed(0)} ms)`,
    ),
    row(
      'measuring for ten steps: all; of that in the kernels; of that reading every code of 24 MP once',
      `${measuring.whole.toFixed(0)} ms; ${measuring.inKernels.toFixed(0)} ms; ${reading.toFixed(0)} ms`,
    ),
    row('ten steps: rendering; of that in the kernels; the dearest of them', told(ten)),
    row(
      'noise reduction at the default, 24 MP, measuring included; of that in the kernels; the dearest of them (35 Mpx/s are 686 ms)',
      told(cleaned),
    ),
    row('2 MP proxy of 24 MP; of that in the kernels; the dearest of them', told(proxy)),
  ]
}

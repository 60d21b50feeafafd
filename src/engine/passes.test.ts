import type { Kernels } from '@kernels/binding'
import { describe, expect, it } from 'vitest'
import { floatAt } from '@/base/numbers'
import { srgbTransfer } from '@/colour/transfer'
import type { PointPass } from '@/operations'
import { testKernels } from '../../tests/kernels'
import { seeded } from '../../tests/pictures'
import { readyPasses } from './passes'

const encode: PointPass = { kernel: 'toEncoded', parameters: [] }
const decode: PointPass = { kernel: 'toLinear', parameters: [] }
const levels = (scale: number, offset: number, exponent: number): PointPass => ({
  kernel: 'levels',
  parameters: [0, 1, 2].flatMap((channel) => [scale + channel * 0.02, offset, exponent, 1, 0]),
})
const curve = (f: (x: number) => number): PointPass => ({
  kernel: 'curve',
  parameters: [0, 1, 2].flatMap((channel) => [0.5, 1, ...Array.from({ length: 2049 }, (_, i) => f(i / 2048) * (1 - channel * 0.1))]),
})
const contrast = (lift: number, steepness: number, pivot: number): PointPass => ({
  kernel: 'contrast',
  parameters: [lift, steepness, pivot],
})
const gain: PointPass = { kernel: 'exposure', parameters: [1.2, 1] }
const mixed: PointPass = { kernel: 'matrix', parameters: [0.9, 0.1, 0, 0, 1, 0, 0, 0.2, 0.8] }
const bowed = (x: number): number => x + 0.15 * Math.sin(2 * Math.PI * x)

/** Linear light from below black to far above white, most of it in the dark. */
function light(count: number): Float32Array {
  const random = seeded(7)
  return Float32Array.from({ length: count }, (_, i) => {
    const value = random() ** 3
    return i % 8 === 0 ? -0.1 * value : i % 8 === 1 ? 12 * value : i % 8 === 2 ? 1 - value / 100 : value
  })
}

function through(
  { heap, run }: Kernels,
  values: Float32Array,
  passes: readonly PointPass[],
  how: 'ready' | 'oneByOne',
  from = 0,
): Float32Array[] {
  return heap.scope(() => {
    const part = values.subarray(from)
    const planes = [heap.floats(part), heap.floats(part), heap.floats(part)] as const
    if (how === 'ready') for (const pass of readyPasses({ heap, run }, passes)) pass.run(...planes, part.length)
    else for (const { kernel, parameters } of passes) run[kernel](...planes, part.length, heap.floats(parameters))
    return planes.map((plane) => heap.f32(plane, part.length).slice())
  })
}

/** In codes of 8 bits, as a file has them. */
const codeOf = (linear: number): number => 255 * Math.sign(linear) * srgbTransfer.encode(Math.abs(linear))

describe('passes in a row that treat channels apart', () => {
  it.each([
    ['levels as found', [encode, levels(1.1, -0.03, 0.85), decode]],
    ['levels at their steepest', [encode, levels(1.4, -0.08, 0.75), decode]],
    ['a curve', [encode, curve(bowed), decode]],
    ['contrast', [encode, contrast(0.9, 1.3, 0.5), decode]],
    ['contrast at its flattest, darkened most', [encode, contrast(2, 0.85, 0.05), decode]],
    ['contrast at its steepest, lightened most', [encode, contrast(0.5, 2.4, 0.95), decode]],
    ['a gain between two of them', [encode, levels(1.05, -0.02, 1.1), decode, gain, encode, curve(bowed), decode]],
  ] as const)('come out within a quarter of a code as one table: %s', async (_, passes) => {
    const kernels = await testKernels()
    const values = light(40_000)
    const [ours, exact] = [through(kernels, values, passes, 'ready'), through(kernels, values, passes, 'oneByOne')]
    let [worst, differing] = [0, 0]
    for (const [channel, plane] of ours.entries())
      for (const [i, value] of plane.entries()) {
        const other = floatAt(exact[channel] as Float32Array, i)
        if (value !== other) differing++
        worst = Math.max(worst, Math.abs(codeOf(value) - codeOf(other)) / Math.max(1, Math.abs(codeOf(other)) / 255))
      }
    expect(worst).toBeLessThan(0.25)
    // It is a table, or this says nothing.
    expect(differing).toBeGreaterThan(1000)
  })
  it.each([
    ['two passes', [encode, curve(bowed)]],
    ['a curve with a step in it', [encode, curve((x) => (x < 0.4 ? 0.2 : 0.7)), decode]],
    ['a power that is steep at black', [encode, levels(1, 0, 0.4), decode]],
    ['contrast that is flattened more', [encode, contrast(1, 0.84, 0.5), decode]],
    ['what mixes channels', [encode, mixed, decode]],
  ] as const)('stay as they are to the bit where a table would not do, or not pay: %s', async (_, passes) => {
    const kernels = await testKernels()
    const values = light(4000)
    expect(through(kernels, values, passes, 'ready')).toEqual(through(kernels, values, passes, 'oneByOne'))
  })
  it('read nothing beyond their tables, whatever gaps between rows hold', async () => {
    const odd = [Number.NaN, Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY, 3e38, -3e38, 1e-40, 0, -0]
    const values = Float32Array.from({ length: 64 }, (_, i) => (i % 2 ? 0.5 : (odd[(i / 2) % odd.length] as number)))
    const kernels = await testKernels()
    const passes = [encode, levels(1.1, -0.03, 0.85), decode]
    const [ours, exact] = [through(kernels, values, passes, 'ready'), through(kernels, values, passes, 'oneByOne')]
    for (const i of values.keys()) if (i % 2) expect(ours[0]?.[i]).toBeCloseTo(exact[0]?.[i] as number, 5)
  })
  it('give every value the same whatever lies beside it', async () => {
    const kernels = await testKernels()
    const passes = [encode, levels(1.1, -0.03, 0.85), decode]
    const values = light(4000)
    const [whole, part] = [through(kernels, values, passes, 'ready'), through(kernels, values, passes, 'ready', 1236)]
    expect(part[1]).toEqual(whole[1]?.subarray(1236))
  })
  it('share a table where they are the same, and only there', async () => {
    const { heap, run } = await testKernels()
    let made = 0
    const counting: Kernels = {
      heap,
      run: {
        ...run,
        levels: (...values) => {
          made++
          run.levels(...values)
        },
      },
    }
    const values = light(400)
    const stretched = (scale: number): PointPass[] => [encode, levels(scale, -0.031, 0.9), decode]
    const first = through(counting, values, stretched(1.07), 'ready')
    expect(made).toBe(1)
    expect(through(counting, values, stretched(1.07), 'ready')).toEqual(first)
    expect(made).toBe(1)
    expect(through(counting, values, stretched(1.08), 'ready')).not.toEqual(first)
    expect(made).toBe(2)
    // Curves are told apart by what they are, not by how long.
    const bent = (f: (x: number) => number) => through(counting, values, [encode, curve(f), decode], 'ready')
    expect(bent(bowed)).not.toEqual(bent((x) => x ** 1.3))
  })
})

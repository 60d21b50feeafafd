import type { Kernels } from '@kernels/binding'
import { allocatePlanes, type Planes } from '@kernels/planes'
import { describe, expect, it } from 'vitest'
import type { Matrix3 } from '@/colour/matrix'
import { coneToLab, coneToWorking, labToCone, workingToCone } from '@/colour/oklab'
import { colourSpaces, rgbToRgb, workingSpace } from '@/colour/spaces'
import { newStep } from '@/macros/step'
import { conversion, type Domain, joined, matrixPass, type PointPass } from '@/operations'
import type { InterleavedSource } from '@/pixels/picture'
import { testKernels } from '../../tests/kernels'
import { busyPicture, seeded } from '../../tests/pictures'
import { worstDifference } from '../../tests/render'
import { outputPasses } from './domains'
import { readyPasses } from './passes'
import { planRender } from './plan'
import { readSource } from './read-source'
import { resolveSteps } from './resolve'
import { domainOfCodes } from './source'

const count = 64
const random = seeded(21)
/** Linear working RGB, inside the range. */
const colours = [0, 1, 2].map(() => Float32Array.from({ length: count }, () => random()))
const domains: readonly Domain[] = ['linear', 'encoded', 'oklab', 'opponent']

function run(kernels: Kernels, planes: readonly Float32Array[], passes: readonly PointPass[]): Float32Array[] {
  const { heap } = kernels
  return heap.scope(() => {
    const [r, g, b] = planes.map((plane) => heap.floats(plane)) as [number, number, number]
    for (const pass of readyPasses(kernels, passes)) pass.run(r, g, b, count)
    return [r, g, b].map((at) => heap.f32(at, count).slice())
  })
}

const worstOf = (a: readonly Float32Array[], b: readonly Float32Array[]): number =>
  Math.max(...a.map((plane, i) => worstDifference(plane, b[i] as Float32Array)))

describe('domains', () => {
  it.each(domains.flatMap((from) => domains.map((to) => [from, to] as const)))('%s to %s and back leads home', async (from, to) => {
    const kernels = await testKernels()
    const start = run(kernels, colours, conversion('linear', from))
    const back = run(kernels, run(kernels, start, conversion(from, to)), conversion(to, from))
    expect(worstOf(back, start)).toBeLessThan(1e-4)
  })
  it('brightness and colour differences of grey: the encoded grey, and none', async () => {
    const grey = [0, 1, 2].map(() => Float32Array.from({ length: count }, () => 0.18))
    const [light, first, second] = run(await testKernels(), grey, conversion('linear', 'opponent'))
    // 18 % of light is 0.4614 in sRGB (IEC 61966-2-1).
    expect(light?.[0]).toBeCloseTo(0.4614, 3)
    expect(first?.[0]).toBeCloseTo(0, 5)
    expect(second?.[0]).toBeCloseTo(0, 5)
  })
  it('joined passes are fewer and do the same', async () => {
    const kernels = await testKernels()
    const turn: Matrix3 = [0.8, 0.15, 0.05, 0.1, 0.7, 0.2, 0.02, 0.08, 0.9]
    const passes: readonly PointPass[] = [
      matrixPass(turn),
      matrixPass(rgbToRgb(workingSpace, colourSpaces.srgb)),
      { kernel: 'toOklab', parameters: [...workingToCone, ...coneToLab] },
      { kernel: 'fromOklab', parameters: [...labToCone, ...coneToWorking] },
      matrixPass(turn),
      { kernel: 'toEncoded', parameters: [] },
      matrixPass(turn),
    ]
    const fewer = joined(passes)
    expect(fewer.map(({ kernel }) => kernel)).toEqual(['toOklab', 'fromOklab', 'toEncoded', 'matrix'])
    expect(worstOf(run(kernels, colours, fewer), run(kernels, colours, passes))).toBeLessThan(1e-5)
  })
  it('encoded colours go to an sRGB file without the way through linear light, and come out the same', async () => {
    const kernels = await testKernels()
    // Some far outside the range of the file.
    const wild = colours.map((plane, i) => plane.map((value, n) => (n % 3 === 0 ? value * 2.4 - 0.6 + i * 0.2 : value)))
    const start = run(kernels, wild, conversion('linear', 'opponent'))
    for (const gamut of ['hue', 'clip'] as const) {
      const quick = run(kernels, start, outputPasses('opponent', 'srgb', gamut))
      const slow = run(kernels, run(kernels, start, conversion('opponent', 'linear')), outputPasses('linear', 'srgb', gamut))
      expect(worstOf(quick, slow)).toBeLessThan(0.2 / 255)
    }
  })
})

describe('reading codes into the domain that is wanted first', () => {
  const picture = busyPicture(60, 20)
  const deep: InterleavedSource = { ...picture, pixels: Uint16Array.from(picture.pixels, (code) => code * 257 + 31) }
  const noise = newStep('noise-reduction', 'n', { level: 'given', noiseLevels: 6 })
  const copied = ({ heap }: Kernels, planes: Planes): Float32Array[] =>
    planes.channels.map((at) => {
      const rows = heap.f32(at, planes.stride * planes.height)
      return Float32Array.from({ length: 60 * 20 }, (_, i) => rows[Math.floor(i / 60) * planes.stride + (i % 60)] as number)
    })

  it.each([
    ['8 bits', picture],
    ['16 bits', deep],
  ])('gives what linear light would have become, %s', async (_, source) => {
    const kernels = await testKernels()
    const plan = planRender(source, resolveSteps([noise], source.size), 'full')
    expect(plan.start.domain).toBe('opponent')
    expect(plan.stages.map(({ work }) => work.kind)).toEqual(['neighbourhood'])
    kernels.heap.scope(() => {
      const rect = { x: 0, y: 0, width: 60, height: 20 }
      const [straight, around] = [0, 1].map(() => allocatePlanes(kernels.heap, 60, 20)) as [Planes, Planes]
      readSource(kernels, plan, rect, straight)
      readSource(kernels, planRender(source, [], 'full'), rect, around)
      for (const pass of readyPasses(kernels, conversion('linear', 'opponent'))) pass.run(...around.channels, around.stride * 20)
      expect(worstOf(copied(kernels, straight), copied(kernels, around))).toBeLessThan(2e-5)
    })
  })
  it('is only done for files with those primaries, and where nothing needs linear light before', () => {
    const wide = { ...picture.colour, toWorking: rgbToRgb(colourSpaces['display-p3'], workingSpace) }
    expect(domainOfCodes(wide, 'opponent')).toBe('linear')
    expect(domainOfCodes(picture.colour, 'encoded')).toBe('linear')
    const startOf = (...steps: readonly ReturnType<typeof newStep>[]) =>
      planRender(picture, resolveSteps(steps, picture.size), 'full').start.domain
    expect(startOf(newStep('crop', 'c', { ratioWidth: 1, ratioHeight: 1 }), noise)).toBe('opponent')
    expect(startOf(newStep('resize', 'r', { by: 'longEdge', lengthPx: 30 }), noise)).toBe('linear')
    expect(startOf(newStep('exposure', 'e', { exposureEv: 0.5 }), noise)).toBe('linear')
  })
})

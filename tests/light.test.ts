import { describe, expect, it } from 'vitest'
import { findOperation, type Settings } from '@/operations'
import { balancedByItself } from './balanced'
import { testKernels } from './kernels'
import { demoScenes } from './lit-pictures'
import { codesOf, type LitScene, litScene } from './lit-scenes'

/*
 * White balance by itself, against lights that were computed in double precision (Bradford, ICC.1:2022, annex E; daylight of CIE 15:2018, lamps
 * on the Planckian locus). What it knows of surfaces was learned from the demo's scenes and from invented ones; the invented ones here are
 * others. bench/train-light.ts tells how it does on demo scenes that were left out.
 */

const median = (values: readonly number[]): number => values.toSorted((a, b) => a - b)[values.length >> 1] ?? Number.NaN
const balance = async (scene: LitScene, temperatureK: number, settings: Settings = {}) =>
  balancedByItself(await testKernels(), scene, temperatureK, settings)

describe('white balance by itself, from known surfaces', () => {
  it('finds the light of the demo’s scenes, from lamps to shade, and makes none worse', async () => {
    // Every third: the benchmark looks at all of them.
    const scenes = (await demoScenes()).filter(({ isFire }) => !isFire).filter((_, i) => i % 3 === 0)
    const off: number[] = []
    for (const temperatureK of [3000, 4000, 6500, 9000])
      for (const scene of scenes) {
        const { off: angleOff, untouched } = await balance(scene, temperatureK)
        expect(angleOff).toBeLessThan(untouched + 2)
        off.push(angleOff)
      }
    expect(median(off)).toBeLessThan(3)
    // The greys alone refuse every lamp: what is found here is not found by them.
    const [first] = scenes
    if (!first) throw new Error('The demo lacks pictures')
    expect((await balance(first, 3000, { estimate: 'greys' })).off).toBeGreaterThan(25)
  })
  it('leaves fires their glow', async () => {
    for (const scene of await demoScenes((_, shown) => shown.startsWith('kiln'))) expect((await balance(scene, 6500)).off).toBeLessThan(2)
  })
  it('rather leaves an invented scene that it never saw than to spoil it, in nine of ten cases', async () => {
    const scenes = Array.from({ length: 40 }, (_, i) => litScene(9000 + i)).filter(({ hasNeutral }) => hasNeutral)
    const worse: boolean[] = []
    for (const scene of scenes)
      for (const temperatureK of [3200, 5000, 6500]) {
        const { off, untouched } = await balance(scene, temperatureK)
        worse.push(off > untouched + 2)
      }
    expect(worse.filter(Boolean).length / worse.length).toBeLessThan(0.1)
  })
  it('says that it is not sure, and goes ahead where it is told to', async () => {
    const all = await Promise.all(Array.from({ length: 40 }, (_, i) => balance(litScene(9000 + i), 3200)))
    const unsure = all.findIndex(({ isLeft }) => isLeft)
    expect(unsure).toBeGreaterThanOrEqual(0)
    const operation = findOperation('white-balance')
    expect(operation?.describeConstants?.(all[unsure]?.constants ?? {})).toBe('not sure of the light: left as it is')
    const bold = await balance(litScene(9000 + unsure), 3200, { surePercent: 0 })
    expect(bold.isLeft).toBe(false)
    expect(operation?.describeConstants?.(bold.constants)).toMatch(/^light /)
  })
  it('is told of scenes that are the same every time', () => expect(codesOf(litScene(9001))).toEqual(codesOf(litScene(9001))))
})

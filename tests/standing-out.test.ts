import { median } from 'd3'
import { beforeAll, describe, expect, it } from 'vitest'
import type { Shift } from '@/pixels/likeness'
import { markKinds, marksOfSet } from '@/pixels/traits'
import { cutALittle, cutByEye, type DemoSets, demoSets, likeNeighbours, marked, truth } from './demo-sets'
import { testKernels } from './kernels'

/*
 * What stands out, and what brings a picture among its neighbours, against the true values of the demo's pictures: demo/truth.json.
 */

let sets: DemoSets
beforeAll(async () => {
  sets = await demoSets(await testKernels())
}, 300_000)

describe('what stands out of the demo’s sets', () => {
  it('a frame that cuts the subject is told of the squares that do by more than a brim, and of no other', () => {
    expect(marked(sets, /cuts off/, 'vessels')).toEqual(cutByEye.filter((name) => !cutALittle.includes(name)))
  })
  it('the picture out of focus is told, and no other', () => {
    expect(marked(sets, /softer/)).toEqual(['0424'])
    expect(truth['TLK27_0424.jpg']?.defocus_radius_px).toBe(2.6)
  })
  it('the tilted picture is told by its tilt, and no other', () => {
    expect(marked(sets, /tilted by 2\.[0-2]°/)).toEqual(['0410'])
    expect(marked(sets, /tilted/)).toEqual(['0410'])
    expect(truth['TLK27_0410.jpg']?.tilt_degrees).toBe(2.1)
  })
  it('each is told no more once it is switched off', () => {
    const set = (sets.get('vessels') ?? []).map(({ traits }) => traits)
    expect(set.flatMap(marksOfSet(set, new Set(markKinds)))).toEqual([])
  })
})

describe('like its neighbours, through the shop’s macro', () => {
  let solved: ReadonlyMap<string, Shift>
  beforeAll(() => {
    solved = likeNeighbours(sets)
  }, 300_000)
  const evOf = (name: string): number => solved.get(name)?.ev ?? Number.NaN

  it('brings the wrongly exposed within 0.15 EV of where they should be, in the median', () => {
    const wrong = Object.entries(truth).filter(([, { ev_error }]) => ev_error !== 0)
    expect(wrong).toHaveLength(4)
    const left = wrong.map(([name, { ev_error }]) => Math.abs(ev_error + evOf(name)))
    expect(median(left)).toBeLessThanOrEqual(0.15)
    // The worst of them is cut off white over two thirds: of that nobody can tell how bright it was.
    expect(Math.max(...left)).toBeLessThan(0.7)
  })
  it('moves no picture that was right by more than 0.1 EV', () => {
    const right = Object.entries(truth).filter(([, { ev_error }]) => ev_error === 0)
    expect(right).toHaveLength(28)
    expect(right.filter(([name]) => !(Math.abs(evOf(name)) <= 0.1)).map(([name]) => name)).toEqual([])
  })
  it('leaves the wrongly exposed their light’s colour, which is their neighbours’ within 1.5°', () => {
    // As an angle from grey, a cast of 0.04 in the logarithm to the base of 2 is a degree.
    const casts = Object.entries(truth).flatMap(([name, { ev_error }]) => {
      const { red = 1, blue = 1 } = solved.get(name) ?? {}
      return ev_error === 0 ? [] : [Math.hypot(red, blue)]
    })
    expect(Math.max(...casts)).toBeLessThan(0.06)
  })
})

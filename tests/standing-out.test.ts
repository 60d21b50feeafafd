import { readFileSync } from 'node:fs'
import { basename } from 'node:path'
import { median } from 'd3'
import { beforeAll, describe, expect, it } from 'vitest'
import { likeSiblings } from '@/engine/like-siblings'
import { Sample } from '@/engine/sample'
import { finishedTraits } from '@/engine/traits'
import { decodePicture } from '@/files/decode'
import { readFacts } from '@/files/facts'
import { completeSteps, readyStep, type Step } from '@/macros/step'
import { relit } from '@/operations'
import { detailOf } from '@/pixels/detail'
import { cloudOf, type Shift } from '@/pixels/likeness'
import { marksOfSet, type PictureTraits } from '@/pixels/traits'
import { demoMacros } from '../demo/macros'
import { testKernels } from './kernels'

/*
 * What stands out, and what brings a picture among its neighbours, against the true values of the demo's pictures: demo/truth.json.
 */

interface Truth {
  readonly folder: string
  readonly ev_error: number
  readonly tilt_degrees: number
  readonly defocus_radius_px: number
}
const truth: Readonly<Record<string, Truth>> = JSON.parse(readFileSync('demo/truth.json', 'utf8')).files
const shop = completeSteps(demoMacros(`${'0'.repeat(64)}/mark.png`).find(({ id }) => id === 'demo-shop-listing')?.steps ?? [])
const folders = ['vessels', 'tiles', 'kiln-and-yard'] as const
const namesIn = (folder: string): string[] =>
  Object.keys(truth)
    .filter((name) => truth[name]?.folder === folder)
    .sort()

/** Squares of the shop that cut a vessel, seen by eye at full size. */
const cutByEye = ['0415', '0419', '0425', '0440', '0441', '0444', '0445', '0447', '0448', '0449']
/** Those that cut no more than a brim off it. */
const cutALittle = ['0415', '0447', '0448']

interface Taken {
  readonly name: string
  /** Small: colours need no more. */
  readonly sample: Sample
  readonly traits: PictureTraits
}

async function take(name: string): Promise<Taken> {
  const path = `demo/pictures/${truth[name]?.folder}/${name}`
  const bytes = readFileSync(path)
  const { source } = await decodePicture(bytes, path)
  const subject = { facts: await readFacts(bytes, path), name: basename(path) }
  const kernels = await testKernels()
  const whole = new Sample(kernels, source, subject, new Map())
  const { size, pixels: values } = whole.render(shop)
  const detail = detailOf({ size: source.size, values: source.pixels, channels: 3 })
  const traits = { ...finishedTraits({ size, values, channels: 4 }, { hasDetail: false }), ...detail, cutPercent: whole.cutPercent(shop) }
  return { name, sample: new Sample(kernels, source, subject, new Map(), 256), traits }
}

const sets = new Map<string, readonly Taken[]>()
beforeAll(async () => {
  for (const folder of folders) {
    const set: Taken[] = []
    for (const name of namesIn(folder)) set.push(await take(name))
    sets.set(folder, set)
  }
}, 120_000)
const setOf = (folder: string): readonly Taken[] => sets.get(folder) ?? []
/** Numbers of pictures that have such a mark. */
const marked = (folder: string, words: RegExp): string[] => {
  const set = setOf(folder)
  const marksOf = marksOfSet(set.map(({ traits }) => traits))
  return set.filter(({ traits }) => marksOf(traits).some((mark) => words.test(mark))).map(({ name }) => name.slice(6, 10))
}

describe('what stands out of the demo’s sets', () => {
  it('a frame that cuts the subject is told of the squares that do by more than a brim, and of no other', () => {
    expect(marked('vessels', /cuts off/)).toEqual(cutByEye.filter((name) => !cutALittle.includes(name)))
  })
  it('the picture out of focus is told, and no other', () => {
    expect(folders.flatMap((folder) => marked(folder, /softer/))).toEqual(['0424'])
    expect(truth['TLK27_0424.jpg']?.defocus_radius_px).toBe(2.6)
  })
  it('the tilted picture is told by its tilt, and no other', () => {
    expect(folders.flatMap((folder) => marked(folder, /tilted by 2\.[0-2]°/))).toEqual(['0410'])
    expect(folders.flatMap((folder) => marked(folder, /tilted/))).toEqual(['0410'])
    expect(truth['TLK27_0410.jpg']?.tilt_degrees).toBe(2.1)
  })
  it('each is told no more once it is switched off', () => {
    const set = setOf('vessels').map(({ traits }) => traits)
    const marksOf = marksOfSet(set, new Set(['cut', 'soft', 'tilt', 'noise', 'light', 'colour', 'clipped']))
    expect(set.flatMap(marksOf)).toEqual([])
  })
})

describe('like its neighbours, through the shop’s macro', () => {
  const solved = new Map<string, Shift>()
  const light = (taken: Taken, shift: Shift) => {
    const steps: Step[] = [...relit(shift).map((made, i) => readyStep(made, `relit-${i}`)), ...shop]
    const { size, pixels } = taken.sample.render(steps)
    return { size, values: pixels, channels: 4 }
  }
  const none: Shift = { ev: 0, red: 0, blue: 0 }
  beforeAll(() => {
    for (const folder of folders) {
      const set = setOf(folder)
      const clouds = set.map((taken) => cloudOf(light(taken, none)))
      for (const [at, taken] of set.entries()) {
        const near = set
          .map((_, i) => i)
          .filter((i) => i !== at)
          .sort((a, b) => Math.abs(a - at) - Math.abs(b - at))
          .slice(0, 8)
        solved.set(
          taken.name,
          likeSiblings(
            (shift) => light(taken, shift),
            near.map((i) => clouds[i] as (typeof clouds)[number]),
          ),
        )
      }
    }
  }, 120_000)

  it('brings the wrongly exposed within 0.15 EV of where they should be, in the median', () => {
    const wrong = Object.entries(truth).filter(([, { ev_error }]) => ev_error !== 0)
    expect(wrong).toHaveLength(4)
    const left = wrong.map(([name, { ev_error }]) => Math.abs(ev_error + (solved.get(name)?.ev ?? 0)))
    expect(median(left)).toBeLessThanOrEqual(0.15)
    // The worst of them is cut off white over two thirds: of that nobody can tell how bright it was.
    expect(Math.max(...left)).toBeLessThan(0.7)
  })
  it('moves no picture that was right by more than 0.1 EV', () => {
    const right = Object.entries(truth).filter(([, { ev_error }]) => ev_error === 0)
    expect(right).toHaveLength(28)
    for (const [name] of right)
      expect([name, Math.abs(solved.get(name)?.ev ?? 0)]).toEqual([name, expect.toSatisfy((ev: number) => ev <= 0.1)])
  })
  it('gives none of the wrongly exposed another colour of light: they have their neighbours’ within 1.5°', () => {
    // Casts of red and blue over green, as angles from grey: 0.04 in the logarithm to 2 is a degree.
    for (const [name, { ev_error }] of Object.entries(truth))
      if (ev_error !== 0) expect(Math.hypot(solved.get(name)?.red ?? 1, solved.get(name)?.blue ?? 1)).toBeLessThan(0.06)
  })
})

import { readFileSync } from 'node:fs'
import { basename } from 'node:path'
import type { Kernels } from '@kernels/binding'
import { likeSiblings } from '@/engine/like-siblings'
import { Sample } from '@/engine/sample'
import { finishedTraits } from '@/engine/traits'
import { decodePicture } from '@/files/decode'
import { readFacts } from '@/files/facts'
import { completeSteps, readyStep } from '@/macros/step'
import { relit } from '@/operations'
import { detailOf } from '@/pixels/detail'
import { cloudOf, type Shift } from '@/pixels/likeness'
import { marksOfSet, type PictureTraits } from '@/pixels/traits'
import { demoMacros } from '../demo/macros'

/* The demo's three sets put through the shop's macro, as a proof sees them: for tests and the benchmark, beside their true values. */

interface Truth {
  readonly folder: string
  readonly ev_error: number
  readonly tilt_degrees: number
  readonly defocus_radius_px: number
}
export const truth: Readonly<Record<string, Truth>> = JSON.parse(readFileSync('demo/truth.json', 'utf8')).files
const shop = completeSteps(demoMacros(`${'0'.repeat(64)}/mark.png`).find(({ id }) => id === 'demo-shop-listing')?.steps ?? [])
const folders = ['vessels', 'tiles', 'kiln-and-yard'] as const

/** Squares of the shop that cut a vessel, seen by eye at full size. */
export const cutByEye = ['0415', '0419', '0425', '0440', '0441', '0444', '0445', '0447', '0448', '0449']
/** Those that cut no more than a brim off it. */
export const cutALittle = ['0415', '0447', '0448']

interface Taken {
  readonly name: string
  /** Small: colours need no more. */
  readonly sample: Sample
  readonly traits: PictureTraits
}
export type DemoSets = ReadonlyMap<string, readonly Taken[]>

async function take(kernels: Kernels, name: string): Promise<Taken> {
  const path = `demo/pictures/${truth[name]?.folder}/${name}`
  const bytes = readFileSync(path)
  const { source } = await decodePicture(bytes, path)
  const subject = { facts: await readFacts(bytes, path), name: basename(path) }
  const whole = new Sample(kernels, source, subject, new Map())
  const { size, pixels: values } = whole.render(shop)
  const detail = detailOf(kernels, { size: source.size, values: source.pixels, channels: 3 })
  const traits = {
    ...finishedTraits(kernels, { size, values, channels: 4 }, { hasDetail: false }),
    ...detail,
    cutPercent: whole.cutPercent(shop),
  }
  return { name, sample: new Sample(kernels, source, subject, new Map(), 256), traits }
}

/** The pictures of each folder, in their order. */
export async function demoSets(kernels: Kernels): Promise<DemoSets> {
  const sets = new Map<string, readonly Taken[]>()
  for (const folder of folders) {
    const names = Object.keys(truth).filter((name) => truth[name]?.folder === folder)
    const set: Taken[] = []
    for (const name of names.sort()) set.push(await take(kernels, name))
    sets.set(folder, set)
  }
  return sets
}

/** Numbers of pictures of which such words are told, folder by folder. */
export function marked(sets: DemoSets, words: RegExp, folder?: string): string[] {
  return [...sets].flatMap(([own, set]) => {
    if (folder && own !== folder) return []
    const marksOf = marksOfSet(set.map(({ traits }) => traits))
    return set.filter(({ traits }) => marksOf(traits).some((mark) => words.test(mark))).map(({ name }) => name.slice(6, 10))
  })
}

/** Eight nearest in order: the proof's neighbours. */
const neighbours = 8

/** What brings each picture among its neighbours, by name. */
export function likeNeighbours(sets: DemoSets): ReadonlyMap<string, Shift> {
  const found = new Map<string, Shift>()
  const rendered = ({ sample }: Taken, shift: Shift) => {
    const { size, pixels } = sample.render([...relit(shift).map((made, i) => readyStep(made, `relit-${i}`)), ...shop])
    return { size, values: pixels, channels: 4 }
  }
  for (const set of sets.values()) {
    const clouds = set.map((taken) => cloudOf(rendered(taken, { ev: 0, red: 0, blue: 0 })))
    for (const [at, taken] of set.entries()) {
      const near = [...clouds.keys()].filter((i) => i !== at).sort((a, b) => Math.abs(a - at) - Math.abs(b - at))
      const siblings = near.slice(0, neighbours).flatMap((i) => clouds[i] ?? [])
      found.set(
        taken.name,
        likeSiblings((shift) => rendered(taken, shift), siblings),
      )
    }
  }
  return found
}

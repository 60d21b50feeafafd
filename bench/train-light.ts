import { writeFileSync } from 'node:fs'
import { degreesBetween, type Vector3 } from '@/colour/matrix'
import {
  beforehand,
  chromaOfCell,
  filterPlaces,
  type JudgedLight,
  type LightModel,
  lightJudge,
  lightOf,
  lights,
  placeOf,
  type SeenColours,
  seenColours,
} from '@/operations/measure/light'
import { testKernels } from '../tests/kernels'
import { type CastLight, demoScenes, measured, partOf, recorded } from '../tests/lit-pictures'
import { type LitScene, litScene } from '../tests/lit-scenes'
import { seeded } from '../tests/pictures'

/*
 * Learns what surfaces look like in plain light, for white balance by itself, and writes it down: `npm run train:light`. The probability
 * of the true light is made as large as it can be (softmax over all lights, which is convex), held smooth and small. What it is worth is
 * told on scenes that were left out, in four turns.
 */

interface Sample {
  readonly name: string
  readonly turn: number
  readonly colours: SeenColours
  readonly light: CastLight
  readonly scene: LitScene
  readonly weight: number
}

const kernels = await testKernels()
const turns = 4
const plainK = 6500
const demoLightsK = [2700, 3000, 3250, 3500, 4000, 4500, 5000, 5500, 6000, plainK, 7500, 8000, 9000]
const inventedScenes = 420
/** There are but four fires in the demo, and a lamp looks much like one. */
const fireWeight = 8

async function samples(): Promise<Sample[]> {
  const random = seeded(29)
  const some: Sample[] = []
  const add = (name: string, turn: number, scene: LitScene, light: CastLight, weight = 1): void => {
    const colours = seenColours(measured(kernels, recorded(scene, scene.isFire ? { ...light, temperatureK: plainK, duv: 0 } : light)))
    if (colours) some.push({ name, turn, colours, light: scene.isFire ? { temperatureK: plainK } : light, scene, weight })
  }
  const demo = await demoScenes()
  const groups = [...new Set(demo.map(({ group }) => group))]
  for (const scene of demo) {
    // Each fire is a turn of its own: there are but four.
    const turn = (scene.isFire ? demo.filter(({ isFire }) => isFire).indexOf(scene) : groups.indexOf(scene.group)) % turns
    for (const temperatureK of scene.isFire ? [plainK, plainK] : demoLightsK) {
      add(`${scene.name} ${temperatureK}`, turn, scene, { temperatureK }, scene.isFire ? fireWeight : 1)
      const part = partOf(scene, { x: random(), y: random(), share: 0.5 + 0.35 * random() })
      add(
        `${scene.name} part`,
        turn,
        part,
        { temperatureK, duv: (random() - 0.5) * 0.01, ev: random() * 1.7 - 1 },
        scene.isFire ? fireWeight : 1,
      )
    }
  }
  for (let number = 0; number < inventedScenes; number++)
    for (let i = 0; i < 2; i++) {
      const scene = litScene(number)
      const temperatureK = random() < 0.35 ? plainK : 1e6 / (111 + random() * 259)
      add(`invented ${number}`, number % turns, scene, { temperatureK, duv: (random() + random() - 1) * 0.006 })
    }
  return some
}

const filterSize = filterPlaces.warm * filterPlaces.magenta
const before = lights.map(beforehand)
const unknowns = 2 * filterSize + (before[0]?.length ?? 0)

/** For every light, how much of the picture lies at each place of the filters: what the score is linear in. */
function placed({ cells, among }: SeenColours): Float32Array {
  const all = new Float32Array(lights.length * unknowns)
  for (const [j, { chroma: white }] of lights.entries()) {
    const row = all.subarray(j * unknowns, (j + 1) * unknowns)
    for (let i = 0; i < cells.length; i += 2) {
      const [warm, magenta] = chromaOfCell(cells, i / 2)
      const [x, y] = [placeOf(warm - white[0], 'warm'), placeOf(magenta - white[1], 'magenta')]
      const [x0, y0] = [Math.min(Math.floor(x), filterPlaces.warm - 2), Math.min(Math.floor(y), filterPlaces.magenta - 2)]
      for (const dx of [0, 1])
        for (const dy of [0, 1]) {
          const share = (dx ? x - x0 : 1 - x + x0) * (dy ? y - y0 : 1 - y + y0)
          const at = (x0 + dx) * filterPlaces.magenta + y0 + dy
          row[at] = (row[at] ?? 0) + share * (among[i] ?? 0)
          row[filterSize + at] = (row[filterSize + at] ?? 0) + share * (among[i + 1] ?? 0)
        }
    }
    row.set(before[j] ?? [], 2 * filterSize)
  }
  return all
}

const whiteOf = ({ temperatureK, duv = 0 }: CastLight) => lightOf(1e6 / temperatureK, duv).white
/** Lights this many degrees from the true one count for it, less and less. */
const tolerance = 1.5
function wanted(light: CastLight): Float64Array {
  const weights = Float64Array.from(lights, ({ white }) => Math.exp(-((degreesBetween(white, whiteOf(light)) / tolerance) ** 2) / 2))
  const sum = weights.reduce((a, b) => a + b)
  return weights.map((value) => value / sum)
}

interface Lesson {
  readonly placed: Float32Array
  readonly wanted: Float64Array
  readonly weight: number
}

const [smallness, smoothness, beforeSmallness] = [5e-4, 5e-4, 1e-3]

/** Loss by cross entropy with its penalties, and its slope. */
function slopeOf(lessons: readonly Lesson[], theta: Float64Array): { loss: number; slope: Float64Array } {
  const slope = new Float64Array(unknowns)
  const total = lessons.reduce((sum, { weight }) => sum + weight, 0)
  let loss = 0
  const scores = new Float64Array(lights.length)
  for (const { placed: x, wanted: t, weight } of lessons) {
    for (let j = 0; j < scores.length; j++) {
      let sum = 0
      for (let k = 0; k < unknowns; k++) sum += (x[j * unknowns + k] as number) * (theta[k] as number)
      scores[j] = sum
    }
    const top = Math.max(...scores)
    let sum = 0
    for (const score of scores) sum += Math.exp(score - top)
    for (let j = 0; j < scores.length; j++) {
      const logP = (scores[j] as number) - top - Math.log(sum)
      loss -= (weight / total) * (t[j] as number) * logP
      const d = (weight / total) * (Math.exp(logP) - (t[j] as number))
      if (Math.abs(d) < 1e-9) continue
      for (let k = 0; k < unknowns; k++) slope[k] = (slope[k] as number) + d * (x[j * unknowns + k] as number)
    }
  }
  const pull = (k: number, by: number): void => {
    slope[k] = (slope[k] as number) + by
  }
  for (let k = 0; k < unknowns; k++) {
    const [small, value] = [k < 2 * filterSize ? smallness : beforeSmallness, theta[k] as number]
    loss += small * value ** 2
    pull(k, 2 * small * value)
    if (k >= 2 * filterSize) continue
    for (const next of [k + 1, k + filterPlaces.magenta]) {
      const isSameRow = next !== k + 1 || (k % filterPlaces.magenta) + 1 < filterPlaces.magenta
      if (!isSameRow || next >= (k < filterSize ? filterSize : 2 * filterSize)) continue
      const step = (theta[next] as number) - value
      loss += smoothness * step ** 2
      pull(next, 2 * smoothness * step)
      pull(k, -2 * smoothness * step)
    }
  }
  return { loss, slope }
}

/** Adam (Kingma & Ba 2015) with a rate that falls to nothing. */
function learn(lessons: readonly Lesson[], rounds: number): LightModel {
  const theta = new Float64Array(unknowns)
  const [mean, square] = [new Float64Array(unknowns), new Float64Array(unknowns)]
  let last = 0
  for (let round = 1; round <= rounds; round++) {
    const { loss, slope } = slopeOf(lessons, theta)
    last = loss
    const rate = 0.4 * (1 - round / rounds)
    for (let k = 0; k < unknowns; k++) {
      const g = slope[k] as number
      mean[k] = 0.9 * (mean[k] as number) + 0.1 * g
      square[k] = 0.99 * (square[k] as number) + 0.01 * g * g
      theta[k] =
        (theta[k] as number) -
        (rate * ((mean[k] as number) / (1 - 0.9 ** round))) / (Math.sqrt((square[k] as number) / (1 - 0.99 ** round)) + 1e-8)
    }
  }
  console.log(`  loss ${last.toFixed(4)}`)
  const rounded = (from: number, to: number): number[] => [...theta.subarray(from, to)].map((value) => Math.round(value * 100) / 100)
  return { filters: [rounded(0, filterSize), rounded(filterSize, 2 * filterSize)], before: rounded(2 * filterSize, unknowns) }
}

const plain: Vector3 = [1, 1, 1]
function report(judged: readonly (Sample & { readonly found: JudgedLight })[]): void {
  const row = (label: string, some: typeof judged): void => {
    if (some.length === 0) return
    const errors = some.map(({ found, light }) => degreesBetween(found.white, whiteOf(light))).sort((a, b) => a - b)
    const at = (share: number): string => (errors[Math.floor(share * (errors.length - 1))] ?? 0).toFixed(1)
    const kept = [0.8, 0.9].map((sure) => {
      const left = some.map((one) => {
        const untouched = degreesBetween(plain, whiteOf(one.light))
        const is = one.found.sureness >= sure ? degreesBetween(one.found.white, whiteOf(one.light)) : untouched
        return { is, worse: is > untouched + 2 }
      })
      const values = left.map(({ is }) => is).sort((a, b) => a - b)
      const done = some.filter(({ found }) => found.sureness >= sure).length
      return `${sure}: median ${(values[Math.floor(values.length / 2)] ?? 0).toFixed(1)}, ${Math.round((100 * done) / some.length)} % done, ${left.filter(({ worse }) => worse).length} worse`
    })
    console.log(
      `${label.padEnd(24)} ${String(some.length).padStart(4)}  median ${at(0.5)} p90 ${at(0.9)} worst ${at(1)} | ${kept.join(' | ')}`,
    )
  }
  const demo = judged.filter(({ name, scene }) => name.startsWith('TLK') && !scene.isFire)
  for (const k of demoLightsK)
    row(
      `demo ${k} K`,
      demo.filter(({ light, name }) => light.temperatureK === k && !name.endsWith('part')),
    )
  row(
    'demo, parts',
    demo.filter(({ name }) => name.endsWith('part')),
  )
  row(
    'demo, fire',
    judged.filter(({ name, scene }) => name.startsWith('TLK') && scene.isFire),
  )
  const invented = judged.filter(({ name }) => name.startsWith('invented'))
  const isPlain = ({ light }: Sample): boolean => light.temperatureK === plainK
  row(
    'invented, neutral, lit',
    invented.filter((one) => one.scene.hasNeutral && !isPlain(one)),
  )
  row(
    'invented, neutral, plain',
    invented.filter((one) => one.scene.hasNeutral && isPlain(one)),
  )
  row(
    'invented, none, lit',
    invented.filter((one) => !one.scene.hasNeutral && !one.scene.isFire && !isPlain(one)),
  )
  row(
    'invented, none, plain',
    invented.filter((one) => !one.scene.hasNeutral && !one.scene.isFire && isPlain(one)),
  )
  row(
    'invented, fire',
    invented.filter(({ scene }) => scene.isFire),
  )
  for (const one of demo.filter(
    ({ found, light }) => degreesBetween(found.white, whiteOf(light)) > degreesBetween(plain, whiteOf(light)) + 2 && found.sureness > 0.8,
  ))
    console.log(
      `  ${one.name} ${Math.round(one.light.temperatureK)} K: ${degreesBetween(one.found.white, whiteOf(one.light)).toFixed(1)}°, sureness ${one.found.sureness.toFixed(2)}`,
    )
  for (const one of judged.filter(({ name, scene }) => name.startsWith('TLK') && scene.isFire))
    console.log(`  ${one.name}: sureness ${one.found.sureness.toFixed(2)}`)
}

const all = await samples()
console.log(`${all.length} samples`)
const lessons = all.map((sample) => ({ placed: placed(sample.colours), wanted: wanted(sample.light), weight: sample.weight }))
if (!process.argv.includes('--final')) {
  const judged = []
  for (let turn = 0; turn < turns; turn++) {
    const judge = lightJudge(
      learn(
        lessons.filter((_, i) => all[i]?.turn !== turn),
        120,
      ),
    )
    for (const sample of all) if (sample.turn === turn) judged.push({ ...sample, found: judge(kernels, sample.colours) })
  }
  console.log('On scenes that were left out:')
  report(judged)
}
const model = learn(lessons, 200)
console.log('On all:')
const judge = lightJudge(model)
report(all.map((sample) => ({ ...sample, found: judge(kernels, sample.colours) })))
writeFileSync(
  'src/operations/measure/light-model.ts',
  `import type { LightModel } from './light'\n\n/** Written by bench/train-light.ts. */\nexport const lightModel: LightModel = ${JSON.stringify(model)}\n`,
)

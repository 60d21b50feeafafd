import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Kernels } from '@kernels/binding'
import { mean, median } from 'd3'
import { degreesBetween, invert, type Matrix3, transform } from '@/colour/matrix'
import { colourSpaces, rgbToRgb, workingSpace } from '@/colour/spaces'
import { type ResolvedStep, resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { decodePicture } from '@/files/decode'
import { readFacts } from '@/files/facts'
import { newStep, type Step } from '@/macros/step'
import { type Returned, thereAndBack } from '../tests/casts'
import { rankCorrelation } from '../tests/rank-correlation'
import { siblingsApart } from '../tests/siblings'
import { matchedErrors, middleLight } from './matched'
import type { Row } from './measure'

interface TrueValues {
  readonly cast_rgb_gains: readonly [number, number, number]
  readonly ev_error: number
  readonly tilt_degrees: number
  readonly noise: { readonly sigma_at_0_18: number }
}

interface Found {
  readonly path: string
  readonly name: string
  readonly truth: TrueValues
  readonly cast: number
  readonly evBefore: number
  readonly evAfter: number
  readonly tilt: number
  readonly noise: number
  readonly apart: number
}

async function examine(kernels: Kernels, path: string, name: string, truth: TrueValues): Promise<Found> {
  const bytes = readFileSync(path)
  const { source } = await decodePicture(bytes, path)
  const sampler = createSampler(kernels, source)
  const subject = { name, facts: await readFacts(bytes, path) }
  const resolve = (steps: readonly Step[]): ResolvedStep[] => resolveSteps(steps, source.size, { sampler, subject })
  const steps = [newStep('white-balance', 'w', { by: 'auto' }), newStep('full-range', 'l')]
  const automatic = resolve(steps)
  const white = transform(invert(automatic[0]?.constants.matrix as unknown as Matrix3), [1, 1, 1])
  const light = transform(rgbToRgb(workingSpace, colourSpaces.srgb), white)
  const [before, after] = [sampler.copy([]), sampler.copy(automatic)].map(middleLight) as [number, number]
  const [tilt] = resolve([newStep('straighten', 's')])
  const [noise] = resolve([newStep('noise-reduction', 'n')])
  return {
    path,
    name,
    truth,
    cast: degreesBetween(light, truth.cast_rgb_gains),
    evBefore: Math.abs(truth.ev_error),
    evAfter: Math.abs(truth.ev_error + Math.log2(after / before)),
    // The picture must be turned clockwise by its tilt.
    tilt: Math.abs(Number(tilt?.constants.degrees) - truth.tilt_degrees),
    noise: Number(noise?.constants.foundLevels),
    apart: siblingsApart(kernels, source, steps),
  }
}

/** Slope of the sRGB transfer at 18 % grey, in codes of 8 bits a unit of linear light. */
const codesPerLight = 255 * (1.055 / 2.4) * 0.18 ** (1 / 2.4 - 1)

async function thereAndBackAll(kernels: Kernels, paths: readonly string[]): Promise<Returned[]> {
  const all: Returned[] = []
  for (const path of paths) for (const temperatureK of [3200, 4500, 9000]) all.push(await thereAndBack(kernels, path, temperatureK))
  return all
}

/** How edits that adjust themselves do over the whole demo set, against its true values. */
export async function truthRows(kernels: Kernels): Promise<Row[]> {
  const truth = JSON.parse(readFileSync('demo/truth.json', 'utf8')).files as Record<string, TrueValues>
  const found: Found[] = []
  for (const entry of readdirSync('demo/pictures', { recursive: true, withFileTypes: true })) {
    const values = truth[entry.name]
    if (entry.isFile() && values) found.push(await examine(kernels, join(entry.parentPath, entry.name), entry.name, values))
  }
  const middle = (value: (one: Found) => number, some = found) => median(some, value) ?? Number.NaN
  const wrong = found.filter(({ evBefore }) => evBefore > 0.5)
  const right = found.filter(({ evBefore }) => evBefore === 0)
  const matched = await matchedErrors(
    kernels,
    found.map(({ path, name, truth: { ev_error } }) => ({ path, name, evError: ev_error })),
  )
  const matchedError = ({ name }: Found): number => matched.get(name) ?? Number.NaN
  const [cast, after] = [middle((one) => one.cast), middle((one) => one.evAfter)]
  const tilted = found.filter(({ truth: { tilt_degrees } }) => tilt_degrees !== 0)
  const worstTilt = Math.max(...found.map((one) => one.tilt))
  const correlation = rankCorrelation(
    found.map((one) => one.truth.noise.sigma_at_0_18),
    found.map((one) => one.noise),
  )
  // Brightness is the mean of three channels; the demo's camera states noise a photosite, before its demosaicking smooths it.
  const share = middle((one) => one.noise / ((one.truth.noise.sigma_at_0_18 * codesPerLight) / Math.sqrt(3)))
  const castBefore = (one: Found): number => degreesBetween([1, 1, 1], one.truth.cast_rgb_gains)
  const [untouched, meanUntouched, meanCast] = [
    middle(castBefore),
    mean(found, castBefore) ?? Number.NaN,
    mean(found, (one) => one.cast) ?? Number.NaN,
  ]
  const worse = Math.max(...found.map((one) => one.cast - castBefore(one)))
  const there = await thereAndBackAll(
    kernels,
    found.map(({ path }) => path),
  )
  return [
    {
      what: `the demo's ${found.length} pictures put into light of 3200, 4500 and 9000 K and back: mean ΔE00 of what was not cut off, hue turned at most (of 999 in 1000), colours that came out grey`,
      measured: `${(mean(there, ({ apart }) => apart) ?? Number.NaN).toFixed(2)}, ${Math.max(...there.map(({ turned }) => turned)).toFixed(1)}°, ${Math.max(...there.map(({ greyedPercent }) => greyedPercent)).toFixed(1)} %`,
      goal: '≤ 1, ≤ 5°, none',
      met: there.every(({ turned, greyedPercent }) => turned <= 5 && greyedPercent === 0) && (mean(there, ({ apart }) => apart) ?? 9) <= 1,
    },
    {
      what: `white balance by itself over ${found.length} demo pictures: angle to the true light, median and mean; where it is further off than before, at most`,
      measured: `${cast.toFixed(1)}°, ${meanCast.toFixed(1)}°; ${worse.toFixed(1)}° (untouched: ${untouched.toFixed(1)}°, ${meanUntouched.toFixed(1)}°)`,
      goal: 'median ≤ 2°, mean below untouched',
      met: cast <= 2 && meanCast < meanUntouched,
    },
    {
      what: 'auto levels after it: median exposure error at the middle tone, all / the wrongly exposed',
      measured: `${after.toFixed(2)} EV / ${middle((one) => one.evAfter, wrong).toFixed(2)} EV (before: ${middle((one) => one.evBefore).toFixed(2)} / ${middle((one) => one.evBefore, wrong).toFixed(2)} EV)`,
      // It finds black and white. How bright a picture was meant to be it can't know: that is what a reference is for.
      goal: 'all ≤ 0.3 EV',
      met: after <= 0.3,
    },
    {
      what: 'match, tone alone, to the rightly exposed neighbour: median exposure error, the wrongly exposed / the others',
      measured: `${middle(matchedError, wrong).toFixed(2)} EV / ${middle(matchedError, right).toFixed(2)} EV`,
      goal: 'wrong ones ≤ 0.7 EV',
      met: middle(matchedError, wrong) <= 0.7,
    },
    {
      what: 'siblings, five framings of each picture adjusted by themselves: ΔE00 of what they share at most, median and worst picture',
      measured: `${middle((one) => one.apart).toFixed(2)}, ${Math.max(...found.map((one) => one.apart)).toFixed(2)}`,
      goal: 'median ≤ 1',
      met: middle((one) => one.apart) <= 1,
    },
    {
      what: 'straighten by lines: error on the tilted picture, worst of all',
      measured: `${middle((one) => one.tilt, tilted).toFixed(2)}°, ${worstTilt.toFixed(2)}°`,
      goal: '≤ 0.2°',
      met: worstTilt <= 0.2,
    },
    {
      what: 'noise level found: share of the camera’s own (median), rank correlation',
      measured: `${share.toFixed(2)}, ${correlation.toFixed(2)}`,
      goal: 'correlation ≥ 0.9',
      met: correlation >= 0.9,
    },
  ]
}

import { present } from '@/base/present'
import { mapPair } from '@/base/tuples'
import type { Chromaticity } from './spaces'

/** Range in which the loci below are defined, kelvin. */
export const temperatureRangeK = { min: 2000, max: 25_000 } as const

/** CIE daylight of a correlated colour temperature, 4000–25000 K. Source: CIE 15:2018, 4.1.2 (D series). */
export function daylight(temperatureK: number): Chromaticity {
  const t = 1000 / temperatureK
  const x =
    temperatureK <= 7000
      ? -4.607 * t ** 3 + 2.9678 * t ** 2 + 0.09911 * t + 0.244063
      : -2.0064 * t ** 3 + 1.9018 * t ** 2 + 0.24748 * t + 0.23704
  return [x, -3 * x * x + 2.87 * x - 0.275]
}

/** Planckian radiator, 1667–25000 K: cubic approximation of Kim et al. (2002), coefficients from memory; within 1e-3 of the locus. */
export function planckian(temperatureK: number): Chromaticity {
  const t = 1000 / temperatureK
  const x =
    temperatureK <= 4000
      ? -0.2661239 * t ** 3 - 0.2343589 * t ** 2 + 0.8776956 * t + 0.17991
      : -3.0258469 * t ** 3 + 2.1070379 * t ** 2 + 0.2226347 * t + 0.24039
  if (temperatureK <= 2222) return [x, -1.1063814 * x ** 3 - 1.3481102 * x ** 2 + 2.18555832 * x - 0.20219683]
  if (temperatureK <= 4000) return [x, -0.9549476 * x ** 3 - 1.37418593 * x ** 2 + 2.09137015 * x - 0.16748867]
  return [x, 3.081758 * x ** 3 - 5.8733867 * x ** 2 + 3.75112997 * x - 0.37001483]
}

/** From here lamps, up to here daylight; between them one passes into the other. */
const lampEndK = 4000
const daylightStartK = 5000

/** The white that a temperature stands for: lamps below 4000 K, daylight above 5000 K. */
export function whiteOfTemperature(temperatureK: number): Chromaticity {
  if (temperatureK >= daylightStartK) return daylight(temperatureK)
  const lamp = planckian(temperatureK)
  if (temperatureK <= lampEndK) return lamp
  const share = (temperatureK - lampEndK) / (daylightStartK - lampEndK)
  const sky = daylight(temperatureK)
  return [lamp[0] + (sky[0] - lamp[0]) * share, lamp[1] + (sky[1] - lamp[1]) * share]
}

/** CIE 1960 u, v, in which distances from the locus are given. */
const toUv = ([x, y]: Chromaticity): readonly [u: number, v: number] => {
  const d = -2 * x + 12 * y + 3
  return [(4 * x) / d, (6 * y) / d]
}

/** Moves a chromaticity by `duv` across the locus in the CIE 1960 diagram; positive is greener. */
export function acrossLocus(chromaticity: Chromaticity, duv: number): Chromaticity {
  // Close to the locus, greener means larger v; its slope hardly tilts that.
  const [u, v0] = toUv(chromaticity)
  const v = v0 + duv
  const e = 2 * u - 8 * v + 4
  return [(3 * u) / e, (2 * v) / e]
}

/** Reciprocal megakelvins between two places of the locus that are looked at: straight enough between them. */
const locusStepMired = 5
const locusUv = Array.from({ length: (1e6 / temperatureRangeK.min - 1e6 / temperatureRangeK.max) / locusStepMired + 1 }, (_, i) =>
  toUv(whiteOfTemperature(1e6 / (1e6 / temperatureRangeK.max + i * locusStepMired))),
)

/** A place of the locus, and how far from it something lies in the CIE 1960 diagram: positive is greener. */
export interface LocusPlace {
  readonly kelvin: number
  readonly duv: number
}

/** The place of the locus of lamps and daylight, 2000–25000 K, that lies nearest to a chromaticity. */
export function nearestOnLocus(chromaticity: Chromaticity): LocusPlace {
  const [u, v] = toUv(chromaticity)
  let found: LocusPlace = { kelvin: temperatureRangeK.max, duv: Number.POSITIVE_INFINITY }
  for (let i = 1; i < locusUv.length; i++) {
    const [[u0, v0], [u1, v1]] = mapPair([i - 1, i], (index) => present(locusUv[index]))
    const [du, dv] = [u1 - u0, v1 - v0]
    const along = Math.min(1, Math.max(0, ((u - u0) * du + (v - v0) * dv) / (du * du + dv * dv)))
    const [offU, offV] = [u - u0 - along * du, v - v0 - along * dv]
    const distance = Math.hypot(offU, offV)
    if (distance >= Math.abs(found.duv)) continue
    const mired = 1e6 / temperatureRangeK.max + (i - 1 + along) * locusStepMired
    found = { kelvin: 1e6 / mired, duv: offV < 0 ? -distance : distance }
  }
  return found
}

/** How far a chromaticity lies from the locus, to either side. */
export const fromLocus = (chromaticity: Chromaticity): number => Math.abs(nearestOnLocus(chromaticity).duv)

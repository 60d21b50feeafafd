import { type Curve, srgbCurve } from './curve'

/** sign(x) · (|x| < cut ? slope·|x| : gain·|x|^exponent − offset), from linear light to an encoded value. */
export interface PowerLaw {
  readonly cut: number
  readonly slope: number
  readonly gain: number
  readonly exponent: number
  readonly offset: number
}

/**
 * A transfer function between an encoded value and linear light, both nominally 0–1.
 * Below 0 every function is continued oddly (f(−x) = −f(x)), above 1 by its own formula,
 * so that out-of-range values survive a round trip.
 */
export interface Transfer {
  readonly id: 'srgb' | 'power'
  readonly law: PowerLaw
  /** The way back as an ICC profile declares it. */
  readonly curve: Curve
  /** Encoded → linear light. */
  decode(encoded: number): number
  /** Linear light → encoded. */
  encode(linear: number): number
}

const odd =
  (f: (x: number) => number) =>
  (x: number): number =>
    x < 0 ? -f(-x) : f(x)

const powerLaw = (id: Transfer['id'], law: PowerLaw, curve: Curve): Transfer => ({
  id,
  law,
  curve,
  decode: odd((v) => (v < law.slope * law.cut ? v / law.slope : ((v + law.offset) / law.gain) ** (1 / law.exponent))),
  encode: odd((x) => (x < law.cut ? law.slope * x : law.gain * x ** law.exponent - law.offset)),
})

/** IEC 61966-2-1:1999, clauses 5.2 and 5.3, whose two breaks are given as rounded numbers. */
export const srgbTransfer: Transfer = {
  ...powerLaw('srgb', { cut: 0.0031308, slope: 12.92, gain: 1.055, exponent: 1 / 2.4, offset: 0.055 }, srgbCurve),
  decode: odd((v) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)),
  encode: odd((x) => (x <= 0.0031308 ? x * 12.92 : 1.055 * x ** (1 / 2.4) - 0.055)),
}

/** A pure power law, as in IEC 61966-2-5 (opRGB: exponent 563/256). */
export const gammaTransfer = (exponent: number): Transfer =>
  powerLaw(
    'power',
    { cut: 0, slope: 1, gain: 1, exponent: 1 / exponent, offset: 0 },
    { kind: 'parametric', type: 0, parameters: [exponent] },
  )

const alpha = 1.09929682680944
const beta = 0.018053968510807

/** ITU-R BT.2020-2, table 4, the exact constants of its note. */
export const bt2020Transfer: Transfer = powerLaw(
  'power',
  { cut: beta, slope: 4.5, gain: alpha, exponent: 0.45, offset: alpha - 1 },
  { kind: 'parametric', type: 3, parameters: [1 / 0.45, 1 / alpha, (alpha - 1) / alpha, 1 / 4.5, 4.5 * beta] },
)

/** ISO 22028-2:2013 (ROMM RGB), from memory: slope 16 below 1/512, exponent 1/1.8 above. */
export const rommTransfer: Transfer = powerLaw(
  'power',
  { cut: 1 / 512, slope: 16, gain: 1, exponent: 1 / 1.8, offset: 0 },
  { kind: 'parametric', type: 3, parameters: [1.8, 1, 0, 1 / 16, 1 / 32] },
)

/**
 * A transfer function between an encoded value and linear light, both nominally 0–1.
 * Below 0 every function is continued oddly (f(−x) = −f(x)), above 1 by its own formula,
 * so that out-of-range values survive a round trip.
 */
export interface Transfer {
  readonly id: 'srgb' | 'gamma'
  /** Encoded → linear light. */
  decode(encoded: number): number
  /** Linear light → encoded. */
  encode(linear: number): number
}

const odd =
  (f: (x: number) => number) =>
  (x: number): number =>
    x < 0 ? -f(-x) : f(x)

/** IEC 61966-2-1:1999, clauses 5.2 and 5.3. */
export const srgbTransfer: Transfer = {
  id: 'srgb',
  decode: odd((v) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)),
  encode: odd((x) => (x <= 0.0031308 ? x * 12.92 : 1.055 * x ** (1 / 2.4) - 0.055)),
}

/** A pure power law, as in IEC 61966-2-5 (opRGB: exponent 563/256). */
export const gammaTransfer = (exponent: number): Transfer => ({
  id: 'gamma',
  decode: odd((v) => v ** exponent),
  encode: odd((x) => x ** (1 / exponent)),
})

export const blockEdge = 8

/** Brightness nodes of the factor table, 0 … 1. */
export const factorNodes = 17
/** Spans between them. */
export const brightnessBins = factorNodes - 1
/** Frequencies are told apart by their distance from the constant one, rounded: 1 … 10 for blocks of 8. */
export const frequencyRings = 10
/** Reduced copies by 1, 2, 4, 8. */
export const noiseLevels = 4

/** Ring of each of the 64 frequencies, index 8·across + down; −1 for the mean, which is never shrunk. */
export const ringOf: readonly number[] = Array.from({ length: 64 }, (_, i) =>
  i === 0 ? -1 : Math.min(frequencyRings, Math.round(Math.hypot(i >> 3, i & 7))) - 1,
)

/**
 * What noise looks like: standard deviations of the coefficients of an orthonormal 8 × 8 cosine transform of the encoded picture, for
 * brightness and two colour differences, at each reduction, by frequency ring; and how they change with brightness.
 */
export interface NoiseProfile {
  /** [channel][level][ring] */
  readonly deviations: readonly (readonly (readonly number[])[])[]
  /** Factors at brightness 0, 1/16 … 1. */
  readonly factors: readonly number[]
}

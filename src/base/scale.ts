export const clamp = (value: number, low: number, high: number): number => Math.min(high, Math.max(low, value))

export const tenth = (value: number): number => Math.round(value * 10) / 10

/** 0 up to `from`, 1 from `to` on, and without a kink between them: 3t² − 2t³. */
export function smoothStep(value: number, from: number, to: number): number {
  const t = clamp((value - from) / (to - from), 0, 1)
  return t * t * (3 - 2 * t)
}

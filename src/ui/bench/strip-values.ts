import type { NumberSetting } from '@/operations'

/** A test strip under way on the selected step. Spans are shares of the slider's length to either side of the present value. */
export interface Strip {
  readonly setting: string
  readonly span: number
  /** A second setting, down the strip. */
  readonly second: string | null
}

export const stripLimits = { start: 0.15, narrowest: 0.01, widest: 0.6, factor: 1.6 } as const

const decimals = (step: number): number => Math.max(0, -Math.floor(Math.log10(step) + 1e-9))

/**
 * Values around the present one at even distances on the slider, ascending, each once: near an end of the range the strip moves
 * inwards, so that it always has `count` of them where the range has room.
 */
export function stripValues(setting: NumberSetting, value: number, span: number, count: number): number[] {
  const { min, max, step, logarithmic } = setting
  const toShare = (number: number): number => (logarithmic ? Math.log(number / min) / Math.log(max / min) : (number - min) / (max - min))
  const fromShare = (share: number): number => {
    const raw = logarithmic ? min * (max / min) ** share : min + share * (max - min)
    return Number(Math.min(max, Math.max(min, Math.round(raw / step) * step)).toFixed(decimals(step)))
  }
  const middle = Math.min(1 - Math.min(span, 0.5), Math.max(Math.min(span, 0.5), toShare(value)))
  const values = Array.from({ length: count }, (_, i) => fromShare(middle + span * ((2 * i) / (count - 1) - 1)))
  return [...new Set(values)]
}

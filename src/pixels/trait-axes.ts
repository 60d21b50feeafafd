import { median } from 'd3'
import type { PictureTraits } from './traits'

/** Something that the pictures of a set are laid out by. */
export interface TraitAxis {
  readonly label: string
  readonly unit: string
  of(traits: PictureTraits): number | undefined
  /** Siblings differ by this much anyway. */
  readonly usual: number
}

export const traitAxes = {
  lightness: { label: 'Lightness', unit: 'L*', of: ({ lightness }) => lightness, usual: 14 },
  warmth: { label: 'Warmth', unit: 'b*', of: ({ b }) => b, usual: 9 },
  contrast: { label: 'Contrast', unit: 'L*', of: ({ contrast }) => contrast, usual: 8 },
  clipped: { label: 'Clipped', unit: '%', of: ({ brightPercent, darkPercent }) => brightPercent + darkPercent, usual: 2 },
  sharpness: { label: 'Sharpness', unit: '%', of: ({ sharpnessPercent }) => sharpnessPercent, usual: 20 },
  noise: { label: 'Noise', unit: 'levels', of: ({ noiseLevels }) => noiseLevels, usual: 0.8 },
  cut: { label: 'Subject cut off', unit: '%', of: ({ cutPercent }) => cutPercent, usual: 3.5 },
} as const satisfies Readonly<Record<string, TraitAxis>>

export type TraitAxisId = keyof typeof traitAxes

/** Beyond this many times what half of the siblings are off, one is not among them any more. */
const times = 4.5

/** Between which values a set's pictures are like each other; nothing where there are fewer than three. */
export function siblingsBand(values: readonly number[], { usual }: TraitAxis): readonly [from: number, to: number] | undefined {
  if (values.length < 3) return undefined
  const middle = median(values) ?? 0
  const half = Math.max(usual, times * (median(values, (value) => Math.abs(value - middle)) ?? 0))
  return [middle - half, middle + half]
}

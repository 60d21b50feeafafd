import type { SampleLook } from './worker/sample'

/** Clipped shares that somebody would see, in per cent. */
const noticeable = { bright: 1, dark: 2 } as const
/** Distance in CIE Lab from the middle of the set beyond which a sample is unlike its siblings. */
const unlike = { lightness: 14, colour: 9 } as const
/** Fewer samples have no middle. */
const fewest = 3

const median = (values: readonly number[]): number => values.toSorted((a, b) => a - b)[values.length >> 1] ?? 0

/** What stands out about a sample among the others, in words; nothing where all is well. */
export function marksOf(own: SampleLook, all: readonly SampleLook[]): string[] {
  const marks: string[] = []
  if (own.brightPercent >= noticeable.bright) marks.push(`${own.brightPercent.toFixed(0)} % clipped bright`)
  if (own.darkPercent >= noticeable.dark) marks.push(`${own.darkPercent.toFixed(0)} % clipped dark`)
  if (all.length < fewest) return marks
  const lightness = own.lightness - median(all.map((look) => look.lightness))
  if (Math.abs(lightness) > unlike.lightness) marks.push(lightness > 0 ? 'brighter than the others' : 'darker than the others')
  const colour = Math.hypot(own.a - median(all.map((look) => look.a)), own.b - median(all.map((look) => look.b)))
  if (colour > unlike.colour) marks.push('another colour than the others')
  return marks
}

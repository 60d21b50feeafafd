import { plainNumber, shortNumber } from '@/base/format'
import { defineOperation } from '../declare/operation'
import { choice, number, renamed } from '../declare/settings'
import { deviationCodes, measureNoise, noiseOfKind, whiteNoise } from '../measure/noise'
import { editionSetting, withEdition } from '../support/editions'
import { factorNodes, frequencyRings, type NoiseProfile, noiseLevels } from '../support/noise-profile'
import { type ShrinkAmounts, type Shrinking, shrinkReach, type Way } from '../support/shrink-areas'
import { shrinkNoise } from '../support/shrinkage'

/** Copies of brightness that are cleaned: full size and half. */
const brightnessCopies = 2
/** Colour blotches up to this size need this many reduced copies. */
const colourLevels = { small: 2, medium: 3, large: 4 } as const

/** Thresholds in deviations, about 2.7 to 3, which is what the literature settles on for hard ones (Dabov et al. 2007). */
const thresholdRange = { smooth: 3.7, fine: 2.2 } as const
/** As at first. Blocks then counted alike at their ends, and with stricter thresholds they would have shown. */
const firstThresholds = { smooth: 3.45, fine: 2.2 } as const
/** Colour has little detail of its own: 0.3 dB at 15 codes. */
const colourThreshold = 1.2

/** Deviation in codes of 8 bits at ISO 100, growing with the root of ISO: what a sensor of middling size gives (common practice). */
const codesAtIso100 = 0.9

/** Above this many codes a quick step looks twice at brightness too, which then may be done with fewer blocks. */
const strongLevels = 4
/** Above this, a quick step, whose blocks are few, is stricter with each. A thorough one, as at first, lays them closer together. */
const overwhelmingLevels = 20
/** What noise leaves in one of two blocks stays in sight: 0.1 dB and 0.02 of SSIM at 50. */
const strictness = 1.15

/**
 * Compression takes the fine part of noise away where it is weak, and what it leaves stands out: 0.1 dB and 0.001 of SSIM at quality 85.
 * Told by what half-size copies have of their highest frequencies, against their middle ones.
 */
function compressedStrictness({ deviations }: NoiseProfile): number {
  const half = deviations[0]?.[1] ?? []
  const left = (half[frequencyRings - 1] ?? 0) / Math.max(half[4] ?? 0, 1e-9)
  return 1 + 0.1 * Math.min(1, Math.max(0, (0.4 - left) / 0.15))
}

const once = {
  staggered: { step: 4, isStaggered: true, passes: 1 },
  every4: { step: 4, isStaggered: false, passes: 1 },
  every2: { step: 2, isStaggered: false, passes: 1 },
} as const satisfies Record<string, Way>
const twice = {
  staggered: { ...once.staggered, passes: 2 },
  every4: { ...once.every4, passes: 2 },
  every2: { step: 2, isStaggered: false, passes: 2 },
} as const satisfies Record<string, Way>

const grouped: Way = { ...twice.every4, isGrouped: true }

type Ways = Pick<Shrinking, 'whole' | 'last'>

interface Wish {
  readonly care: string
  /** In codes. */
  readonly found: number
  /** As at first: blocks on the smallest copy of brightness lay as far apart as on the picture, and dark edges came out in steps. */
  readonly first: boolean
}

/** Where blocks lie, and whether a second pass follows. A thorough one takes four times the time, for 0.6 dB at 15. */
function waysFor({ care, found, first }: Wish): { readonly brightness: Ways; readonly colour: Ways } {
  if (care === 'thorough') {
    const colour = { whole: twice.every4, last: twice.every4 }
    if (!first) return { brightness: { whole: grouped, last: twice.every2 }, colour }
    const closest = found > overwhelmingLevels ? twice.every2 : twice.every4
    return { brightness: { whole: closest, last: closest }, colour }
  }
  const colour = { whole: once.staggered, last: twice.every4 }
  // A copy of a quarter of the pixels: closer blocks cost it less than a tenth of the time, and bring 0.1 dB.
  if (found <= strongLevels) return { brightness: { whole: once.every4, last: first ? once.every4 : once.every2 }, colour }
  return { brightness: { whole: twice.staggered, last: twice.every4 }, colour }
}

/** Noise is told at this brightness: the encoded value of 18 % grey. */
const middleGrey = 0.46

/** [channel][level][ring] ↔ one row of numbers. */
const flatten = ({ deviations }: NoiseProfile): number[] => deviations.flat(2)
const unflatten = (numbers: readonly number[], factors: readonly number[]): NoiseProfile => ({
  factors,
  deviations: [0, 1, 2].map((channel) =>
    Array.from({ length: noiseLevels }, (_, level) => {
      const start = (channel * noiseLevels + level) * frequencyRings
      return numbers.slice(start, start + frequencyRings)
    }),
  ),
})

export const noiseReduction = defineOperation({
  id: 'noise-reduction',
  name: 'Noise reduction',
  group: 'noise',
  purpose: 'Take the noise that each picture is measured to have, and no more.',
  settings: {
    brightnessNoisePercent: number({
      label: 'Brightness noise',
      unit: '%',
      min: 0,
      max: 100,
      step: 1,
      default: 85,
      help: 'Share of the brightness noise that is taken. A little that stays looks natural; of strong noise less stays.',
    }),
    colourNoisePercent: number({
      label: 'Colour noise',
      unit: '%',
      min: 0,
      max: 100,
      step: 1,
      default: 100,
      help: 'Share of the colour noise that is taken.',
    }),
    keepTexturePercent: number({
      label: 'Keep texture',
      unit: '%',
      min: 0,
      max: 100,
      step: 1,
      default: 50,
      help: 'Higher keeps fainter texture, and with it some noise.',
    }),
    blotches: choice({
      label: 'Blotch size',
      options: [
        { value: 'small', label: 'Up to 16 px' },
        { value: 'medium', label: 'Up to 32 px' },
        { value: 'large', label: 'Up to 64 px' },
      ],
      default: 'medium',
      help: 'The largest colour blotches that are taken.',
    }),
    care: choice({
      label: 'Care',
      options: [
        { value: 'quick', label: 'Quick' },
        { value: 'thorough', label: 'Thorough' },
      ],
      default: 'quick',
      help: 'Thorough looks twice at everything, at similar places together: cleaner, in four times the time. Worth it for large prints of noisy pictures.',
    }),
    level: choice({
      label: 'Level',
      options: [
        { value: 'measured', label: 'Measured' },
        { value: 'iso', label: 'By ISO' },
        { value: 'given', label: 'Given' },
      ],
      default: 'measured',
      help: 'Where the noise level comes from; what kind of noise it is, the picture tells. Pictures without an ISO are measured.',
    }),
    noiseLevels: number({
      label: 'Noise',
      unit: 'levels',
      min: 0.1,
      max: 60,
      step: 0.1,
      default: 4,
      logarithmic: true,
      help: 'Standard deviation of the noise in each channel, on the scale of 0–255.',
      shownWhen: { setting: 'level', is: ['given'] },
    }),
    edition: editionSetting('At first, texture was taken for noise, fine colour went grey, and dark edges came out in steps.'),
  },
  upgrade: (old) =>
    withEdition(
      renamed(old, {
        luminancePercent: 'brightnessNoisePercent',
        colourPercent: 'colourNoisePercent',
        detailPercent: 'keepTexturePercent',
      }),
    ),
  neutral: { brightnessNoisePercent: 0, colourNoisePercent: 0 },
  method:
    'Shrinkage of overlapping 8 × 8 cosine transforms (Yu & Sapiro 2011), coarse to fine (Pierazzo, Morel & Facciolo 2017), of brightness and colour differences; colour follows brightness where that explains it (guided filter, He, Sun & Tang 2013); *thorough* takes similar blocks together (Dabov et al. 2007); thresholds from the noise measured at full size for each frequency, reduction and brightness (medians, Donoho & Johnstone 1994).',
  resolve: (s, { patches, iso }) => {
    const byIso = s.level === 'iso' && iso !== undefined
    const given = byIso ? codesAtIso100 * Math.sqrt(iso / 100) : s.noiseLevels
    const idle = s.brightnessNoisePercent === 0 && s.colourNoisePercent === 0
    const isFirst = s.edition === 'first'
    const thresholds = isFirst ? firstThresholds : thresholdRange
    const isGiven = s.level === 'given' || byIso
    const seen = idle || (isFirst && isGiven) ? undefined : patches?.({ onGrid: isFirst })
    const measured = seen && measureNoise(seen, { iso, believesAll: isFirst })
    const asGiven = (): NoiseProfile => (measured ? noiseOfKind(measured, given / 255, middleGrey) : whiteNoise(given / 255))
    const profile = isGiven ? asGiven() : (measured ?? whiteNoise(0))
    return {
      brightness: s.brightnessNoisePercent / 100,
      colour: s.colourNoisePercent / 100,
      threshold: thresholds.smooth + (thresholds.fine - thresholds.smooth) * (s.keepTexturePercent / 100),
      care: s.care,
      colourLevels: colourLevels[s.blotches],
      foundLevels: Number(deviationCodes(profile, middleGrey).toFixed(2)),
      deviations: flatten(profile),
      factors: profile.factors,
      ...(isFirst ? { first: true } : {}),
    }
  },
  render: ({ brightness, colour, threshold, care, colourLevels: levels, deviations, factors, first = false }) => {
    if (factors.length !== factorNodes || deviations.every((value) => value === 0)) return { kind: 'none' }
    if (brightness === 0 && colour === 0) return { kind: 'none' }
    const profile = unflatten(deviations, factors)
    const found = deviationCodes(profile, middleGrey)
    const ways = waysFor({ care, found, first })
    // Of strong noise less stays: each doubling takes the share of what was left.
    const kept = first ? 1 - brightness : (1 - brightness) ** (1 + Math.log2(Math.max(1, found / strongLevels)))
    const strict = (care === 'quick' && found > overwhelmingLevels ? strictness : 1) * (first ? 1 : compressedStrictness(profile))
    const takesSmooth = care === 'thorough' && !first
    const amounts: ShrinkAmounts = {
      brightness: { share: 1 - kept, threshold: threshold * strict, copies: brightnessCopies, ...ways.brightness, takesSmooth },
      colour: { share: colour, threshold: threshold * colourThreshold, copies: colour > 0 ? levels : 1, ...ways.colour },
      window: first ? 'even' : 'rounded',
      colourFollows: first ? 'never' : care === 'thorough' ? 'fromWhole' : 'fromHalf',
    }
    const reach = shrinkReach(amounts)
    return { kind: 'neighbourhood', domain: 'opponent', reach: () => reach, apply: (job) => shrinkNoise(job, profile, amounts) }
  },
  describe: (s) => {
    const level = { measured: 'measured', iso: 'by ISO', given: `noise of ${shortNumber(s.noiseLevels, 1)} levels` }[s.level]
    const thorough = s.care === 'thorough' ? ', thorough' : ''
    return `brightness noise ${plainNumber(s.brightnessNoisePercent)} %, colour noise ${plainNumber(s.colourNoisePercent)} %, texture ${plainNumber(s.keepTexturePercent)} %, ${level}${thorough}`
  },
  describeConstants: ({ foundLevels }) => `found ${shortNumber(foundLevels, 1)} levels in middle grey`,
})

import { signedNumber } from '@/base/format'
import { present } from '@/base/present'
import { smoothStep } from '@/base/scale'
import { keysOf } from '@/base/schema'
import { triple } from '@/base/tuples'
import { defineOperation } from '../declare/operation'
import { number, type SettingsOf } from '../declare/settings'

/** Hue bands and where their middles lie in OKLCh, degrees: the hues of the pure sRGB colours and of those between them. */
export const bandCentres = { red: 29, orange: 58, yellow: 108, green: 143, turquoise: 195, blue: 262, violet: 304, pink: 350 } as const
export type Band = keyof typeof bandCentres
const bands = keysOf(bandCentres)

/** Entries of the kernel's table once around; see kernels/assembly/tables.ts. */
const hueEntries = 1024
/** OKLab lightness that a strong colour, of chroma 0.25, gains at 100 %. */
const lightnessPerChroma = 0.8
const radians = Math.PI / 180

const declareBand = <B extends Band>(band: B) => {
  const group = `${band[0]?.toUpperCase()}${band.slice(1)}`
  const shift = (label: string, unit: string, max: number, help: string) =>
    number({ label, unit, min: -max, max: max, step: 1, default: 0, help, group })
  const key = <S extends string>(suffix: S) => `${band}${suffix}` as const
  return {
    [key('HueDegrees')]: shift('Hue', '°', 60, 'Turns the band’s colours around the hue circle.'),
    [key('ChromaPercent')]: shift('Chroma', '%', 100, 'Makes the band’s colours stronger or weaker.'),
    [key('LightnessPercent')]: shift('Lightness', '%', 100, 'Makes the band’s colours lighter or darker; greys stay.'),
    [key('CentreDegrees')]: number({
      label: 'Centre',
      unit: '°',
      min: 0,
      max: 359,
      step: 1,
      default: bandCentres[band],
      group,
      help: 'Where the band’s middle lies on the hue circle (OKLCh).',
    }),
    [key('WidthDegrees')]: number({
      label: 'Width',
      unit: '°',
      min: 0,
      max: 90,
      step: 1,
      default: 12,
      group,
      help: 'How wide the band acts in full, before it passes into its neighbours.',
    }),
  } as Record<`${B}${'HueDegrees' | 'ChromaPercent' | 'LightnessPercent' | 'CentreDegrees' | 'WidthDegrees'}`, ReturnType<typeof number>>
}

const settings = {
  ...declareBand('red'),
  ...declareBand('orange'),
  ...declareBand('yellow'),
  ...declareBand('green'),
  ...declareBand('turquoise'),
  ...declareBand('blue'),
  ...declareBand('violet'),
  ...declareBand('pink'),
}
type HueSettings = SettingsOf<typeof settings>

interface BandShift {
  readonly centre: number
  readonly width: number
  /** Hue in degrees, chroma and lightness as shares. */
  readonly shift: readonly [hue: number, chroma: number, lightness: number]
}

/**
 * What the bands do at a hue. Between the ends of two neighbouring bands one passes smoothly into the other, so that the weights
 * of all bands sum to one at every hue.
 */
export function shiftAt(sorted: readonly BandShift[], hueDegrees: number): readonly [number, number, number] {
  const around = (from: number, to: number): number => (((to - from) % 360) + 360) % 360
  for (const [i, band] of sorted.entries()) {
    const next = sorted[(i + 1) % sorted.length] ?? band
    const gap = sorted.length === 1 ? 360 : around(band.centre, next.centre)
    const past = around(band.centre, hueDegrees)
    if (past >= gap) continue
    // Bands wider than the gap between them meet in its middle.
    const [near, far] = [Math.min(band.width / 2, gap / 2), gap - Math.min(next.width / 2, gap / 2)]
    const share = far > near ? smoothStep(past, near, far) : Number(past >= near)
    return triple((k) => band.shift[k] * (1 - share) + next.shift[k] * share)
  }
  return [0, 0, 0]
}

/** Hue of a place on the diamond that the kernel walks, degrees. */
function hueOfEntry(entry: number): number {
  const angle = (entry / hueEntries) * 4
  const quarter = Math.floor(angle) % 4
  const t = angle - Math.floor(angle)
  const quarters = [
    [1 - t, t],
    [-t, 1 - t],
    [t - 1, -t],
    [t, t - 1],
  ] as const
  const [a, b] = present(quarters[quarter])
  return Math.atan2(b, a) / radians
}

function hueTable(sorted: readonly BandShift[]): number[] {
  return Array.from({ length: hueEntries + 1 }, (_, entry) => {
    const [hue, chroma, lightness] = shiftAt(sorted, hueOfEntry(entry))
    return [Math.cos(hue * radians) * (1 + chroma), Math.sin(hue * radians) * (1 + chroma), lightness * lightnessPerChroma, 0]
  }).flat()
}

const shiftOf = (s: HueSettings, band: Band): readonly [number, number, number] => [
  s[`${band}HueDegrees`],
  s[`${band}ChromaPercent`] / 100,
  s[`${band}LightnessPercent`] / 100,
]

export const hueBands = defineOperation({
  id: 'hue-bands',
  name: 'Hue bands',
  group: 'colour',
  purpose: 'Turn, strengthen or lighten single colours, band by band around the hue circle.',
  settings,
  beside: { kind: 'hueRing', bands },
  neutral: {},
  method:
    'OKLCh (Ottosson 2020): hue turn, chroma gain, and lightness in proportion to chroma, from eight bands whose smooth weights sum to one at every hue.',
  resolve: (s) => ({
    bands: bands
      .map((band) => [s[`${band}CentreDegrees`], s[`${band}WidthDegrees`], ...shiftOf(s, band)])
      .sort((a, b) => (a[0] ?? 0) - (b[0] ?? 0))
      .flat(),
  }),
  render: ({ bands: flat }) => {
    const sorted = bands.map((_, i): BandShift => {
      const [centre = 0, width = 0, hue = 0, chroma = 0, lightness = 0] = flat.slice(i * 5, i * 5 + 5)
      return { centre, width, shift: [hue, chroma, lightness] }
    })
    if (sorted.every(({ shift }) => shift.every((value) => value === 0))) return { kind: 'none' }
    return { kind: 'point', domain: 'oklab', passes: [{ kernel: 'hueTable', parameters: hueTable(sorted) }] }
  },
  describe: (s) =>
    bands
      .map((band) => describeBand(band, shiftOf(s, band)))
      .filter(Boolean)
      .join(', ') || 'nothing moved',
})

function describeBand(band: Band, [hue, chroma, lightness]: readonly [number, number, number]): string {
  const parts = [
    hue !== 0 && `hue ${signedNumber(hue)}°`,
    chroma !== 0 && `chroma ${signedNumber(chroma * 100)} %`,
    lightness !== 0 && `lightness ${signedNumber(lightness * 100)} %`,
  ].filter(Boolean)
  return parts.length > 0 ? `${band} ${parts.join(' ')}` : ''
}

import { shortNumber } from '@/base/format'
import { srgbTransfer } from '@/colour/transfer'
import { type LinearPicture, quantile } from '@/pixels/linear-picture'
import { defineOperation } from '../declare/operation'
import { choice, number } from '../declare/settings'

/** A picture without contrast is not stretched beyond this: it would come out as noise. */
const maxStretch = 4
/** Bends of the middle are held to these, so that one odd channel can't turn the picture. */
const gammaRange = { min: 0.7, max: 1.4 } as const

/** scale, offset, exponent for each channel: what the levels kernel takes. */
type ChannelMap = readonly [scale: number, offset: number, exponent: number]
const unchanged: ChannelMap = [1, 0, 1]

/** Linear values of one channel. */
function channelOf({ size, planes }: LinearPicture, channel: number): Float32Array {
  const length = size.width * size.height
  return planes.slice(channel * length, (channel + 1) * length)
}

/** A share's encoded value: the transfer keeps the order, so one value is encoded instead of all. */
const encodedAt = (plane: Float32Array, share: number): number => srgbTransfer.encode(quantile(plane, share))

function stretch(black: number, white: number): readonly [scale: number, offset: number] {
  const centre = (black + white) / 2
  const span = Math.max(white - black, 1 / maxStretch)
  const low = span > white - black ? centre - span / 2 : black
  return [1 / span, -low / span + 0]
}

const clamp = (value: number, { min, max }: { min: number; max: number }): number => Math.min(max, Math.max(min, value))

export const autoLevels = defineOperation({
  id: 'auto-levels',
  name: 'Auto levels',
  group: 'tone',
  purpose: 'Find black and white for each picture by itself, so that a set comes out alike.',
  settings: {
    shadowClipPercent: number({
      label: 'Clip dark',
      unit: '%',
      min: 0,
      max: 5,
      step: 0.05,
      default: 0.1,
      help: 'Share of the darkest values that may become black.',
    }),
    highlightClipPercent: number({
      label: 'Clip bright',
      unit: '%',
      min: 0,
      max: 5,
      step: 0.05,
      default: 0.1,
      help: 'Share of the brightest values that may become white.',
    }),
    range: choice({
      label: 'Range',
      options: [
        { value: 'together', label: 'One for all channels' },
        { value: 'each', label: 'Each channel its own' },
        { value: 'eachNeutral', label: 'Each channel, neutral middle' },
      ],
      default: 'together',
      help: 'One range keeps all colours; a range for each channel also takes a cast away.',
    }),
  },
  neutral: {},
  changesAlways: true,
  method:
    'Percentiles of sRGB-encoded values on a copy of 512 px give black and white; a neutral middle bends each channel to their common median.',
  resolve: (s, { copy }) => {
    const picture = copy?.()
    if (!picture) return { maps: [...unchanged, ...unchanged, ...unchanged] }
    const planes = [0, 1, 2].map((channel) => channelOf(picture, channel))
    const ends = planes.map(
      (plane) => [encodedAt(plane, s.shadowClipPercent / 100), encodedAt(plane, 1 - s.highlightClipPercent / 100)] as const,
    )
    const common = [Math.min(...ends.map(([low]) => low)), Math.max(...ends.map(([, high]) => high))] as const
    const stretches = ends.map(([low, high]) => (s.range === 'together' ? stretch(...common) : stretch(low, high)))
    const medians = planes.map((plane, i) =>
      clamp(encodedAt(plane, 0.5) * (stretches[i]?.[0] ?? 1) + (stretches[i]?.[1] ?? 0), { min: 0.02, max: 0.98 }),
    )
    const middle = medians.reduce((sum, median) => sum + median, 0) / 3
    const exponents = medians.map((median) => (s.range === 'eachNeutral' ? clamp(Math.log(middle) / Math.log(median), gammaRange) : 1))
    return { maps: stretches.flatMap(([scale, offset], i) => [scale, offset, exponents[i] ?? 1]) }
  },
  render: ({ maps }) => {
    const parameters = [0, 3, 6].flatMap((at) => [...maps.slice(at, at + 3), 1, 0])
    const isUnchanged = parameters.every((value, i) => value === [1, 0, 1, 1, 0][i % 5])
    return isUnchanged ? { kind: 'none' } : { kind: 'point', domain: 'encoded', passes: [{ kernel: 'levels', parameters }] }
  },
  describe: (s) => {
    const clips =
      s.shadowClipPercent === s.highlightClipPercent
        ? `${shortNumber(s.shadowClipPercent)} %`
        : `${shortNumber(s.shadowClipPercent)} / ${shortNumber(s.highlightClipPercent)} %`
    return `${{ together: 'all channels', each: 'each channel', eachNeutral: 'each, neutral middle' }[s.range]}, clip ${clips}`
  },
  describeConstants: ({ maps }) => {
    const ends = [0, 3, 6].map((at) => {
      const [scale = 1, offset = 0] = maps.slice(at, at + 2)
      return `${Math.round((-offset / scale) * 255) + 0}–${Math.round(((1 - offset) / scale) * 255)}`
    })
    return new Set(ends).size === 1 ? `found ${ends[0]}` : `found red ${ends[0]}, green ${ends[1]}, blue ${ends[2]}`
  },
})

import type { Kernels } from '@kernels/binding'
import type { Pointer } from '@kernels/heap'
import { strideOf } from '@kernels/planes'
import { plainNumber, shortNumber } from '@/base/format'
import { clamp, smoothStep } from '@/base/scale'
import { mapTriple } from '@/base/tuples'
import { workingToFile } from '@/colour/opponent'
import { srgbTransfer } from '@/colour/transfer'
import { type LinearPicture, laidOut, quantilesOnHeap } from '@/pixels/linear-picture'
import { defineOperation } from '../declare/operation'
import { choice, measured, number, readAs, type Settings } from '../declare/settings'
import { editionSetting, withEdition } from '../support/editions'

/** A picture without contrast is not stretched beyond this: it would come out as noise. */
const maxStretch = 4
/** Bends of the middle are held to these, so that one odd channel can't turn the picture. */
const gammaRange = [0.7, 1.4] as const

/** scale, offset, exponent for each channel: what the levels kernel takes. */
type ChannelMap = readonly [scale: number, offset: number, exponent: number]
const unchanged: ChannelMap = [1, 0, 1]

/** Encoded values of shares of a channel: the transfer keeps the order, so those few are encoded instead of all. */
const encodedAt = (kernels: Kernels, plane: Pointer, count: number, shares: readonly number[]): number[] =>
  quantilesOnHeap(kernels, plane, count, shares).map((value) => srgbTransfer.encode(value))

function stretch(black: number, white: number): readonly [scale: number, offset: number] {
  const centre = (black + white) / 2
  const span = Math.max(white - black, 1 / maxStretch)
  const low = span > white - black ? centre - span / 2 : black
  return [1 / span, -low / span + 0]
}

/** Shares of the darkest and the brightest values that may become black and white, in per cent. */
interface Shares {
  readonly dark: number
  readonly bright: number
  /** Whether the middles of the channels are brought together. */
  readonly middle: boolean
}

/** How bold is half of the way at this share, and at both ends this many times less and more of it. */
const usualSharePercent = 0.1
const boldFactor = 50
const usualBold = 50

const shareOf = (boldPercent: number): number => usualSharePercent * boldFactor ** ((boldPercent - usualBold) / usualBold)
const boldOf = (sharePercent: number): number =>
  clamp(usualBold + (usualBold * Math.log(sharePercent / usualSharePercent)) / Math.log(boldFactor), 0, 100)

const settings = {
  keep: choice({
    label: 'Keep',
    options: [
      { value: 'colours', label: 'Colours as they are' },
      { value: 'balanced', label: 'Colours balanced' },
    ],
    default: 'colours',
    help: 'As they are: one range for all channels. Balanced: a range for each channel and one middle for all, which takes a cast away.',
  }),
  boldPercent: number({
    label: 'How bold',
    unit: '%',
    min: 0,
    max: 100,
    step: 1,
    default: usualBold,
    help: 'How much of the darkest and the brightest may become black and white: nearly nothing at 0 %, a thousandth at 50 %, a twentieth at 100 %.',
  }),
  amountPercent: number({
    label: 'Amount',
    unit: '%',
    min: 0,
    max: 100,
    step: 1,
    default: 100,
    help: 'How much of what was found is done.',
    shownWhen: { setting: 'edition', is: ['now'] },
  }),
  edition: editionSetting(
    'At first, the darkest and brightest were stretched to black and white whatever they were, and middles brought together.',
  ),
  earlier: measured({
    label: 'As it was',
    count: 4,
    min: 0,
    max: 100,
    default: [],
    help: 'What an earlier version named: shares of dark and of bright, whether middles meet, and how bold that is. Holds as long as that is not changed.',
  }),
}
const read = readAs(settings)
type RangeSettings = ReturnType<typeof read>

function sharesOf({ keep, boldPercent, earlier }: RangeSettings): Shares {
  const [dark = 0, bright = 0, middle = 0, bold] = earlier
  if (bold === boldPercent) return { dark, bright, middle: keep === 'balanced' && middle === 1 }
  const share = shareOf(boldPercent)
  return { dark: share, bright: share, middle: keep === 'balanced' }
}

/** Once it had a share for each end, and three ways to treat the channels. */
function upgraded(old: Settings): Settings {
  if (!('range' in old || 'shadowClipPercent' in old || 'highlightClipPercent' in old)) return old
  const { range = 'together', shadowClipPercent = 0.1, highlightClipPercent = 0.1, ...rest } = old
  const [dark, bright] = [Number(shadowClipPercent), Number(highlightClipPercent)]
  const boldPercent = boldOf(Math.sqrt(Math.max(dark, 0.001) * Math.max(bright, 0.001)))
  const keep = range === 'together' ? 'colours' : 'balanced'
  const isUsual = dark === usualSharePercent && bright === usualSharePercent && range !== 'each'
  return { ...rest, keep, boldPercent, earlier: isUsual ? [] : [dark, bright, range === 'each' ? 0 : 1, boldPercent] }
}

/** Black and white whatever they were, and one middle where colours are balanced. */
function firstMaps(s: RangeSettings, picture: LinearPicture): ChannelMap[] {
  const { dark, bright, middle } = sharesOf(s)
  const { kernels, size } = picture
  const count = size.width * size.height
  const found = kernels.heap.scope(() =>
    laidOut(picture).map((plane) => encodedAt(kernels, plane, count, [dark / 100, 1 - bright / 100, 0.5])),
  )
  const ends = found.map(([low = 0, high = 1]) => [low, high] as const)
  const common = [Math.min(...ends.map(([low]) => low)), Math.max(...ends.map(([, high]) => high))] as const
  const stretches = ends.map(([low, high]) => (s.keep === 'colours' ? stretch(...common) : stretch(low, high)))
  const medians = found.map(([, , median = 0.5], i) => clamp(median * (stretches[i]?.[0] ?? 1) + (stretches[i]?.[1] ?? 0), 0.02, 0.98))
  const commonMedian = medians.reduce((sum, median) => sum + median, 0) / 3
  const exponents = medians.map((median) => (middle ? clamp(Math.log(commonMedian) / Math.log(median), ...gammaRange) : 1))
  return stretches.map(([scale, offset], i) => [scale, offset, exponents[i] ?? 1])
}

/** Encoded values between which a darkest is taken less and less for what is meant to be black, and a brightest more and more for white. */
const nearBlack = [0.04, 0.12] as const
const nearWhite = [0.55, 0.65] as const
/** A picture is flat where it has nothing dark and nothing bright: haze, a scan of a print. All of its range is spread then. */
const flatDark = [0.12, 0.2] as const
const flatBright = [0.72, 0.85] as const
/** What is too bright has lifted its black: it may be further off. `cutOff`: share of pixels that are white in all channels. */
const liftedBlack = [0.2, 0.35] as const
const cutOff = [0.005, 0.03] as const
const whiteFrom = 0.985
/** What is cut off at white was taken too bright: its middle is brought down a little, white stays. */
const tooBright = 0.15
/** Of white less is done than could be: a low key has no white, and looks like a picture that is too dark. */
const whiteShare = 0.85
/** How much of the middle is held in place, where the picture is not flat. */
const heldMiddle = 0.3
/** Ends of channels that lie further and further apart, as a share of the range, are a colour and not a cast. */
const castApart = [0.03, 0.08] as const

/** Smoothly from 0 at the first to 1 at the second. */
const rising = (value: number, [from, to]: readonly [number, number]): number => smoothStep(value, from, to)
const fading = (value: number, range: readonly [number, number]): number => 1 - rising(value, range)

interface SeenRange {
  /** Of each channel, encoded. */
  readonly ends: readonly (readonly [low: number, high: number])[]
  /** Of green. */
  readonly median: number
  /** The share of pixels that are white. */
  readonly white: number
}

/** In sRGB, cut off at 0 and 1: what lies within a file's range is told by a file's colours. */
function rangeOf(picture: LinearPicture, { dark, bright }: Shares): SeenRange {
  const { kernels, size } = picture
  const { heap, run } = kernels
  const count = size.width * size.height
  return heap.scope(() => {
    const planes = laidOut(picture)
    const whole = strideOf(count)
    run.matrix(...planes, whole, heap.floats(workingToFile))
    for (const plane of planes) run.clampPlane(plane, whole, 0, 1)
    const ends = [dark / 100, 1 - bright / 100]
    const [red, green, blue] = mapTriple(planes, (plane, i) => encodedAt(kernels, plane, count, i === 1 ? [...ends, 0.5] : ends))
    return {
      ends: [red, green, blue].map(([low = 0, high = 1]) => [low, high] as const),
      median: green[2] ?? 0.5,
      white: run.countAbove(...planes, count, whiteFrom) / count,
    }
  })
}

/** Black and white where something near them is there, or where nothing is and the picture is flat. */
function mapsNow(s: RangeSettings, picture: LinearPicture): ChannelMap[] {
  const { ends, median: middleOfAll, white } = rangeOf(picture, sharesOf(s))
  const [low, high] = [Math.min(...ends.map(([end]) => end)), Math.max(...ends.map(([, end]) => end))]
  const flat = rising(low, flatDark) * fading(high, flatBright)
  const share = s.amountPercent / 100
  const ofBlack = share * Math.max(flat, fading(low, nearBlack), rising(white, cutOff) * fading(low, liftedBlack))
  const ofWhite = share * Math.max(flat, whiteShare * rising(high, nearWhite))
  const held = heldMiddle * (1 - flat)
  const median = clamp(middleOfAll, 0.02, 0.98)
  return ends.map(([ownLow, ownHigh]) => {
    const ownShare = (apart: number): number =>
      s.keep === 'balanced' ? fading(apart / Math.max(high - low, 1 / maxStretch), castApart) : 0
    const black = low + (ownLow - low) * ownShare(ownLow - low)
    const brightest = high - (high - ownHigh) * ownShare(high - ownHigh)
    const [scale, offset] = stretch(black * ofBlack, 1 - (1 - brightest) * ofWhite)
    const moved = clamp(median * scale + offset, 0.02, 0.98)
    const middle = 1 + (Math.log(median) / Math.log(moved) - 1) * held
    return [scale, offset, clamp(middle * (1 + tooBright * share * rising(white, cutOff)), ...gammaRange)]
  })
}

export const fullRange = defineOperation({
  id: 'full-range',
  formerIds: ['auto-levels'],
  name: 'Full range',
  group: 'tone',
  purpose: 'Find black and white for each picture by itself, so that a set comes out alike.',
  settings,
  upgrade: (old) => withEdition(upgraded(old)),
  neutral: {},
  changesAlways: true,
  method:
    'Percentiles of sRGB-encoded values on a copy of 512 px give black and white, as far as something near them is there or the picture is flat; most of the way the middle moves along, and comes down a little where whites are cut off. Balanced: ends of channels that lie close together each become black and white.',
  resolve: (s, { copy }) => {
    const picture = copy?.()
    if (!picture) return { maps: [...unchanged, ...unchanged, ...unchanged] }
    return { maps: (s.edition === 'first' ? firstMaps(s, picture) : mapsNow(s, picture)).flat() }
  },
  render: ({ maps }) => {
    const parameters = [0, 3, 6].flatMap((at) => [...maps.slice(at, at + 3), 1, 0])
    const isUnchanged = parameters.every((value, i) => value === [1, 0, 1, 1, 0][i % 5])
    return isUnchanged ? { kind: 'none' } : { kind: 'point', domain: 'encoded', passes: [{ kernel: 'levels', parameters }] }
  },
  describe: (s) => {
    const { dark, bright } = sharesOf(s)
    const kept = s.keep === 'colours' ? 'colours as they are' : 'colours balanced'
    const shares = dark === bright ? '' : ` (${shortNumber(dark)} / ${shortNumber(bright)} % may go)`
    return `${kept}, ${plainNumber(s.boldPercent)} % bold${shares}`
  },
  describeConstants: ({ maps }) => {
    const ends = [0, 3, 6].map((at) => {
      const [scale = 1, offset = 0] = maps.slice(at, at + 2)
      return `${Math.round((-offset / scale) * 255) + 0}–${Math.round(((1 - offset) / scale) * 255)}`
    })
    return new Set(ends).size === 1 ? `found ${ends[0]}` : `found red ${ends[0]}, green ${ends[1]}, blue ${ends[2]}`
  },
})

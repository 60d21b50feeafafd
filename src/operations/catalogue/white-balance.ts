import { moreOrLess, plainNumber, signedNumber } from '@/base/format'
import { memoised } from '@/base/lru-cache'
import { floatAt } from '@/base/numbers'
import { mapTriple } from '@/base/tuples'
import { acrossLocus, fromLocus, temperatureRangeK, whiteOfTemperature } from '@/colour/illuminant'
import { identity3, invert, type Matrix3, matrix3, multiply, transform, type Vector3 } from '@/colour/matrix'
import { adaptWhite, chromaticityOf, colourSpaces, d65, rgbToRgb, rgbToXyz, workingSpace, xyzOfChromaticity } from '@/colour/spaces'
import { srgbTransfer } from '@/colour/transfer'
import { type LinearPicture, quantile } from '@/pixels/linear-picture'
import { defineOperation } from '../declare/operation'
import { choice, number, type Settings } from '../declare/settings'
import { editionSetting, withEdition } from '../support/editions'
import { wholeCodes } from '../support/picked-codes'

const toXyz = rgbToXyz(workingSpace)
const fromXyz = invert(toXyz)
const d65White = xyzOfChromaticity(d65)

/** Across the locus at full tint, CIE 1960 units: as far as a strong fluorescent cast. */
const fullTintDuv = 0.03
/** Temperature at which nothing is changed: the white of sRGB itself. */
export const neutralTemperatureK = 6500

/** Most sources are sRGB: its channels tell where light was cut off. */
const toSource = rgbToRgb(workingSpace, colourSpaces.srgb)
const fromSource = rgbToRgb(colourSpaces.srgb, workingSpace)
/** Linear value from which on a channel may be cut off: code 250 of 255. */
const clippingBegins = 0.955
/** In the first edition, where a channel at its end took the colour from the others: code 246. */
const firstClippingBegins = 0.92

/** The matrix on linear working RGB that makes `white` (XYZ, any luminance) the white of D65. */
function balanceMatrix(white: Vector3): Matrix3 {
  const scaled: Vector3 = [white[0] / white[1], 1, white[2] / white[1]]
  return multiply(fromXyz, multiply(adaptWhite(scaled, d65White), toXyz))
}

/** Pixels brighter than this share of white in any channel may be clipped, darker ones are mostly noise. */
const usable = { darkest: 0.004, brightest: 0.9 } as const
/** Fewer usable pixels than this tell nothing. */
const minPixels = 50
/** The bright end: this share of the usable pixels. */
const brightShare = 0.05

/** Pixels fit for judging the light, channel by channel. */
interface Pixels {
  readonly count: number
  readonly r: Float32Array
  readonly g: Float32Array
  readonly b: Float32Array
}

function usablePixels({ size, planes }: LinearPicture): Pixels {
  const length = size.width * size.height
  const [r, g, b] = [new Float32Array(length), new Float32Array(length), new Float32Array(length)]
  let count = 0
  for (let i = 0; i < length; i++) {
    const [red, green, blue] = [floatAt(planes, i), floatAt(planes, length + i), floatAt(planes, 2 * length + i)]
    if (Math.max(red, green, blue) >= usable.brightest || Math.min(red, green, blue) <= usable.darkest) continue
    r[count] = red
    g[count] = green
    b[count++] = blue
  }
  return { count, r: r.subarray(0, count), g: g.subarray(0, count), b: b.subarray(0, count) }
}

/** The mean of the pixels that are marked with 1, and how many they are. */
function meanOf({ count, r, g, b }: Pixels, marks: Uint8Array): { readonly mean: Vector3; readonly count: number } {
  let [red, green, blue, found] = [0, 0, 0, 0]
  for (let n = 0; n < count; n++) {
    if (marks[n] === 0) continue
    red += floatAt(r, n)
    green += floatAt(g, n)
    blue += floatAt(b, n)
    found++
  }
  return { mean: [red / found, green / found, blue / found], count: found }
}

const lightOf = (r: number, g: number, b: number): number => 0.2627 * r + 0.678 * g + 0.0593 * b
function unit([r, g, b]: Vector3): Vector3 {
  const light = lightOf(r, g, b)
  return [r / light, g / light, b / light]
}

function brightEnd(pixels: Pixels): Vector3 {
  const { count, r, g, b } = pixels
  const light = new Float32Array(count)
  for (let n = 0; n < count; n++) light[n] = lightOf(floatAt(r, n), floatAt(g, n), floatAt(b, n))
  const threshold = quantile(light, 1 - brightShare)
  const marks = new Uint8Array(count)
  for (let n = 0; n < count; n++) marks[n] = floatAt(light, n) >= threshold ? 1 : 0
  return meanOf(pixels, marks).mean
}

/** How far, as logarithms of the channel ratios, a pixel may be from the white under trial to count as grey. */
const greyReach = 0.18
/** The trial moves to the mean of its greys this often; it settles sooner. */
const trials = 8
/** A start whose greys are fewer than this share of all pixels says nothing. */
const minGreyShare = 0.02

interface Trial {
  readonly white: Vector3
  readonly share: number
}

/** Logarithms of red and blue over green, pixel by pixel: worked out once for all trials. */
const ratiosOf = memoised(({ count, r, g, b }: Pixels): Float32Array => {
  const ratios = new Float32Array(count * 2)
  for (let n = 0; n < count; n++) {
    ratios[2 * n] = Math.log(floatAt(r, n) / floatAt(g, n))
    ratios[2 * n + 1] = Math.log(floatAt(b, n) / floatAt(g, n))
  }
  return ratios
})

/** Moves a white to the mean of the pixels that look grey under it, until it rests among them. */
function settle(pixels: Pixels, start: Vector3): Trial {
  const ratios = ratiosOf(pixels)
  const marks = new Uint8Array(pixels.count)
  let trial: Trial = { white: unit(start), share: 0 }
  for (let i = 0; i < trials; i++) {
    const { white } = trial
    const [red, blue] = [Math.log(white[0] / white[1]), Math.log(white[2] / white[1])]
    for (let n = 0; n < marks.length; n++) {
      const dr = floatAt(ratios, 2 * n) - red
      const db = floatAt(ratios, 2 * n + 1) - blue
      marks[n] = dr * dr + db * db < greyReach * greyReach ? 1 : 0
    }
    const greys = meanOf(pixels, marks)
    if (greys.count < pixels.count * minGreyShare) return { white, share: 0 }
    trial = { white: unit(greys.mean), share: greys.count / pixels.count }
  }
  return trial
}

/** How many more greys another white must show before the picture is taken to be lit by it. */
const convincing = 1.5

/** Lamps lie within 0.006 of the locus (ANSI C78.377, from memory), cameras shift that a little: what is further off is a colour, not a light. */
const maxOffLocus = 0.01

const isLight = (white: Vector3): boolean => fromLocus(chromaticityOf(transform(toXyz, white))) <= maxOffLocus

/**
 * The white among greys: settled once from the white of the space and once from the bright end. The first is believed
 * unless the second explains clearly more of the picture and can be a light, so that coloured subjects in plain light stay as they are.
 */
function greyAmong(pixels: Pixels): Vector3 | undefined {
  const plain = settle(pixels, [1, 1, 1])
  const lit = settle(pixels, brightEnd(pixels))
  const best = lit.share > plain.share * convincing && isLight(lit.white) ? lit : plain
  return best.share > 0 ? best.white : undefined
}

/** How strong a cast is: the logarithms of red and blue against green, as one length. A warm lamp gives about 1. */
const castOf = ([r, g, b]: Vector3): number => Math.hypot(Math.log(r / g), Math.log(b / g))

/**
 * Of a cast, what is taken for light, if anything. Greys are never quite grey: wood, paper and clay alone move their mean by as much as
 * `weakest`. So less of a weak cast is believed, as one shrinks a measurement that has noise (James & Stein 1961).
 */
function believed(white: Vector3, weakest: number, strongest: number): Vector3 | undefined {
  const cast = castOf(white)
  if (cast <= weakest || cast > strongest) return undefined
  const share = 1 - (weakest / cast) ** 2
  const [r, g, b] = white
  return [(r / g) ** share, 1, (b / g) ** share]
}

/** The white that a picture seems to be lit by, as linear working RGB; undefined where there is too little to judge. */
function estimateWhite(picture: LinearPicture, method: 'greys' | 'greyWorld' | 'brightEnd'): Vector3 | undefined {
  const pixels = usablePixels(picture)
  if (pixels.count < minPixels) return undefined
  if (method === 'greyWorld') return meanOf(pixels, new Uint8Array(pixels.count).fill(1)).mean
  return method === 'brightEnd' ? brightEnd(pixels) : greyAmong(pixels)
}

const by = (...is: string[]) => ({ setting: 'by', is })
const picked = (channel: string, value: number) =>
  number({
    label: `Picked ${channel}`,
    unit: '',
    min: 1,
    max: 255,
    step: 1,
    default: value,
    typed: true,
    help: `The ${channel} code of something that should be grey.`,
    shownWhen: by('picked'),
  })

interface BalanceSettings {
  readonly by: 'temperature' | 'picked' | 'auto'
  readonly temperatureK: number
  readonly tintPercent: number
  readonly pickedRed: number
  readonly pickedGreen: number
  readonly pickedBlue: number
  readonly estimate: 'greys' | 'greyWorld' | 'brightEnd'
  readonly strongestCastPercent: number
  readonly weakestCastPercent: number
}

/** What is done to linear working RGB. */
function matrixFor(s: BalanceSettings, copy: (() => LinearPicture) | undefined): Matrix3 {
  if (s.by === 'temperature')
    return s.temperatureK === neutralTemperatureK && s.tintPercent === 0
      ? identity3
      : balanceMatrix(xyzOfChromaticity(acrossLocus(whiteOfTemperature(s.temperatureK), (s.tintPercent / 100) * fullTintDuv)))
  if (s.by === 'picked') {
    const linear = mapTriple([s.pickedRed, s.pickedGreen, s.pickedBlue], (code) => srgbTransfer.decode(code / 255))
    return balanceMatrix(transform(rgbToXyz(colourSpaces.srgb), linear))
  }
  const picture = copy?.()
  const white = picture && estimateWhite(picture, s.estimate)
  const light = white && believed(white, s.weakestCastPercent / 100, s.strongestCastPercent / 100)
  return light ? balanceMatrix(transform(toXyz, light)) : identity3
}

export const whiteBalance = defineOperation({
  id: 'white-balance',
  name: 'White balance',
  group: 'colour',
  purpose: 'Take away the colour of the light: by temperature, a picked grey, or by itself.',
  settings: {
    by: choice({
      label: 'By',
      options: [
        { value: 'temperature', label: 'Temperature' },
        { value: 'picked', label: 'Picked grey' },
        { value: 'auto', label: 'Itself' },
      ],
      default: 'temperature',
      help: 'The light’s temperature, the codes of something grey, or an estimate for each picture.',
    }),
    temperatureK: number({
      label: 'Temperature',
      unit: 'K',
      min: temperatureRangeK.min,
      max: temperatureRangeK.max,
      step: 50,
      default: neutralTemperatureK,
      logarithmic: true,
      help: 'Of the light the picture was taken in: a lower one makes it cooler.',
      shownWhen: by('temperature'),
    }),
    tintPercent: number({
      label: 'Tint',
      unit: '%',
      min: -100,
      max: 100,
      step: 1,
      default: 0,
      help: 'Above 0 takes green away, below 0 magenta.',
      shownWhen: by('temperature'),
    }),
    pickedRed: picked('red', 128),
    pickedGreen: picked('green', 128),
    pickedBlue: picked('blue', 128),
    estimate: choice({
      label: 'Estimate',
      options: [
        { value: 'greys', label: 'Among greys' },
        { value: 'greyWorld', label: 'Grey on the whole' },
        { value: 'brightEnd', label: 'Bright end' },
      ],
      default: 'greys',
      help: 'From what looks grey, from the whole picture, or from its brightest parts.',
      shownWhen: by('auto'),
    }),
    strongestCastPercent: number({
      label: 'Strongest cast',
      unit: '%',
      min: 0,
      max: 250,
      step: 5,
      default: 90,
      help: 'A stronger cast is taken for the subject’s own colour, like fire, and left alone.',
      shownWhen: by('auto'),
    }),
    weakestCastPercent: number({
      label: 'Weakest cast',
      unit: '%',
      min: 0,
      max: 50,
      step: 1,
      default: 12,
      help: 'A weaker cast is taken for the subject’s own colour, like wood, and left alone; one a little stronger is taken in part.',
      shownWhen: by('auto'),
    }),
    edition: editionSetting('At first, bright colours of which one channel was cut off came out grey.'),
  },
  upgrade: (old) => withEdition(old),
  tools: [
    {
      tool: 'grey',
      label: 'Pick a grey',
      help: 'Click something that should be neutral.',
      picked: (s, codes) => {
        const [pickedRed, pickedGreen, pickedBlue] = wholeCodes(codes)
        return { ...s, by: 'picked', pickedRed, pickedGreen, pickedBlue }
      },
    },
  ],
  neutral: { by: 'temperature', temperatureK: neutralTemperatureK, tintPercent: 0 },
  method:
    'Linear Bradford adaptation (ICC.1:2022, annex E) from the light’s white to D65, a channel at its end is taken for at least so bright, so that clipped whites stay white and bright colours keep their hue; daylight of CIE 15:2018, lamps on the Planckian locus; by itself: the mean of what looks grey under it, settled from two starts (clipped and dark pixels left out), near the locus of lamps and daylight; weak casts shrunk as by James & Stein 1961.',
  resolve: (s, { copy }) => ({ matrix: [...matrixFor(s, copy)], ...(s.edition === 'first' ? { first: true } : {}) }),
  render: ({ matrix, first }) => {
    if (matrix.every((value, i) => value === identity3[i])) return { kind: 'none' }
    const pass = first
      ? { kernel: 'balance' as const, parameters: [...matrix, ...toSource, firstClippingBegins, 1 / (1 - firstClippingBegins)] }
      : { kernel: 'balanceKnown' as const, parameters: [...matrix, ...toSource, ...fromSource, clippingBegins, 1 / (1 - clippingBegins)] }
    return { kind: 'point', domain: 'linear', passes: [pass] }
  },
  changeInWords: (to, from) => {
    const isWarmth =
      to.by === 'temperature' && (from === undefined || from.by === 'temperature') && to.tintPercent === (from?.tintPercent ?? 0)
    const mired = (s: Settings | undefined): number => 1e6 / Number(s?.temperatureK ?? neutralTemperatureK)
    if (isWarmth) return moreOrLess(mired(from) - mired(to), ' mired', ['warmer', 'cooler'], 0)
    return to.by === 'picked' && from === undefined ? 'colour of the light balanced' : undefined
  },
  describe: (s) => {
    if (s.by === 'picked') return `grey ${s.pickedRed} / ${s.pickedGreen} / ${s.pickedBlue}`
    if (s.by === 'auto')
      return `by itself, ${{ greys: 'among greys', greyWorld: 'grey on the whole', brightEnd: 'bright end' }[s.estimate]}`
    return `${plainNumber(s.temperatureK)} K${s.tintPercent === 0 ? '' : `, tint ${signedNumber(s.tintPercent)} %`}`
  },
  describeConstants: ({ matrix }) => {
    if (matrix.every((value, i) => value === identity3[i])) return 'light left as it is'
    const white = transform(invert(matrix3(matrix)), [1, 1, 1])
    const [r, g, b] = transform(rgbToRgb(workingSpace, colourSpaces.srgb), white)
    return `light ${[r, g, b].map((value) => (value / g).toFixed(2)).join(' / ')}`
  },
})

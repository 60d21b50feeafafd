import { moreOrLess, plainNumber, signedNumber } from '@/base/format'
import { clamp } from '@/base/scale'
import { mapTriple } from '@/base/tuples'
import { asShot, asShotToWorking, balancedToWorking, type CameraColour } from '@/colour/camera'
import { acrossLocus, temperatureRangeK, whiteOfTemperature } from '@/colour/illuminant'
import { identity3, invert, type Matrix3, matrix3, multiply, transform, type Vector3 } from '@/colour/matrix'
import { colourSpaces, rgbToRgb, rgbToXyz, workingSpace, xyzOfChromaticity } from '@/colour/spaces'
import { srgbTransfer } from '@/colour/transfer'
import type { LinearPicture } from '@/pixels/linear-picture'
import { defineOperation, type PictureAtStep } from '../declare/operation'
import { choice, number, type Settings } from '../declare/settings'
import { estimateWhite } from '../measure/greys'
import { judgedLight } from '../measure/judged-light'
import { matrixPass } from '../support/domains'
import { editionSetting, withEdition } from '../support/editions'
import { balanceMatrix, balancePass, toSource } from '../support/light-matrix'
import { wholeCodes } from '../support/picked-codes'

const toXyz = rgbToXyz(workingSpace)

/** Across the locus at full tint, CIE 1960 units: as far as a strong fluorescent cast. */
const fullTintDuv = 0.03
/** Temperature at which nothing is changed: the white of sRGB itself. */
export const neutralTemperatureK = 6500

/** In the first edition, where a channel at its end took the colour from the others: code 246. */
const firstClippingBegins = 0.92

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

const by = (...is: string[]) => ({ setting: 'by', is })
const byRule = { setting: 'estimate', is: ['greys', 'greyWorld', 'brightEnd'] }
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
  readonly by: 'temperature' | 'picked' | 'auto' | 'asShot'
  readonly temperatureK: number
  readonly tintPercent: number
  readonly pickedRed: number
  readonly pickedGreen: number
  readonly pickedBlue: number
  readonly estimate: 'surfaces' | 'greys' | 'greyWorld' | 'brightEnd'
  readonly surePercent: number
  readonly strongestCastPercent: number
  readonly weakestCastPercent: number
}

/** The white of the light of a picture, linear working RGB; undefined where there is too little to judge, or too little is sure. */
function lightOf(picture: LinearPicture, { estimate, surePercent }: BalanceSettings): Vector3 | 'unsure' | undefined {
  if (estimate !== 'surfaces') return estimateWhite(picture, estimate)
  const judged = judgedLight(picture)
  if (!judged) return undefined
  return judged.sureness * 100 >= surePercent ? judged.white : 'unsure'
}

/** The sensor's colours seen in another light than the camera judged, whose balance they have already. */
const relit = (raw: CameraColour, s: BalanceSettings): Matrix3 => multiply(balancedToWorking(raw, whiteOf(s)), invert(asShotToWorking(raw)))

const whiteOf = ({ temperatureK, tintPercent }: BalanceSettings) =>
  acrossLocus(whiteOfTemperature(temperatureK), (tintPercent / 100) * fullTintDuv)

/** The light as shot, as the settings say it. */
function shotNumbers(raw: CameraColour): { temperatureK: number; tintPercent: number } {
  const { kelvin, duv } = asShot(raw)
  return {
    temperatureK: Math.round(clamp(kelvin, temperatureRangeK.min, temperatureRangeK.max)),
    tintPercent: Math.round(clamp((duv / fullTintDuv) * 100, -100, 100)),
  }
}

/** What is done to linear working RGB. `unsure`: nothing, since the light could not be told. */
function balanceFor(
  s: BalanceSettings,
  { copy, raw }: Pick<PictureAtStep, 'copy' | 'raw'>,
): { matrix: Matrix3; unsure?: true; sensor?: true } {
  if (s.by === 'asShot') return { matrix: identity3 }
  if (s.by === 'temperature' && raw) return { matrix: relit(raw, s), sensor: true }
  if (s.by === 'temperature') {
    const isNeutral = s.temperatureK === neutralTemperatureK && s.tintPercent === 0
    return { matrix: isNeutral ? identity3 : balanceMatrix(xyzOfChromaticity(whiteOf(s))) }
  }
  if (s.by === 'picked') {
    const linear = mapTriple([s.pickedRed, s.pickedGreen, s.pickedBlue], (code) => srgbTransfer.decode(code / 255))
    return { matrix: balanceMatrix(transform(rgbToXyz(colourSpaces.srgb), linear)) }
  }
  const picture = copy?.()
  const white = picture && lightOf(picture, s)
  if (white === 'unsure') return { matrix: identity3, unsure: true }
  // How sure it is says all of what is known of surfaces.
  const light = s.estimate === 'surfaces' ? white : white && believed(white, s.weakestCastPercent / 100, s.strongestCastPercent / 100)
  return { matrix: light ? balanceMatrix(transform(toXyz, light)) : identity3 }
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
        { value: 'asShot', label: 'As shot' },
      ],
      default: 'temperature',
      help: 'The light’s temperature, the codes of something grey, an estimate for each picture, or as the camera judged a raw file.',
    }),
    temperatureK: number({
      label: 'Temperature',
      unit: 'K',
      min: temperatureRangeK.min,
      max: temperatureRangeK.max,
      step: 50,
      default: neutralTemperatureK,
      logarithmic: true,
      help: 'Of the light the picture was taken in: a lower one makes it cooler. Of a raw file the light’s own, by the camera’s matrices.',
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
        { value: 'surfaces', label: 'Known surfaces' },
        { value: 'greys', label: 'Among greys' },
        { value: 'greyWorld', label: 'Grey on the whole' },
        { value: 'brightEnd', label: 'Bright end' },
      ],
      default: 'surfaces',
      help: 'From the colours that surfaces have in plain light, from what looks grey, from the whole picture, or from its brightest parts.',
      shownWhen: by('auto'),
    }),
    surePercent: number({
      label: 'At least so sure',
      unit: '%',
      min: 0,
      max: 99,
      step: 1,
      default: 84,
      help: 'A picture whose light can’t be told so surely is left as it is.',
      shownWhen: { setting: 'estimate', is: ['surfaces'] },
    }),
    strongestCastPercent: number({
      label: 'Strongest cast',
      unit: '%',
      min: 0,
      max: 250,
      step: 5,
      default: 90,
      help: 'A stronger cast is taken for the subject’s own colour, like fire, and left alone.',
      shownWhen: byRule,
    }),
    weakestCastPercent: number({
      label: 'Weakest cast',
      unit: '%',
      min: 0,
      max: 50,
      step: 1,
      default: 12,
      help: 'A weaker cast is taken for the subject’s own colour, like wood, and left alone; one a little stronger is taken in part.',
      shownWhen: byRule,
    }),
    edition: editionSetting('At first, bright colours of which one channel was cut off came out grey.'),
  },
  upgrade: (old) => withEdition(old, { estimate: 'greys' }),
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
  onSensor: true,
  startOnRaw: (raw) => ({ by: 'temperature', ...shotNumbers(raw) }),
  neutral: { by: 'temperature', temperatureK: neutralTemperatureK, tintPercent: 0 },
  method:
    'Linear Bradford adaptation (ICC.1:2022, annex E) from the light’s white to D65, a channel at its end is taken for at least so bright, so that clipped whites stay white and bright colours keep their hue; daylight of CIE 15:2018, lamps on the Planckian locus; of a raw file by its camera’s matrices (DNG 1.4, chapter 6); by itself: the light of the locus under which the picture’s colours are most like those of surfaces in plain light, learned from computed scenes (after Barron 2015), or the mean of what looks grey under it; weak casts shrunk as by James & Stein 1961.',
  resolve: (s, here) => {
    const { matrix, unsure, sensor } = balanceFor(s, here)
    return {
      matrix: [...matrix],
      ...(unsure ? { unsure } : {}),
      ...(sensor ? { sensor } : {}),
      ...(s.by === 'asShot' && here.raw ? shotNumbers(here.raw) : {}),
      ...(s.edition === 'first' ? { first: true } : {}),
    }
  },
  render: ({ matrix, first, sensor }) => {
    if (matrix.every((value, i) => value === identity3[i])) return { kind: 'none' }
    // A sensor's light has no end but its own, and that was seen to.
    if (sensor) return { kind: 'point', domain: 'linear', passes: [matrixPass(matrix3(matrix))] }
    const pass = first
      ? { kernel: 'balance' as const, parameters: [...matrix, ...toSource, firstClippingBegins, 1 / (1 - firstClippingBegins)] }
      : balancePass(matrix)
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
    if (s.by === 'asShot') return 'as shot'
    if (s.by === 'picked') return `grey ${s.pickedRed} / ${s.pickedGreen} / ${s.pickedBlue}`
    if (s.by === 'auto') {
      const estimates = { surfaces: 'known surfaces', greys: 'among greys', greyWorld: 'grey on the whole', brightEnd: 'bright end' }
      return `by itself, ${estimates[s.estimate]}`
    }
    return `${plainNumber(s.temperatureK)} K${s.tintPercent === 0 ? '' : `, tint ${signedNumber(s.tintPercent)} %`}`
  },
  describeConstants: ({ matrix, unsure, temperatureK, tintPercent }) => {
    if (temperatureK) return `as shot ${plainNumber(temperatureK)} K, tint ${signedNumber(tintPercent ?? 0)} %`
    if (unsure) return 'not sure of the light: left as it is'
    if (matrix.every((value, i) => value === identity3[i])) return 'light left as it is'
    const white = transform(invert(matrix3(matrix)), [1, 1, 1])
    const [r, g, b] = transform(rgbToRgb(workingSpace, colourSpaces.srgb), white)
    return `light ${[r, g, b].map((value) => (value / g).toFixed(2)).join(' / ')}`
  },
})

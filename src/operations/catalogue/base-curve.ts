import { plainNumber, shortNumber } from '@/base/format'
import { asShotToWorking } from '@/colour/camera'
import { invert, matrix3 } from '@/colour/matrix'
import { srgbTransfer } from '@/colour/transfer'
import { defineOperation, type PointPass } from '../declare/operation'
import { choice, number } from '../declare/settings'
import { matrixPass } from '../support/domains'
import { lightTablePass } from '../support/light-tables'

/** Where the roll-off begins: what is darker stays as it was measured, but for the contrast. */
const knee = 0.8
/** Middle grey, a reflectance of 18 %, encoded: contrast turns about it. */
const pivot = srgbTransfer.encode(0.18)
/** How much steeper the middle is at full contrast. */
const steepest = 0.6

/**
 * Scene light to what a screen shows: a rational roll-off that reaches white `stops` above the scene's white (extended form of Reinhard et
 * al. 2002), then an S about middle grey. Rises for ever, so that exposure behind it brings bright things back.
 */
function shaped(scene: number, contrast: number, stops: number): number {
  const value = Math.abs(scene)
  const width = (2 ** stops - knee) / (1 - knee)
  const t = (value - knee) / (1 - knee)
  const rolled = t <= 0 || stops === 0 ? value : knee + (1 - knee) * ((t * (1 + t / width ** 2)) / (1 + t))
  const encoded = srgbTransfer.encode(rolled)
  const steepness = 1 + contrast * steepest
  const bent =
    encoded >= 1
      ? encoded
      : encoded < pivot
        ? pivot * (encoded / pivot) ** steepness
        : 1 - (1 - pivot) * ((1 - encoded) / (1 - pivot)) ** steepness
  return Math.sign(scene) * srgbTransfer.decode(bent)
}

/** All channels of the sensor end where the first of them does. */
const cutPasses = (toSensor: readonly number[]): PointPass[] => {
  const matrix = matrix3(toSensor)
  return [matrixPass(matrix), lightTablePass((value) => Math.min(value, 1)), matrixPass(invert(matrix))]
}

export const baseCurve = defineOperation({
  id: 'base-curve',
  name: 'Base curve',
  group: 'tone',
  purpose: 'Make a picture of a raw file’s light. Other files stay as they are.',
  settings: {
    contrastPercent: number({
      label: 'Contrast',
      unit: '%',
      min: 0,
      max: 100,
      step: 1,
      default: 40,
      help: 'An S about middle grey, which stays. At 0 % the light as it was measured.',
    }),
    roomEv: number({
      label: 'Room above white',
      unit: 'EV',
      min: 0,
      max: 4,
      step: 0.1,
      default: 2,
      help: 'So much brighter than white may things be before they are white; bright tones roll off towards it.',
    }),
    clipped: choice({
      label: 'Clipped highlights',
      options: [
        { value: 'rebuilt', label: 'Rebuilt' },
        { value: 'cut', label: 'Cut at white' },
      ],
      default: 'rebuilt',
      help: 'Rebuilt from the channels that still have something, neutral where none has; or all channels end where the first one does.',
    }),
  },
  neutral: { contrastPercent: 0, roomEv: 0, clipped: 'rebuilt' },
  changesAlways: true,
  method:
    'On linear light, channel by channel: a rational roll-off above 0.8 (extended form of Reinhard et al. 2002), then an S on encoded values about middle grey. Cut: sensor channels, balanced, at most 1.',
  resolve: ({ contrastPercent, roomEv, clipped }, { raw, isRaw }) => ({
    isRaw: isRaw ?? false,
    contrast: contrastPercent / 100,
    stops: roomEv,
    toSensor: clipped === 'cut' && raw ? [...invert(asShotToWorking(raw))] : [],
  }),
  render: ({ isRaw, contrast, stops, toSensor }) => {
    const isPlain = contrast === 0 && stops === 0
    if (!isRaw || (isPlain && toSensor.length === 0)) return { kind: 'none' }
    const passes = [
      ...(toSensor.length > 0 ? cutPasses(toSensor) : []),
      ...(isPlain ? [] : [lightTablePass((value) => shaped(value, contrast, stops))]),
    ]
    return { kind: 'point', domain: 'linear', passes }
  },
  describe: ({ contrastPercent, roomEv, clipped }) =>
    `contrast ${plainNumber(contrastPercent)} %, ${shortNumber(roomEv)} EV above white${clipped === 'cut' ? ', cut at white' : ''}`,
  describeConstants: ({ isRaw }) => (isRaw ? '' : 'left as it is: not a raw file'),
})

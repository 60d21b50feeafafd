import { moreOrLess, plainNumber } from '@/base/format'
import { memoised } from '@/base/lru-cache'
import { floatAt, numberAt } from '@/base/numbers'
import { clamp } from '@/base/scale'
import { mapPair } from '@/base/tuples'
import { identity3, type Matrix3, matrix3, transform, type Vector3 } from '@/colour/matrix'
import { luminanceWeights, rgbToXyz, workingSpace } from '@/colour/spaces'
import { type LinearPicture, quantile } from '@/pixels/linear-picture'
import { defineOperation } from '../declare/operation'
import { choice, measured, number } from '../declare/settings'
import { judgedLight } from '../measure/judged-light'
import { balanceMatrix, balancePass } from '../support/light-matrix'

/** Places in the order of brightness that are compared, and the bands around them. */
const shares = [0.1, 0.3, 0.5, 0.7, 0.9] as const
const bandWidth = 0.2
/**
 * Of a picture: how bright it is at those, in stops below white; the light it was taken in, red and blue over green, in stops; and the same
 * of the middle colour of each band.
 */
const at = { light: shares.length, bands: shares.length + 2 } as const
const statisticsCount = at.bands + 2 * shares.length
/** Stands where a band tells nothing. */
const nothing = -16
/** What is brighter may be cut off, what is darker is noise: in stops below white. */
const usable = { brightest: -0.15, darkest: -9 } as const
/** A band of which less can be used tells nothing. */
const minOfBand = 0.4
/** What is further off is another picture, not another exposure. */
const maxStops = 3

const toXyz = rgbToXyz(workingSpace)
const asNumber = (value: number): number => Number(value.toFixed(4))

function middle(values: readonly number[]): number {
  const sorted = values.toSorted((a, b) => a - b)
  return (numberAt(sorted, (sorted.length - 1) >> 1) + numberAt(sorted, sorted.length >> 1)) / 2
}

const statisticsOf = memoised((picture: LinearPicture): readonly number[] => {
  const { size, planes } = picture
  const length = size.width * size.height
  const pixel = (i: number): Vector3 => [floatAt(planes, i), floatAt(planes, length + i), floatAt(planes, 2 * length + i)]
  const white = judgedLight(picture)?.white ?? ([1, 1, 1] as const)
  // In the light of D65: a warm light shall not count as a bright one.
  const matrix = balanceMatrix(transform(toXyz, white))
  const [toRed, toGreen, toBlue] = [0, 1, 2].map((c) =>
    luminanceWeights.reduce((sum, weight, row) => sum + weight * numberAt(matrix, 3 * row + c), 0),
  ) as [number, number, number]
  const light = new Float32Array(length)
  for (let i = 0; i < length; i++) {
    const [r, g, b] = pixel(i)
    light[i] = toRed * r + toGreen * g + toBlue * b
  }
  const stops = (value: number): number => asNumber(Math.log2(Math.max(value, 2 ** -12)))
  const bands = shares.flatMap((share) => {
    const [from, to] = [quantile(light, share - bandWidth / 2), quantile(light, share + bandWidth / 2)]
    const [red, blue]: [number[], number[]] = [[], []]
    let all = 0
    for (let i = 0; i < length; i++) {
      const value = floatAt(light, i)
      if (value < from || value > to) continue
      all++
      const [r, g, b] = pixel(i)
      if (Math.max(r, g, b) > 2 ** usable.brightest || Math.min(r, g, b) < 2 ** usable.darkest) continue
      red.push(Math.log2(r / g))
      blue.push(Math.log2(b / g))
    }
    return red.length < minOfBand * all || red.length === 0
      ? [nothing, nothing]
      : mapPair([red, blue], (values) => asNumber(quantile(Float32Array.from(values), 0.5)))
  })
  return [...shares.map((share) => stops(quantile(light, share))), stops(white[0]), stops(white[2]), ...bands]
})

/** The middle of some values, and how far from it they lie in the middle. */
function agreed(values: readonly number[]): { readonly value: number; readonly apart: number } {
  const value = middle(values)
  return { value, apart: middle(values.map((one) => Math.abs(one - value))) }
}
/** How much is believed of what disagrees so much, where of `half` of it half is believed: 0–1. */
const belief = (apart: number, half: number): number => Math.exp(-Math.LN2 * (apart / half) ** 2)

/** Places of brightness that disagree by so many stops are of other things. */
const otherTones = 0.3

/**
 * Stops by which a picture has to become brighter to be as bright as the reference: the middle of what its places say. Where they say
 * different things, the pictures show different things, and each is as bright as those are.
 */
function stopsTo(reference: readonly number[], own: readonly number[]): number {
  const away = shares.flatMap((_, i) => {
    const [to, from] = [numberAt(reference, i), numberAt(own, i)]
    return Math.max(to, from) > usable.brightest || Math.min(to, from) < usable.darkest ? [] : [to - from]
  })
  if (away.length === 0) return 0
  const { value, apart } = agreed(away)
  return clamp(value * belief(apart, otherTones), -maxStops, maxStops)
}

/** Bands of colour that disagree by so many stops are of other things; so are those that disagree by so many with the light itself. */
const otherColours = { amongBands: 0.03, withLight: 0.6 } as const

/**
 * From the light of one picture to that of another, red and blue over green, in stops. Where all bands say the same, both show the same
 * things, and those tell it best; where they do not, it is what the lights themselves are.
 */
function lightTo(reference: readonly number[], own: readonly number[]): readonly [red: number, blue: number] {
  const away = mapPair([0, 1], (c) =>
    shares.flatMap((_, k) => {
      const [to, from] = [numberAt(reference, at.bands + 2 * k + c), numberAt(own, at.bands + 2 * k + c)]
      return to === nothing || from === nothing ? [] : [to - from]
    }),
  )
  const byLight = mapPair([0, 1], (c) => numberAt(reference, at.light + c) - numberAt(own, at.light + c))
  if (away[0].length < 2) return byLight
  const [red, blue] = mapPair(away, agreed)
  const fromLight = Math.hypot(red.value - byLight[0], blue.value - byLight[1])
  const share = belief(Math.hypot(red.apart, blue.apart), otherColours.amongBands) * belief(fromLight, otherColours.withLight)
  return [byLight[0] + (red.value - byLight[0]) * share, byLight[1] + (blue.value - byLight[1]) * share]
}

/** The adaptation from a picture's light to one so many stops of red and blue further. */
function towards(own: readonly number[], [red, blue]: readonly [number, number], share: number): Matrix3 {
  const [r, b] = [numberAt(own, at.light), numberAt(own, at.light + 1)]
  const white = (part: number): Vector3 => transform(toXyz, [2 ** (r + red * part), 1, 2 ** (b + blue * part)])
  return balanceMatrix(white(0), white(share))
}

/** The middle of what was measured on many pictures, number by number. */
const middleOfSet = (pictures: readonly (readonly number[])[]): readonly number[] =>
  Array.from({ length: statisticsCount }, (_, i) => {
    const values = pictures.map((one) => numberAt(one, i))
    const known = values.filter((value) => value !== nothing)
    return known.length * 2 < values.length || known.length === 0 ? nothing : asNumber(middle(known))
  })

export const evenOut = defineOperation({
  id: 'even-out',
  name: 'Even out the set',
  group: 'colour',
  purpose: 'Bring all pictures of a run to one brightness and one colour of light, measured on the set.',
  settings: {
    to: choice({
      label: 'To',
      options: [
        { value: 'middle', label: 'Set’s middle' },
        { value: 'picked', label: 'Picked picture' },
      ],
      default: 'middle',
      help: 'The middle of all pictures is measured before a loop’s first run and kept with the loop; on the bench it is that of the tray.',
    }),
    reference: measured({
      label: 'Reference',
      count: statisticsCount,
      min: nothing,
      max: -nothing,
      action: 'Take from this picture',
      default: [],
      help: 'Brightness and light of the picture on the bench. Lay the reference on the bench and press the button.',
      shownWhen: { setting: 'to', is: ['picked'] },
    }),
    what: choice({
      label: 'What',
      options: [
        { value: 'both', label: 'Both' },
        { value: 'tone', label: 'Brightness' },
        { value: 'colour', label: 'Light' },
      ],
      default: 'both',
      help: 'How bright the pictures are, the colour of the light they were taken in, or both.',
    }),
    amountPercent: number({
      label: 'Amount',
      unit: '%',
      min: 0,
      max: 100,
      step: 1,
      default: 100,
      help: 'How much of the way is gone.',
    }),
  },
  neutral: { amountPercent: 0 },
  method:
    'One gain, the middle of what five quantiles of luminance say, and Bradford adaptation from the picture’s light to the set’s: by the median colours of five bands of luminance where those agree, else by the light as white balance finds it from known surfaces. The set’s middle is the median of each number.',
  measure: statisticsOf,
  ofSet: { setting: 'reference', isWanted: ({ to, amountPercent }) => to === 'middle' && amountPercent !== 0, together: middleOfSet },
  resolve: ({ reference, what, amountPercent }, { copy }) => {
    const picture = reference.length === statisticsCount && amountPercent > 0 ? copy?.() : undefined
    if (!picture) return { stops: 0, matrix: [...identity3] }
    const own = statisticsOf(picture)
    const share = amountPercent / 100
    const stops = what === 'colour' ? 0 : stopsTo(reference, own) * share
    return { stops, matrix: what === 'tone' ? [...identity3] : [...towards(own, lightTo(reference, own), share)] }
  },
  render: ({ stops, matrix }) => {
    const gain = { kernel: 'exposure' as const, parameters: [2 ** stops, 1] }
    const isLightKept = matrix.every((value, i) => value === identity3[i])
    const passes = [...(isLightKept ? [] : [balancePass(matrix)]), ...(stops === 0 ? [] : [gain])]
    return passes.length === 0 ? { kind: 'none' } : { kind: 'point', domain: 'linear', passes }
  },
  describe: (s) => {
    const what = { both: 'brightness and light', tone: 'brightness', colour: 'light' }[s.what]
    const to = s.to === 'middle' ? 'to the set’s middle' : s.reference.length === 0 ? 'no reference yet' : 'to the picked picture'
    return `${what} ${to}${s.amountPercent < 100 ? `, ${plainNumber(s.amountPercent)} %` : ''}`
  },
  describeConstants: ({ stops, matrix }) => {
    const [red, , blue] = transform(matrix3(matrix), [1, 1, 1])
    const isWarmer = red > blue
    const light = Math.abs(Math.log2(red / blue)) < 0.02 ? '' : isWarmer ? ', light warmer' : ', light cooler'
    return `${moreOrLess(stops, ' EV', ['brighter', 'darker'], 2) ?? 'as bright as it is'}${light}`
  },
})

import { plainNumber } from '@/base/format'
import { memoised } from '@/base/lru-cache'
import { mapPair, mapTriple } from '@/base/tuples'
import { type LinearPicture, quantile } from '@/pixels/linear-picture'
import { defineOperation } from '../declare/operation'
import { choice, measured, number } from '../declare/settings'
import { labOf } from '../support/lab-planes'

/** Of each plane of OKLab: the middle value and how far apart the outer tenths are. */
const statisticsCount = 6
/** Spreads are brought nearer to each other by no more than this factor: a flat picture does not become a loud one. */
const maxStretch = 1.6
/** Spreads below this say nothing. */
const minSpread = 0.01

const statisticsOf = memoised((picture: LinearPicture): readonly number[] =>
  labOf(picture).flatMap((plane) => {
    const [low, middle, high] = mapTriple([0.1, 0.5, 0.9], (share) => quantile(plane, share))
    return [Number(middle.toFixed(4)), Number((high - low).toFixed(4))]
  }),
)

export const match = defineOperation({
  id: 'match',
  name: 'Match',
  group: 'colour',
  purpose: 'Bring each picture to the tones and colours of a reference, so that a set agrees.',
  settings: {
    reference: measured({
      label: 'Reference',
      count: statisticsCount,
      min: -2,
      max: 2,
      action: 'Take from this picture',
      default: [],
      help: 'Middle and spread of lightness and colour of the picture on the bench. Lay the reference on the bench and press the button.',
    }),
    what: choice({
      label: 'What',
      options: [
        { value: 'both', label: 'Both' },
        { value: 'tone', label: 'Tone' },
        { value: 'colour', label: 'Colour' },
      ],
      default: 'both',
      help: 'Tone is lightness alone; colour is everything but lightness.',
    }),
    amountPercent: number({
      label: 'Amount',
      unit: '%',
      min: 0,
      max: 100,
      step: 1,
      default: 80,
      help: 'How much of the way to the reference is gone.',
    }),
  },
  neutral: { amountPercent: 0 },
  method:
    'Statistics transfer in OKLab after Reinhard et al. 2001, with medians and the spread of the middle 80 % instead of means and deviations; spreads change by 1.6 times at most.',
  measure: statisticsOf,
  resolve: ({ reference, what, amountPercent }, { copy }) => {
    const picture = reference.length === statisticsCount && amountPercent > 0 ? copy?.() : undefined
    const own = picture ? statisticsOf(picture) : []
    const share = amountPercent / 100
    const maps = [0, 1, 2].flatMap((plane) => {
      const [from, to] = mapPair([own, reference], (values) => [values[plane * 2] ?? 0, values[plane * 2 + 1] ?? 0] as const)
      const used = picture !== undefined && (what === 'both' || (what === 'tone') === (plane === 0))
      if (!used) return [1, 0]
      const ratio = Math.max(to[1], minSpread) / Math.max(from[1], minSpread)
      const scale = 1 + (Math.min(maxStretch, Math.max(1 / maxStretch, ratio)) - 1) * share
      const middle = from[0] + (to[0] - from[0]) * share
      return [scale, middle - from[0] * scale]
    })
    return { maps }
  },
  render: ({ maps: [ls = 1, lo = 0, as = 1, ao = 0, bs = 1, bo = 0] }) =>
    ls === 1 && lo === 0 && as === 1 && ao === 0 && bs === 1 && bo === 0
      ? { kind: 'none' }
      : { kind: 'point', domain: 'oklab', passes: [{ kernel: 'affine', parameters: [ls, 0, 0, lo, 0, as, 0, ao, 0, 0, bs, bo] }] },
  describe: (s) => {
    const what = { both: 'tone and colour', tone: 'tone', colour: 'colour' }[s.what]
    return s.reference.length === 0 ? 'no reference yet' : `${what} to the reference, ${plainNumber(s.amountPercent)} %`
  },
})

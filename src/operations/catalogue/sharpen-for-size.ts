import { plainNumber, shortNumber } from '@/base/format'
import { longEdge, scaleSize } from '@/base/geometry'
import { defineOperation, type Effect } from '../declare/operation'
import { number, toggle } from '../declare/settings'
import { editionSetting, withEdition } from '../support/editions'
import { unsharpEffect } from './unsharp-mask'

/** Deviation of the blur, in pixels of the finished picture. */
const finishedRadiusPx = 0.7
/** Overshoot allowed at the working size; the reduction that follows takes most of it. */
const haloLimit = 4 / 255
/** Difference from which something counts as an edge. */
const edgeThreshold = { edges: 2 / 255, everything: 0.6 / 255 } as const

const pass = (label: string, defaultValue: number, help: string) =>
  number({ label, unit: '%', min: 0, max: 300, step: 1, default: defaultValue, help })

export const sharpenForSize = defineOperation({
  id: 'sharpen-for-size',
  name: 'Sharpen for size',
  group: 'sharpening',
  purpose: 'Bring the picture to its delivered size, crisp: sharpened at a larger size, then reduced.',
  settings: {
    longEdgePx: number({
      typed: true,
      label: 'Long edge',
      unit: 'px',
      min: 16,
      max: 65535,
      step: 1,
      default: 2048,
      help: 'Of the finished picture. A smaller one is sharpened at the size it has.',
    }),
    oversample: number({
      label: 'Working size',
      unit: '',
      min: 1,
      max: 2,
      step: 0.01,
      default: 1.67,
      help: 'How much larger than the finished picture it is sharpened. Around 1.67 is common practice.',
    }),
    firstPercent: pass('First pass', 88, 'Strength of the first pass.'),
    secondPercent: pass('Second pass', 44, 'Strength of the second pass. 0 leaves it out.'),
    thirdPercent: pass('Third pass', 0, 'Strength of the third pass. 0 leaves it out.'),
    edgesOnly: toggle({ label: 'Edges only', default: true, help: 'Smooth areas and faint noise are left alone.' }),
    keepColour: toggle({
      label: 'Keep colour',
      default: true,
      help: 'Sharpens lightness only, so that strong colours keep their saturation.',
    }),
    edition: editionSetting('At first, dark and bright lines rang beside edges.'),
  },
  upgrade: (old) => withEdition(old, { firstPercent: 70, secondPercent: 35 }),
  neutral: { longEdgePx: 65535, firstPercent: 0, secondPercent: 0, thirdPercent: 0 },
  method:
    'Lanczos-3 to target × working size, unsharp mask a pass with overshoot held back, Lanczos-3 to the target, all in linear light but for the sharpening, which works on OKLab lightness.',
  sizeAlone: (s) => ({ operation: 'resize', settings: { by: 'longEdge', lengthPx: Number(s.longEdgePx) } }),
  resolve: (s, { size }) => {
    const factor = Math.min(1, s.longEdgePx / longEdge(size))
    const target = scaleSize(size, factor)
    // Without a reduction there is nothing to gain from a larger working size.
    const amounts = [s.firstPercent, s.secondPercent, s.thirdPercent].filter((percent) => percent > 0).map((percent) => percent / 100)
    const working = amounts.length === 0 ? target : scaleSize(target, s.oversample)
    return {
      size: [target.width, target.height],
      working: [working.width, working.height],
      amounts,
      radiusPx: finishedRadiusPx * s.oversample,
      threshold: s.edgesOnly ? edgeThreshold.edges : edgeThreshold.everything,
      lightnessOnly: s.keepColour,
      same: target.width === size.width && target.height === size.height,
      ...(s.edition === 'first' ? { first: true } : {}),
    }
  },
  render: ({ size, working, amounts, radiusPx, threshold, lightnessOnly, same, first }) => {
    if (same && amounts.length === 0) return { kind: 'none' }
    const resample = ([width = 1, height = 1]: readonly number[]): Effect => ({
      kind: 'resample',
      size: { width, height },
      kernel: 'lanczos3',
      held: first !== true,
    })
    // Halos do not add up: later passes make edges steeper within what the first one has.
    const limitOf = (pass: number): number => (first || pass === 0 ? haloLimit : 0)
    const passes = amounts.map((amount, pass) =>
      unsharpEffect({ amount, radiusPx, threshold, haloLimit: limitOf(pass), lightnessOnly, first: true }),
    )
    return { kind: 'chain', effects: [resample(working), ...passes, resample(size)] }
  },
  describe: (s) => {
    const passes = [s.firstPercent, s.secondPercent, s.thirdPercent].filter((percent) => percent > 0)
    return `long edge ${plainNumber(s.longEdgePx)} px, ${passes.length > 0 ? passes.map((percent) => `${plainNumber(percent)} %`).join(' + ') : 'no sharpening'}${passes.length > 0 ? ` at × ${shortNumber(s.oversample)}` : ''}`
  },
  describeConstants: ({ size, same }) => (same ? 'already this size' : `to ${size[0]} × ${size[1]} px`),
})

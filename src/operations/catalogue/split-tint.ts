import { plainNumber } from '@/base/format'
import { defineOperation } from '../declare/operation'
import { number } from '../declare/settings'

type Band = 'shadows' | 'mids' | 'highlights'
const bands: readonly Band[] = ['shadows', 'mids', 'highlights']

/** OKLab chroma that a band's full strength adds. */
const fullChroma = 0.1

const hue = (band: Band, value: number) =>
  number({ label: `Hue of ${band}`, unit: '°', min: 0, max: 360, step: 1, default: value, help: `Which colour the ${band} lean to.` })
const strength = (band: Band) =>
  number({ label: `Strength in ${band}`, unit: '%', min: 0, max: 100, step: 1, default: 0, help: `How far the ${band} lean to it.` })

export const splitTint = defineOperation({
  id: 'split-tint',
  name: 'Split tint',
  group: 'colour',
  purpose: 'Lean shadows, mids and highlights towards colours of their own.',
  settings: {
    shadowsHueDegrees: hue('shadows', 250),
    shadowsPercent: strength('shadows'),
    midsHueDegrees: hue('mids', 70),
    midsPercent: strength('mids'),
    highlightsHueDegrees: hue('highlights', 80),
    highlightsPercent: strength('highlights'),
  },
  neutral: {},
  method: 'Adds OKLab colour with the weights (1 − L)², 2L(1 − L), L², which sum to one; lightness stays, black and white stay neutral.',
  resolve: (s) => {
    const add = bands.map((band) => {
      const chroma = (s[`${band}Percent`] / 100) * fullChroma
      const angle = (s[`${band}HueDegrees`] * Math.PI) / 180
      return [chroma * Math.cos(angle) + 0, chroma * Math.sin(angle) + 0] as const
    })
    return { colours: [...add.map(([a]) => a), ...add.map(([, b]) => b)] }
  },
  render: ({ colours }) =>
    colours.every((value) => value === 0)
      ? { kind: 'none' }
      : { kind: 'point', domain: 'oklab', passes: [{ kernel: 'splitTint', parameters: colours }] },
  describe: (s) =>
    bands
      .filter((band) => s[`${band}Percent`] > 0)
      .map((band) => `${band} ${plainNumber(s[`${band}HueDegrees`])}° ${plainNumber(s[`${band}Percent`])} %`)
      .join(', ') || 'no change',
})

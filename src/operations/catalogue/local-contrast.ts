import { plainNumber, shortNumber, signedNumber } from '@/base/format'
import { defineOperation } from '../declare/operation'
import { number } from '../declare/settings'
import { editionSetting, withEdition } from '../support/editions'
import { byPosition, gridRadius, guidedBase, guidedCoefficients } from '../support/grid'
import { lightnessOf } from '../support/lab-planes'
import { skinHue } from '../support/skin'

/** Edges stronger than this, in lightness, belong to the base and are not lifted: no rims along them. Weaker ones do not, all at once. */
const edgeLightness = 0.035
const firstEdgeLightness = 0.12

const guard = (label: string, defaultValue: number, help: string) =>
  number({ label, unit: '%', min: 0, max: 100, step: 1, default: defaultValue, help })

export const localContrast = defineOperation({
  id: 'local-contrast',
  name: 'Local contrast',
  group: 'tone',
  purpose: 'Bring out or calm the drawing inside light and dark areas; large edges stay.',
  settings: {
    amountPercent: number({
      label: 'Amount',
      unit: '%',
      min: -100,
      max: 100,
      step: 1,
      default: 25,
      help: 'Above 0 lifts the difference to the surroundings, below 0 smooths it.',
    }),
    radiusPercent: number({
      label: 'Radius',
      unit: '%',
      min: 0.4,
      max: 10,
      step: 0.1,
      default: 1.5,
      logarithmic: true,
      help: 'Size of the surroundings, in percent of the long edge, so that large and small pictures look alike.',
    }),
    highlightGuardPercent: guard('Spare highlights', 40, 'How much bright areas are left alone.'),
    shadowGuardPercent: guard('Spare shadows', 40, 'How much dark areas, where noise hides, are left alone.'),
    skinGuardPercent: guard('Spare skin', 50, 'How much the hues of skin are left alone.'),
    edition: editionSetting('At first, rims were drawn along strong edges.'),
  },
  upgrade: (old) => withEdition(old),
  neutral: { amountPercent: 0 },
  method:
    'OKLab lightness = base + (1 + amount) × detail, the base by a guided filter (He, Sun & Tang 2010) made on a copy of 512 px, whose windows pass suddenly from flat to edge; chroma follows lightness.',
  resolve: (s, { copy }) => ({
    amount: s.amountPercent / 100,
    radius: s.radiusPercent / 100,
    guards: [s.highlightGuardPercent / 100, s.shadowGuardPercent / 100, s.skinGuardPercent / 100],
    measured: copy !== undefined,
    ...(s.edition === 'first' ? { first: true } : {}),
  }),
  render: ({ amount, radius, guards, first }, { copy }) => {
    const picture = amount === 0 ? undefined : copy?.()
    if (!picture) return { kind: 'none' }
    const lightness = lightnessOf(picture)
    const edges = first ? { epsilon: firstEdgeLightness ** 2 } : { epsilon: edgeLightness ** 2, sudden: true }
    const grid = guidedCoefficients(picture.kernels, lightness, lightness, picture.size, {
      radius: gridRadius(picture.size, radius),
      ...edges,
    })
    return byPosition('oklab', (job, pixels) => {
      const { run, heap } = job.kernels
      const [l, a, b] = pixels.channels
      const base = guidedBase(job, grid, l, pixels)
      run.localContrast(l, a, b, base, pixels.stride * pixels.height, heap.floats([amount, ...guards, ...skinHue]))
    })
  },
  describe: (s) => `${signedNumber(s.amountPercent)} %, radius ${shortNumber(s.radiusPercent, 1)} % of the long edge${describeGuards(s)}`,
})

const describeGuards = (s: Readonly<Record<'highlightGuardPercent' | 'shadowGuardPercent' | 'skinGuardPercent', number>>): string => {
  const parts = [
    ['highlights', s.highlightGuardPercent],
    ['shadows', s.shadowGuardPercent],
    ['skin', s.skinGuardPercent],
  ] as const
  const spared = parts.filter(([, percent]) => percent > 0).map(([name, percent]) => `${name} ${plainNumber(percent)} %`)
  return spared.length > 0 ? `, spares ${spared.join(', ')}` : ''
}

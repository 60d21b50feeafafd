import type { Macro } from '@/macros/macro'
import { newStep, type Step } from '@/macros/step'

/*
 * The macros that come with the demo: each for something a pottery with a camera needs, and each with what a beginner would leave
 * out: conditions for the noisy frames, limits that spare white grounds, sharpening last.
 */

/** A macro with a fixed id, so that the demo's loops can name it. */
export interface DemoMacro extends Macro {
  readonly id: string
}

const noisy = { kind: 'iso', from: 1600, to: null } as const
const when = (step: Step, ...conditions: Step['when']): Step => ({ ...step, when: conditions })

const denoise = (id: string, settings = {}): Step => when(newStep('noise-reduction', id, settings), noisy)
const gentleCurve = newStep('curve', 'curve', {
  all: [
    [0, 0],
    [64, 62],
    [128, 132],
    [192, 198],
    [255, 255],
  ],
})

const shopListing: DemoMacro = {
  id: 'demo-shop-listing',
  name: 'Shop listing',
  notes: 'For the shop pages: a little lift, clean white ground, crisp glaze, square and small.',
  tags: ['web', 'vessels'],
  steps: [
    newStep('exposure', 'lift', { exposureEv: 0.2, shoulderPercent: 30 }),
    newStep('levels', 'ground', { allBlack: 6, allWhite: 248, allGamma: 1.05 }),
    newStep('saturation', 'glaze', { saturationPercent: 8 }),
    newStep('crop', 'square', { shape: 'ratio', ratioWidth: 1, ratioHeight: 1 }),
    newStep('resize', 'small', { by: 'longEdge', lengthPx: 1350 }),
    newStep('unsharp-mask', 'crisp', { amountPercent: 80, radiusPx: 0.7, thresholdLevels: 2, haloLimitLevels: 6 }),
  ],
}

const evenLight: DemoMacro = {
  id: 'demo-even-light',
  name: 'Even light',
  notes: 'The start of most sets: neutral light, full tones, nothing clipped. Made to be played inside other macros.',
  tags: ['base'],
  steps: [
    {
      ...newStep('white-balance', 'light', { by: 'auto' }),
      note: 'Leaves fire and kiln glow alone: a cast stronger than 110 % is the subject’s own.',
    },
    {
      ...newStep('full-range', 'range', { boldPercent: 30 }),
      strengthPercent: 50,
      note: 'Half of the way: a picture without black stays soft.',
    },
    gentleCurve,
  ],
}

const playEvenLight = newStep('play-macro', 'base', {
  macro: { macroId: evenLight.id, name: evenLight.name, revision: 1, steps: evenLight.steps.map((step) => ({ ...step })) },
})

/** @param mark the drawn mark, kept: hash and name. */
export const demoMacros = (mark: string): DemoMacro[] => [
  shopListing,
  evenLight,
  {
    id: 'demo-print-set',
    name: 'Print set 30 × 20',
    notes: 'Prints of 30 × 20 cm at 300 dpi, upright ones 20 × 30. Smaller pictures are not blown up.',
    tags: ['print'],
    steps: [
      playEvenLight,
      denoise('noise', { brightnessNoisePercent: 70 }),
      newStep('straighten', 'level', { by: 'lines', maxDegrees: 3 }),
      newStep('local-contrast', 'depth', { amountPercent: 15 }),
      newStep('crop', 'paper', { shape: 'ratio', ratioWidth: 3, ratioHeight: 2 }),
      newStep('resize', 'size', { by: 'print', printLength: 30, printUnit: 'cm', printDpi: 300 }),
      newStep('unsharp-mask', 'ink', { amountPercent: 110, radiusPx: 1.2, haloLimitLevels: 10 }),
    ],
  },
  {
    id: 'demo-archive',
    name: 'Archive set',
    notes: 'For keeping: full size, nothing sharpened or cropped; hot pixels and the noise of high ISO go. Deliver as 16-bit TIFF.',
    tags: ['archive'],
    steps: [
      newStep('despeckle', 'hot', { sizePx: 1, thresholdLevels: 28 }),
      denoise('noise', { brightnessNoisePercent: 60, keepTexturePercent: 65 }),
    ],
  },
  {
    id: 'demo-mono-diary',
    name: 'Mono diary',
    notes: 'The firing’s diary in black and white: as through an orange filter, warm in the shadows, with grain.',
    tags: ['mono'],
    steps: [
      denoise('noise'),
      newStep('full-range', 'range'),
      newStep('monochrome', 'mono', { filter: 'orange' }),
      newStep('tone-bands', 'tones', { shadowsEv: 0.25, lightsEv: -0.15 }),
      newStep('brightness-contrast', 'contrast', { contrastPercent: 18, pivotPercent: 45 }),
      newStep('split-tint', 'warm', { shadowsHueDegrees: 65, shadowsPercent: 14, highlightsHueDegrees: 90, highlightsPercent: 5 }),
      newStep('grain', 'grain', { amountPercent: 12, sizePx: 1.1 }),
      newStep('resize', 'size', { by: 'longEdge', lengthPx: 1800 }),
      newStep('unsharp-mask', 'crisp', { amountPercent: 70, radiusPx: 0.7 }),
    ],
  },
  {
    id: 'demo-kiln-glow',
    name: 'Kiln glow at high ISO',
    notes: 'Fire keeps its colour: no white balance. Strong noise goes, the brightest glow comes back from the edge of white.',
    tags: ['kiln', 'night'],
    steps: [
      denoise('noise', { brightnessNoisePercent: 95, keepTexturePercent: 40, blotches: 'large' }),
      newStep('tone-bands', 'glow', { peaksEv: -0.6, lightsEv: -0.25, shadowsEv: 0.45, deepEv: 0.2 }),
      newStep('local-contrast', 'depth', { amountPercent: 12, shadowGuardPercent: 80 }),
      newStep('resize', 'size', { by: 'longEdge', lengthPx: 2048 }),
      newStep('unsharp-mask', 'crisp', { amountPercent: 70, radiusPx: 0.8, thresholdLevels: 4, haloLimitLevels: 5 }),
    ],
  },
  {
    id: 'demo-tiles',
    name: 'Tile close-ups',
    notes: 'Even corners, glaze that can be felt, square. Fine texture is lifted only where there is drawing.',
    tags: ['web', 'tiles'],
    steps: [
      playEvenLight,
      newStep('falloff', 'corners', { cornersEv: 0.25, beginsPercent: 45 }),
      {
        ...newStep('detail-bands', 'glaze', { finePercent: 25, mediumPercent: 15 }),
        limit: [{ kind: 'edges', join: 'and', inverted: false, settings: { radiusPx: 2, thresholdLevels: 4, featherPx: 4 }, strokes: [] }],
      },
      newStep('vibrance', 'colour', { vibrancePercent: 15 }),
      newStep('crop', 'square', { shape: 'ratio', ratioWidth: 1, ratioHeight: 1, position: 'subject' }),
      newStep('sharpen-for-size', 'size', { longEdgePx: 1600 }),
    ],
  },
  {
    id: 'demo-marked',
    name: 'Marked previews',
    notes: 'For customers to choose from: small, with the mark across and the number to order by. Asks how strong the mark is.',
    tags: ['preview', 'mark'],
    steps: [
      playEvenLight,
      newStep('resize', 'size', { by: 'longEdge', lengthPx: 1200 }),
      {
        ...newStep('stamp-image', 'mark', {
          file: mark,
          repeats: true,
          spacingPercent: 110,
          angleDegrees: 25,
          sizePercent: 16,
          opacityPercent: 16,
        }),
        open: [{ setting: 'opacityPercent', question: 'How strong is the mark?' }],
      },
      newStep('stamp-text', 'number', { text: '{name}', font: 'jetbrains-mono-400', positionXPercent: 0, sizePercent: 3, plate: true }),
    ],
  },
  {
    id: 'demo-client',
    name: 'Client previews',
    notes: 'Quick and true: even light, 1600 px, sharpened for that size.',
    tags: ['preview'],
    steps: [
      playEvenLight,
      denoise('noise'),
      newStep('sharpen-for-size', 'size', { longEdgePx: 1600, firstPercent: 60, secondPercent: 25 }),
    ],
  },
  {
    id: 'demo-yard',
    name: 'Yard in haze',
    notes: 'Outdoors by the sea: haze goes, the far hill comes nearer, the sky stays calm.',
    tags: ['yard'],
    steps: [
      newStep('straighten', 'level', { by: 'lines', maxDegrees: 4 }),
      newStep('white-balance', 'light', { by: 'auto' }),
      newStep('haze', 'haze', { amountPercent: 35 }),
      newStep('tone-bands', 'tones', { shadowsEv: 0.2, peaksEv: -0.3 }),
      newStep('vibrance', 'colour', { vibrancePercent: 18 }),
      newStep('resize', 'size', { by: 'longEdge', lengthPx: 2048 }),
      newStep('unsharp-mask', 'crisp', { amountPercent: 80, radiusPx: 0.7 }),
    ],
  },
  {
    id: 'demo-odd-exposures',
    name: 'Mend odd exposures',
    notes: 'For the one or two of a set that came out too bright or too dark: ends come back, the middle stays. Asks for a lift of all.',
    tags: ['base'],
    steps: [
      {
        ...newStep('exposure', 'lift', { exposureEv: 0, shoulderPercent: 70 }),
        open: [{ setting: 'exposureEv', question: 'Brighter or darker by how many stops?' }],
      },
      newStep('full-range', 'range'),
      {
        ...newStep('exposure', 'lights', { exposureEv: -0.5 }),
        limit: [
          {
            kind: 'tone',
            join: 'and',
            inverted: false,
            settings: { fromPercent: 82, toPercent: 100, softPercent: 18, featherPx: 12 },
            strokes: [],
          },
        ],
      },
      newStep('tone-bands', 'shadows', { shadowsEv: 0.3, deepEv: 0.15 }),
    ],
  },
  {
    id: 'demo-carded',
    name: 'On a white card',
    notes: 'Laid on a white square with the name under it: for walls, contact sheets and one-line posts.',
    tags: ['web'],
    steps: [
      playEvenLight,
      newStep('resize', 'size', { by: 'longEdge', lengthPx: 1400 }),
      newStep('unsharp-mask', 'crisp', { amountPercent: 70, radiusPx: 0.7 }),
      newStep('pad', 'border', { by: 'percent', borderPercent: 8 }),
      newStep('pad', 'card', { by: 'ratio', ratioWidth: 1, ratioHeight: 1 }),
      newStep('stamp-text', 'name', {
        text: '{title|name}',
        positionXPercent: 50,
        marginPercent: 2,
        sizePercent: 2.6,
        opacityPercent: 90,
        tint: 'given',
        colour: '#3a3f3c',
      }),
    ],
  },
  {
    id: 'demo-raw',
    name: 'Raw to web',
    notes: 'From the camera’s raw files to pictures for the web. JPEGs of the same set come out alike: they skip what is for raw files.',
    tags: ['raw', 'web'],
    steps: [
      newStep('white-balance', 'light', { by: 'asShot' }),
      newStep('exposure', 'exposure'),
      newStep('base-curve', 'picture'),
      denoise('noise'),
      newStep('resize', 'size', { by: 'longEdge', lengthPx: 1600 }),
      newStep('unsharp-mask', 'crisp', { amountPercent: 70, radiusPx: 0.7, haloLimitLevels: 6 }),
    ],
  },
]

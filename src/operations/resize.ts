import { plainNumber, shortNumber } from '@/core/format'
import type { Size } from '@/core/geometry'
import { type ResamplingKernelId, resamplingKernels } from '@/core/resampling'
import { defineOperation } from './operation'
import { choice, number, type SettingsOf, toggle } from './settings'

const by = (...is: string[]) => ({ setting: 'by', is })

const settings = {
  by: choice({
    label: 'By',
    options: [
      { value: 'longEdge', label: 'Long edge' },
      { value: 'shortEdge', label: 'Short edge' },
      { value: 'width', label: 'Width' },
      { value: 'height', label: 'Height' },
      { value: 'box', label: 'Fit in a box' },
      { value: 'percent', label: 'Per cent' },
      { value: 'megapixels', label: 'Megapixels' },
    ],
    default: 'longEdge',
    help: 'Which measure is given; the other side follows in proportion.',
  }),
  lengthPx: number({
    typed: true,
    label: 'Length',
    unit: 'px',
    min: 1,
    max: 65535,
    step: 1,
    default: 2048,
    help: 'Length of the side named above.',
    shownWhen: by('longEdge', 'shortEdge', 'width', 'height'),
  }),
  boxWidthPx: number({
    typed: true,
    label: 'Box width',
    unit: 'px',
    min: 1,
    max: 65535,
    step: 1,
    default: 2048,
    help: 'The picture becomes no wider than this.',
    shownWhen: by('box'),
  }),
  boxHeightPx: number({
    typed: true,
    label: 'Box height',
    unit: 'px',
    min: 1,
    max: 65535,
    step: 1,
    default: 2048,
    help: 'The picture becomes no higher than this.',
    shownWhen: by('box'),
  }),
  scalePercent: number({
    label: 'Scale',
    unit: '%',
    min: 1,
    max: 1000,
    step: 0.1,
    default: 50,
    logarithmic: true,
    help: 'Of the present sides.',
    shownWhen: by('percent'),
  }),
  megapixels: number({
    typed: true,
    label: 'Megapixels',
    unit: 'MP',
    min: 0.01,
    max: 500,
    step: 0.01,
    default: 2,
    logarithmic: true,
    help: 'Area of the result, in millions of pixels.',
    shownWhen: by('megapixels'),
  }),
  mayEnlarge: toggle({ label: 'May enlarge', default: false, help: 'Off: a picture that is smaller already is left as it is.' }),
  kernel: choice({
    label: 'Filter',
    options: Object.values(resamplingKernels).map(({ id, name }) => ({ value: id, label: name })),
    default: 'lanczos3' satisfies ResamplingKernelId,
    help: 'Lanczos-3 is sharpest; Mitchell rings least; bilinear is softest.',
  }),
}
type ResizeSettings = SettingsOf<typeof settings>

function factorFor(s: ResizeSettings, { width, height }: Size): number {
  switch (s.by) {
    case 'longEdge':
      return s.lengthPx / Math.max(width, height)
    case 'shortEdge':
      return s.lengthPx / Math.min(width, height)
    case 'width':
      return s.lengthPx / width
    case 'height':
      return s.lengthPx / height
    case 'box':
      return Math.min(s.boxWidthPx / width, s.boxHeightPx / height)
    case 'percent':
      return s.scalePercent / 100
    default:
      return Math.sqrt((s.megapixels * 1e6) / (width * height))
  }
}

/** The size a picture gets, whole pixels; the named side comes out exactly. */
export function resizedSize(s: ResizeSettings, picture: Size): Size {
  const wanted = factorFor(s, picture)
  const factor = s.mayEnlarge ? wanted : Math.min(1, wanted)
  return { width: Math.max(1, Math.round(picture.width * factor)), height: Math.max(1, Math.round(picture.height * factor)) }
}

const describeMeasure: Record<string, (s: ResizeSettings) => string> = {
  longEdge: (s) => `long edge ${plainNumber(s.lengthPx)} px`,
  shortEdge: (s) => `short edge ${plainNumber(s.lengthPx)} px`,
  width: (s) => `width ${plainNumber(s.lengthPx)} px`,
  height: (s) => `height ${plainNumber(s.lengthPx)} px`,
  box: (s) => `into ${plainNumber(s.boxWidthPx)} × ${plainNumber(s.boxHeightPx)} px`,
  percent: (s) => `${shortNumber(s.scalePercent, 1)} %`,
  megapixels: (s) => `${shortNumber(s.megapixels)} MP`,
}

export const resize = defineOperation({
  id: 'resize',
  name: 'Resize',
  group: 'geometry',
  purpose: 'Make the picture smaller or larger, in proportion.',
  settings,
  neutral: { by: 'percent', scalePercent: 100 },
  method:
    'Separable filter in linear light, widened by the ratio when reducing (antialiasing). Lanczos-3: Duchon 1979; Mitchell, Catmull-Rom: Mitchell & Netravali 1988.',
  resolve: (s, { size }) => {
    const to = resizedSize(s, size)
    return { width: to.width, height: to.height, kernel: s.kernel, same: to.width === size.width && to.height === size.height }
  },
  render: ({ width, height, kernel, same }) =>
    same ? { kind: 'none' } : { kind: 'resample', size: { width, height }, kernel: kernel as ResamplingKernelId },
  describe: (s) => describeMeasure[s.by]?.(s) ?? '',
  describeConstants: ({ width, height, same }) => (same ? 'already this size' : `to ${width} × ${height} px`),
})

import { plainNumber, shortNumber } from '@/base/format'
import { type Size, scaleSize } from '@/base/geometry'
import { type ResamplingKernelId, resamplingKernels } from '@/pixels/resampling'
import { defineOperation, type Effect } from '../declare/operation'
import { choice, number, type SettingsOf, toggle } from '../declare/settings'
import { editionSetting, withEdition } from '../support/editions'
import { pixelsPerUnit, printSettings, turnsSetting } from '../support/frame-settings'

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
      { value: 'fill', label: 'Fill a box, trimmed' },
      { value: 'stretch', label: 'Stretch to a box' },
      { value: 'print', label: 'Print size' },
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
    help: 'Fitting: no wider than this. Filling and stretching: exactly this.',
    shownWhen: by('box', 'fill', 'stretch'),
  }),
  boxHeightPx: number({
    typed: true,
    label: 'Box height',
    unit: 'px',
    min: 1,
    max: 65535,
    step: 1,
    default: 2048,
    help: 'Fitting: no higher than this. Filling and stretching: exactly this.',
    shownWhen: by('box', 'fill', 'stretch'),
  }),
  turnsWithPicture: turnsSetting(by('fill', 'stretch')),
  printLength: number({
    typed: true,
    label: 'Printed long edge',
    unit: '',
    min: 0.1,
    max: 1000,
    step: 0.1,
    default: 20,
    help: 'In the unit below.',
    shownWhen: by('print'),
  }),
  ...printSettings(by('print')),
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
    help: 'Lanczos-3 is sharpest; Mitchell rings least; bilinear is softest; nearest keeps hard pixels.',
  }),
  edition: editionSetting('At first, dark and bright lines rang beside edges.'),
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
    case 'print':
      return (s.printLength * pixelsPerUnit(s)) / Math.max(width, height)
    default:
      return Math.sqrt((s.megapixels * 1e6) / (width * height))
  }
}

/** The box as it lies for this picture. */
function boxFor(s: ResizeSettings, picture: Size): Size {
  const box = { width: Math.round(s.boxWidthPx), height: Math.round(s.boxHeightPx) }
  const lies = box.width >= box.height
  const swaps = s.turnsWithPicture && picture.width !== picture.height && lies !== picture.width > picture.height
  return swaps ? { width: box.height, height: box.width } : box
}

/** The size a picture gets, whole pixels; the named side comes out exactly. `trimmed`: what is resampled before it is cut to size. */
export function resizedSize(s: ResizeSettings, picture: Size): { readonly size: Size; readonly trimmed?: Size } {
  if (s.by === 'fill' || s.by === 'stretch') {
    const box = boxFor(s, picture)
    const cover = Math.max(box.width / picture.width, box.height / picture.height)
    const shrunk = s.mayEnlarge ? 1 : Math.min(1, 1 / cover)
    const size = scaleSize(box, shrunk)
    if (s.by === 'stretch') return { size }
    const factor = Math.max(size.width / picture.width, size.height / picture.height)
    const covering = {
      width: Math.max(size.width, Math.round(picture.width * factor)),
      height: Math.max(size.height, Math.round(picture.height * factor)),
    }
    return { size, trimmed: covering }
  }
  const wanted = factorFor(s, picture)
  return { size: scaleSize(picture, s.mayEnlarge ? wanted : Math.min(1, wanted)) }
}

const describeMeasure: Record<string, (s: ResizeSettings) => string> = {
  longEdge: (s) => `long edge ${plainNumber(s.lengthPx)} px`,
  shortEdge: (s) => `short edge ${plainNumber(s.lengthPx)} px`,
  width: (s) => `width ${plainNumber(s.lengthPx)} px`,
  height: (s) => `height ${plainNumber(s.lengthPx)} px`,
  box: (s) => `into ${plainNumber(s.boxWidthPx)} × ${plainNumber(s.boxHeightPx)} px`,
  fill: (s) => `fills ${plainNumber(s.boxWidthPx)} × ${plainNumber(s.boxHeightPx)} px`,
  stretch: (s) => `stretched to ${plainNumber(s.boxWidthPx)} × ${plainNumber(s.boxHeightPx)} px`,
  print: (s) => `${shortNumber(s.printLength)} ${s.printUnit} at ${plainNumber(s.printDpi)} dpi`,
  percent: (s) => `${shortNumber(s.scalePercent, 1)} %`,
  megapixels: (s) => `${shortNumber(s.megapixels)} MP`,
}

export const resize = defineOperation({
  id: 'resize',
  name: 'Resize',
  group: 'geometry',
  purpose: 'Make the picture smaller or larger, in proportion.',
  settings,
  holdsShape: (s) => s.turnsWithPicture === false,
  upgrade: (old) => withEdition(old),
  neutral: { by: 'percent', scalePercent: 100 },
  method:
    'Separable filter in linear light, widened by the ratio when reducing (antialiasing). Lanczos-3: Duchon 1979; Mitchell, Catmull-Rom: Mitchell & Netravali 1988.',
  resolve: (s, { size }) => {
    const { size: to, trimmed = to } = resizedSize(s, size)
    return {
      width: to.width,
      height: to.height,
      trimmed: [trimmed.width, trimmed.height],
      kernel: s.kernel,
      same: to.width === size.width && to.height === size.height,
      ...(s.edition === 'first' ? { first: true } : {}),
    }
  },
  render: ({ width, height, trimmed: [coverWidth = width, coverHeight = height], kernel, same, first }) => {
    if (same) return { kind: 'none' }
    const size = { width: coverWidth, height: coverHeight }
    const resample: Effect = { kind: 'resample', size, kernel: kernel as ResamplingKernelId, held: first !== true }
    if (coverWidth === width && coverHeight === height) return resample
    const rect = { x: Math.floor((coverWidth - width) / 2), y: Math.floor((coverHeight - height) / 2), width, height }
    return { kind: 'chain', effects: [resample, { kind: 'crop', rect }] }
  },
  describe: (s) => describeMeasure[s.by]?.(s) ?? '',
  describeConstants: ({ width, height, same }) => (same ? 'already this size' : `to ${width} × ${height} px`),
})

import { plainNumber, shortNumber } from '@/core/format'
import { type Rect, type Size, sameRect, wholeRect } from '@/core/geometry'
import { defineOperation } from './operation'
import { choice, number, type SettingsOf, toggle } from './settings'

const shape = (...is: string[]) => ({ setting: 'shape', is })

const settings = {
  shape: choice({
    label: 'Shape',
    options: [
      { value: 'ratio', label: 'Ratio' },
      { value: 'pixels', label: 'Pixels' },
      { value: 'margins', label: 'Margins' },
    ],
    default: 'ratio',
    help: 'A fixed ratio of sides, an exact number of pixels, or strips cut from the four edges.',
  }),
  ratioWidth: number({
    typed: true,
    label: 'Ratio, long side',
    unit: '',
    min: 0.1,
    max: 100,
    step: 0.1,
    default: 3,
    help: 'First number of a ratio like 3 : 2.',
    shownWhen: shape('ratio'),
  }),
  ratioHeight: number({
    typed: true,
    label: 'Ratio, short side',
    unit: '',
    min: 0.1,
    max: 100,
    step: 0.1,
    default: 2,
    help: 'Second number of a ratio like 3 : 2.',
    shownWhen: shape('ratio'),
  }),
  widthPx: number({
    typed: true,
    label: 'Width',
    unit: 'px',
    min: 1,
    max: 65535,
    step: 1,
    default: 1200,
    help: 'Exact width; a smaller picture keeps its own.',
    shownWhen: shape('pixels'),
  }),
  heightPx: number({
    typed: true,
    label: 'Height',
    unit: 'px',
    min: 1,
    max: 65535,
    step: 1,
    default: 800,
    help: 'Exact height; a smaller picture keeps its own.',
    shownWhen: shape('pixels'),
  }),
  turnsWithPicture: toggle({
    label: 'Turns with the picture',
    default: true,
    help: 'For a portrait picture the two sides change places, so that one step serves both.',
    shownWhen: shape('ratio', 'pixels'),
  }),
  sizePercent: number({
    label: 'Size',
    unit: '%',
    min: 5,
    max: 100,
    step: 0.1,
    default: 100,
    help: 'Of the largest frame of this ratio that fits.',
    shownWhen: shape('ratio'),
  }),
  positionXPercent: number({
    label: 'Across',
    unit: '%',
    min: 0,
    max: 100,
    step: 0.1,
    default: 50,
    help: '0 % is the left edge, 50 % the middle.',
    shownWhen: shape('ratio', 'pixels'),
  }),
  positionYPercent: number({
    label: 'Down',
    unit: '%',
    min: 0,
    max: 100,
    step: 0.1,
    default: 50,
    help: '0 % is the upper edge, 50 % the middle.',
    shownWhen: shape('ratio', 'pixels'),
  }),
  leftPercent: number({
    label: 'Left',
    unit: '%',
    min: 0,
    max: 90,
    step: 0.1,
    default: 0,
    help: 'Strip cut from the left, of the width.',
    shownWhen: shape('margins'),
  }),
  topPercent: number({
    label: 'Top',
    unit: '%',
    min: 0,
    max: 90,
    step: 0.1,
    default: 0,
    help: 'Strip cut from the top, of the height.',
    shownWhen: shape('margins'),
  }),
  rightPercent: number({
    label: 'Right',
    unit: '%',
    min: 0,
    max: 90,
    step: 0.1,
    default: 0,
    help: 'Strip cut from the right, of the width.',
    shownWhen: shape('margins'),
  }),
  bottomPercent: number({
    label: 'Bottom',
    unit: '%',
    min: 0,
    max: 90,
    step: 0.1,
    default: 0,
    help: 'Strip cut from the bottom, of the height.',
    shownWhen: shape('margins'),
  }),
}
export type CropSettings = SettingsOf<typeof settings>

/** The two sides as they lie for this picture: long side first for landscape, short side first for portrait. */
function turned(first: number, second: number, turns: boolean, picture: Size): Size {
  if (!turns) return { width: first, height: second }
  const [long, short] = [Math.max(first, second), Math.min(first, second)]
  return picture.height > picture.width ? { width: short, height: long } : { width: long, height: short }
}

/** Places a frame: 0 % at the start, 100 % at the end of what is free. */
function placed(frame: Size, picture: Size, acrossPercent: number, downPercent: number): Rect {
  const width = Math.min(Math.max(1, Math.round(frame.width)), picture.width)
  const height = Math.min(Math.max(1, Math.round(frame.height)), picture.height)
  return {
    x: Math.round(((picture.width - width) * acrossPercent) / 100),
    y: Math.round(((picture.height - height) * downPercent) / 100),
    width,
    height,
  }
}

function marginRect(s: CropSettings, { width, height }: Size): Rect {
  const x = Math.min(Math.round((width * s.leftPercent) / 100), width - 1)
  const y = Math.min(Math.round((height * s.topPercent) / 100), height - 1)
  return {
    x,
    y,
    width: Math.max(1, width - x - Math.round((width * s.rightPercent) / 100)),
    height: Math.max(1, height - y - Math.round((height * s.bottomPercent) / 100)),
  }
}

/** The part of the picture that a crop keeps, in full-size pixels. */
export function cropRect(s: CropSettings, picture: Size): Rect {
  if (s.shape === 'margins') return marginRect(s, picture)
  if (s.shape === 'pixels')
    return placed(turned(s.widthPx, s.heightPx, s.turnsWithPicture, picture), picture, s.positionXPercent, s.positionYPercent)
  const ratio = turned(s.ratioWidth, s.ratioHeight, s.turnsWithPicture, picture)
  const fit = Math.min(picture.width / ratio.width, picture.height / ratio.height) * (s.sizePercent / 100)
  return placed({ width: ratio.width * fit, height: ratio.height * fit }, picture, s.positionXPercent, s.positionYPercent)
}

function describePosition(across: number, down: number): string {
  const name = (value: number, low: string, high: string): string => (value <= 0 ? low : value >= 100 ? high : '')
  if (![0, 50, 100].includes(across) || ![0, 50, 100].includes(down)) return `at ${shortNumber(across, 1)} % / ${shortNumber(down, 1)} %`
  return [name(down, 'top', 'bottom'), name(across, 'left', 'right')].filter(Boolean).join(' ') || 'centred'
}

export const crop = defineOperation({
  id: 'crop',
  name: 'Crop',
  group: 'geometry',
  purpose: 'Keep a part of the picture: by ratio, pixels or margins, turned with the picture if wanted.',
  settings,
  neutral: { shape: 'margins', leftPercent: 0, topPercent: 0, rightPercent: 0, bottomPercent: 0 },
  method: 'Whole pixels are kept as they are; the frame is rounded to full-size pixels.',
  resolve: (s, { size }) => {
    const rect = cropRect(s, size)
    return { x: rect.x, y: rect.y, width: rect.width, height: rect.height, whole: sameRect(rect, wholeRect(size)) }
  },
  render: ({ x, y, width, height, whole }) => (whole ? { kind: 'none' } : { kind: 'crop', rect: { x, y, width, height } }),
  describe: (s) => {
    if (s.shape === 'margins')
      return `${[s.leftPercent, s.topPercent, s.rightPercent, s.bottomPercent].map((value) => shortNumber(value, 1)).join(' / ')} % off`
    const position = describePosition(s.positionXPercent, s.positionYPercent)
    if (s.shape === 'pixels') return `${plainNumber(s.widthPx)} × ${plainNumber(s.heightPx)} px, ${position}`
    const size = s.sizePercent < 100 ? `, ${shortNumber(s.sizePercent, 1)} %` : ''
    return `${shortNumber(s.ratioWidth)} : ${shortNumber(s.ratioHeight)}${size}, ${position}`
  },
  describeConstants: ({ x, y, width, height, whole }) => (whole ? 'already this shape' : `${width} × ${height} px from ${x}, ${y}`),
})

import { moreOrLess, plainNumber, shortNumber } from '@/base/format'
import { type Rect, type Size, sameRect, wholeRect } from '@/base/geometry'
import { clamp, tenth } from '@/base/scale'
import type { FrameGrip, Standing } from '../declare/handles'
import { defineOperation } from '../declare/operation'
import { choice, number, readAs, type SettingsOf } from '../declare/settings'
import { findSubject } from '../measure/subject'
import { describePosition, pixelsPerUnit, positionSettings, printSettings, ratioSettings, turnsSetting } from '../support/frame-settings'

const shape = (...is: string[]) => ({ setting: 'shape', is })

/** Of the largest frame that fits. */
const smallestPercent = 5

const settings = {
  shape: choice({
    label: 'Shape',
    options: [
      { value: 'ratio', label: 'Ratio' },
      { value: 'pixels', label: 'Pixels' },
      { value: 'print', label: 'Print size' },
      { value: 'margins', label: 'Margins' },
    ],
    default: 'ratio',
    help: 'A fixed ratio of sides, an exact number of pixels, a print size at its resolution, or strips cut from the four edges.',
  }),
  ...ratioSettings([3, 2], shape('ratio')),
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
  printWidth: number({
    typed: true,
    label: 'Print, long side',
    unit: '',
    min: 0.1,
    max: 500,
    step: 0.1,
    default: 15,
    help: 'In the unit below. The ratio is cut; with a resolution, the pixels are counted too.',
    shownWhen: shape('print'),
  }),
  printHeight: number({
    typed: true,
    label: 'Print, short side',
    unit: '',
    min: 0.1,
    max: 500,
    step: 0.1,
    default: 10,
    help: 'In the unit below.',
    shownWhen: shape('print'),
  }),
  ...printSettings(shape('print')),
  turnsWithPicture: turnsSetting(shape('ratio', 'pixels', 'print')),
  sizePercent: number({
    label: 'Size',
    unit: '%',
    min: smallestPercent,
    max: 100,
    step: 0.1,
    default: 100,
    help: 'Of the largest frame of this ratio that fits.',
    shownWhen: shape('ratio'),
  }),
  position: choice({
    label: 'Placed',
    options: [
      { value: 'place', label: 'Fixed' },
      { value: 'subject', label: 'By subject' },
    ],
    default: 'place',
    help: 'By subject: the frame is laid around what stands out in each picture.',
    shownWhen: shape('ratio', 'pixels', 'print'),
  }),
  ...positionSettings(50, { setting: 'position', is: ['place'] }),
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
const read = readAs(settings)

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

/** A frame of the print's ratio: as many pixels as it is printed with, or all that fit. */
function printFrame(s: CropSettings, picture: Size): Size {
  const perUnit = pixelsPerUnit(s)
  const frame = turned(s.printWidth * perUnit, s.printHeight * perUnit, s.turnsWithPicture, picture)
  const fit = Math.min(1, picture.width / frame.width, picture.height / frame.height)
  return { width: frame.width * fit, height: frame.height * fit }
}

/** The size of the frame that a crop lays over the picture, before rounding. */
function frameOf(s: CropSettings, picture: Size): Size {
  if (s.shape === 'pixels') return turned(s.widthPx, s.heightPx, s.turnsWithPicture, picture)
  if (s.shape === 'print') return printFrame(s, picture)
  const ratio = turned(s.ratioWidth, s.ratioHeight, s.turnsWithPicture, picture)
  const fit = Math.min(picture.width / ratio.width, picture.height / ratio.height) * (s.sizePercent / 100)
  return { width: ratio.width * fit, height: ratio.height * fit }
}

/** Whether a picture has fewer pixels than the frame is asked for. */
function isShort(s: CropSettings, picture: Size): boolean {
  const asked =
    s.shape === 'pixels'
      ? frameOf(s, picture)
      : s.shape === 'print'
        ? turned(s.printWidth * pixelsPerUnit(s), s.printHeight * pixelsPerUnit(s), s.turnsWithPicture, picture)
        : undefined
  return asked !== undefined && (Math.round(asked.width) > picture.width || Math.round(asked.height) > picture.height)
}

/** The per cent of free room that brings a frame's middle nearest to a place, 0–1. */
function around(centre: number, part: number, whole: number): number {
  const free = whole - Math.min(part, whole)
  return free <= 0 ? 50 : Math.min(100, Math.max(0, ((centre * whole - Math.min(part, whole) / 2) / free) * 100))
}

/** The part of the picture that a crop keeps, in full-size pixels. `subject`: where it lies, as shares of the sides. */
export function cropRect(s: CropSettings, picture: Size, subject?: { readonly x: number; readonly y: number }): Rect {
  if (s.shape === 'margins') return marginRect(s, picture)
  const frame = frameOf(s, picture)
  if (s.position === 'place') return placed(frame, picture, s.positionXPercent, s.positionYPercent)
  const { x, y } = subject ?? { x: 0.5, y: 0.5 }
  return placed(frame, picture, around(x, frame.width, picture.width), around(y, frame.height, picture.height))
}

interface Offset {
  readonly dx: number
  readonly dy: number
}

const frameSize = (percent: number): number => tenth(clamp(percent, smallestPercent, 100))

/** The crop's settings after a grip was dragged by dx, dy full-size pixels. */
export function dragCrop(settings: CropSettings, grip: FrameGrip, picture: Size, { dx, dy }: Offset): CropSettings {
  if (settings.shape === 'margins') return dragMargins(settings, grip, picture, { dx, dy })
  const rect = cropRect(settings, picture)
  if (grip === 'move') return placedAt(settings, picture, rect, { x: rect.x + dx, y: rect.y + dy })
  if (settings.shape !== 'ratio') return settings
  const outwards = grip.includes('e') ? dx : -dx
  const sizePercent = frameSize((settings.sizePercent * (rect.width + outwards)) / rect.width)
  const sized = cropRect({ ...settings, sizePercent }, picture)
  // The opposite corner stays where it is.
  const x = grip.includes('w') ? rect.x + rect.width - sized.width : rect.x
  const y = grip.includes('n') ? rect.y + rect.height - sized.height : rect.y
  return placedAt({ ...settings, sizePercent }, picture, sized, { x, y })
}

function placedAt(settings: CropSettings, picture: Size, frame: Size, { x, y }: { readonly x: number; readonly y: number }): CropSettings {
  const share = (start: number, free: number): number => (free <= 0 ? 50 : tenth(clamp((start / free) * 100, 0, 100)))
  return { ...settings, positionXPercent: share(x, picture.width - frame.width), positionYPercent: share(y, picture.height - frame.height) }
}

function dragMargins(s: CropSettings, grip: FrameGrip, picture: Size, { dx, dy }: Offset): CropSettings {
  const [px, py] = [(dx / picture.width) * 100, (dy / picture.height) * 100]
  const left = grip === 'move' || grip.includes('w') ? px : 0
  const right = grip === 'move' || grip.includes('e') ? -px : 0
  const top = grip === 'move' || grip.includes('n') ? py : 0
  const bottom = grip === 'move' || grip.includes('s') ? -py : 0
  const margin = (value: number, by: number, opposite: number): number => tenth(clamp(value + by, 0, 95 - opposite))
  return {
    ...s,
    leftPercent: margin(s.leftPercent, left, s.rightPercent),
    rightPercent: margin(s.rightPercent, right, s.leftPercent),
    topPercent: margin(s.topPercent, top, s.bottomPercent),
    bottomPercent: margin(s.bottomPercent, bottom, s.topPercent),
  }
}

/** A frame that followed the subject is laid by numbers from then on, beginning where it was. */
function moveCrop(given: CropSettings, across: number, down: number, standing?: Standing): CropSettings {
  if (given.shape === 'margins') return dragMargins(given, 'move', { width: 100, height: 100 }, { dx: across, dy: down })
  const s = given.position === 'subject' && standing ? whereItStands(given, standing) : given
  // A frame that is as wide as the picture has nowhere to go: that is not kept as if it had gone there.
  const hasRoom = (side: 'width' | 'height'): boolean => Number(standing?.constants[side]) !== standing?.sizeBefore[side]
  const share = (percent: number, by: number, side: 'width' | 'height'): number =>
    hasRoom(side) ? tenth(clamp(percent + by, 0, 100)) : percent
  const [positionXPercent, positionYPercent] = [share(s.positionXPercent, across, 'width'), share(s.positionYPercent, down, 'height')]
  const isSame = positionXPercent === s.positionXPercent && positionYPercent === s.positionYPercent
  return isSame ? given : { ...s, position: 'place', positionXPercent, positionYPercent }
}

function whereItStands(s: CropSettings, { constants, sizeBefore }: Standing): CropSettings {
  const { x, y, width, height } = constants
  return [x, y, width, height].every((value) => typeof value === 'number')
    ? placedAt(s, sizeBefore, { width: Number(width), height: Number(height) }, { x: Number(x), y: Number(y) })
    : s
}

function resizeCrop(s: CropSettings, byPercent: number): CropSettings {
  return s.shape === 'ratio' ? { ...s, sizePercent: frameSize(s.sizePercent + byPercent) } : s
}

/** How a frame lies otherwise than in the macro; nothing where more than its place and size is otherwise. */
function frameChange(to: CropSettings, from: CropSettings): string | undefined {
  const { positionXPercent: _, positionYPercent: __, sizePercent: ___, position: ____, ...rest } = to
  const isPlace = Object.entries(rest).every(([key, value]) => from[key as keyof CropSettings] === value)
  if (!isPlace || to.shape === 'margins') return undefined
  const size = moreOrLess(to.sizePercent - from.sizePercent, ' %', ['larger', 'smaller'], 0)
  const moved =
    to.position === from.position
      ? [
          moreOrLess(to.positionXPercent - from.positionXPercent, ' %', ['further right', 'further left'], 0),
          moreOrLess(to.positionYPercent - from.positionYPercent, ' %', ['lower', 'higher'], 0),
        ]
      : [to.position === 'place' ? `placed ${describePosition(to.positionXPercent, to.positionYPercent)}` : 'around the subject']
  const parts = [...moved, size].filter((part) => part !== undefined)
  return parts.length > 0 ? `frame ${parts.join(', ')}` : undefined
}

export const crop = defineOperation({
  id: 'crop',
  name: 'Crop',
  group: 'geometry',
  purpose: 'Keep a part of the picture: by ratio, pixels or margins, turned with the picture if wanted.',
  settings,
  beside: { kind: 'ratios', isShown: ({ shape }) => shape === 'ratio' },
  frame: {
    rect: (s, picture) => cropRect(read(s), picture),
    dragged: (s, grip, picture, by) => dragCrop(read(s), grip, picture, by),
    moved: (s, across, down, standing) => moveCrop(read(s), across, down, standing),
    size: (s) => (s.shape === 'ratio' ? read(s).sizePercent : undefined),
    resized: (s, by) => resizeCrop(read(s), by),
  },
  holdsShape: (s) => s.turnsWithPicture === false,
  neutral: { shape: 'margins', leftPercent: 0, topPercent: 0, rightPercent: 0, bottomPercent: 0 },
  method:
    'Whole pixels are kept as they are; the frame is rounded to full-size pixels. By subject: centre of what is unlike the border’s colours in OKLab and finely drawn, on a copy of 512 px.',
  resolve: (s, { size, copy }) => {
    const picture = s.shape !== 'margins' && s.position === 'subject' ? copy?.() : undefined
    const rect = cropRect(s, size, picture && findSubject(picture))
    const { x, y, width, height } = rect
    return { x, y, width, height, whole: sameRect(rect, wholeRect(size)), short: isShort(s, size) }
  },
  render: ({ x, y, width, height, whole }) => (whole ? { kind: 'none' } : { kind: 'crop', rect: { x, y, width, height } }),
  changeInWords: (to, from) => (from ? frameChange(read(to), read(from)) : undefined),
  describe: (s) => {
    if (s.shape === 'margins')
      return `${[s.leftPercent, s.topPercent, s.rightPercent, s.bottomPercent].map((value) => shortNumber(value, 1)).join(' / ')} % off`
    const position = s.position === 'subject' ? 'around the subject' : describePosition(s.positionXPercent, s.positionYPercent)
    if (s.shape === 'print')
      return `${shortNumber(s.printWidth)} × ${shortNumber(s.printHeight)} ${s.printUnit} at ${plainNumber(s.printDpi)} dpi, ${position}`
    if (s.shape === 'pixels') return `${plainNumber(s.widthPx)} × ${plainNumber(s.heightPx)} px, ${position}`
    const size = s.sizePercent < 100 ? `, ${shortNumber(s.sizePercent, 1)} %` : ''
    return `${shortNumber(s.ratioWidth)} : ${shortNumber(s.ratioHeight)}${size}, ${position}`
  },
  describeConstants: ({ x, y, width, height, whole, short }) =>
    short
      ? `the picture is smaller than that: ${width} × ${height} px are left`
      : whole
        ? 'already this shape'
        : `${width} × ${height} px from ${x}, ${y}`,
})

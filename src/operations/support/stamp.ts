import { plainNumber } from '@/base/format'
import type { Size } from '@/base/geometry'
import { lruCached } from '@/base/lru-cache'
import { floatAt } from '@/base/numbers'
import { clamp, tenth } from '@/base/scale'
import { mapTriple } from '@/base/tuples'
import { luminanceWeights } from '@/colour/spaces'
import type { LinearPicture } from '@/pixels/linear-picture'
import type { StampHandles } from '../declare/handles'
import type { Effect } from '../declare/operation'
import { choice, number, type Settings, toggle } from '../declare/settings'
import { describePosition, positionSettings } from './frame-settings'
import { byPosition } from './grid'

/** Where a stamp lies, in pixels of a frame. */
export interface StampPlace extends Size {
  readonly x: number
  readonly y: number
}

const isSingle = { setting: 'repeats', is: [false] }

/** Settings that every stamp has. */
export const stampPlaceSettings = {
  repeats: toggle({ label: 'Repeat', default: false, help: 'The mark stands all over the picture instead of at one place.' }),
  spacingPercent: number({
    label: 'Spacing',
    unit: '%',
    min: 0,
    max: 400,
    step: 5,
    default: 80,
    help: 'Room between two marks, of a mark’s width.',
    shownWhen: { setting: 'repeats', is: [true] },
  }),
  angleDegrees: number({
    label: 'Angle',
    unit: '°',
    min: -90,
    max: 90,
    step: 1,
    default: 0,
    help: 'Positive rises to the right.',
  }),
  ...positionSettings(100, isSingle),
  marginPercent: number({
    label: 'Margin',
    unit: '%',
    min: 0,
    max: 25,
    step: 0.1,
    default: 3,
    help: 'Kept free at the edges, of the short edge.',
    shownWhen: isSingle,
  }),
}

const stampBlends = ['over', 'multiply', 'screen'] as const
export type StampBlend = (typeof stampBlends)[number]

export const stampBlendSetting = choice<StampBlend>({
  label: 'Blend',
  options: [
    { value: 'over', label: 'Over' },
    { value: 'multiply', label: 'Multiply' },
    { value: 'screen', label: 'Screen' },
  ],
  default: 'over',
  help: 'Over: covers the picture. Multiply: darkens it, white vanishes. Screen: brightens it, black vanishes.',
})

interface PlaceSettings {
  readonly repeats: boolean
  readonly spacingPercent: number
  readonly angleDegrees: number
  readonly positionXPercent: number
  readonly positionYPercent: number
  readonly marginPercent: number
}

/** Beyond size and opacity, in words. */
export const describeLay = ({ repeats, angleDegrees }: Pick<PlaceSettings, 'repeats' | 'angleDegrees'>): string =>
  `${repeats ? ', all over' : ''}${angleDegrees === 0 ? '' : ` at ${plainNumber(angleDegrees)}°`}`

/** The upright box around a turned one. */
function turnedBox({ width, height }: Size, degrees: number): Size {
  if (degrees === 0) return { width, height }
  const [cos, sin] = [Math.abs(Math.cos((degrees * Math.PI) / 180)), Math.abs(Math.sin((degrees * Math.PI) / 180))]
  return { width: Math.ceil(width * cos + height * sin), height: Math.ceil(width * sin + height * cos) }
}

/** Lays a mark into a frame, a margin away from its edges; the place is that of the mark before it is turned about its middle. */
export function stampPlace(s: PlaceSettings, mark: Size, frame: Size): StampPlace {
  const box = turnedBox(mark, s.angleDegrees)
  const margin = (Math.min(frame.width, frame.height) * s.marginPercent) / 100
  const start = (whole: number, part: number, percent: number): number => {
    const free = Math.max(0, whole - part - 2 * margin)
    return Math.min(Math.max(0, whole - part), Math.min(margin, (whole - part) / 2) + (free * percent) / 100)
  }
  const [across, down] = s.repeats ? [50, 50] : [s.positionXPercent, s.positionYPercent]
  return {
    ...mark,
    x: Math.round(start(frame.width, box.width, across) + (box.width - mark.width) / 2),
    y: Math.round(start(frame.height, box.height, down) + (box.height - mark.height) / 2),
  }
}

const percent = (value: number): number => tenth(clamp(value, 0, 100))
const laid = <S extends object>(settings: S, across: number, down: number) => ({
  ...settings,
  positionXPercent: percent(across),
  positionYPercent: percent(down),
})

/** How every stamp is laid and pulled; the place is kept as a share of the room there is. */
export const stampHandles: StampHandles = {
  isPlaced: ({ repeats }) => repeats === false,
  place: ({ positionXPercent, positionYPercent }) => [Number(positionXPercent), Number(positionYPercent)],
  laid,
  pulled: (settings, [, , width = 0, height = 0], picture, { dx, dy }) => {
    const margin = (Math.min(picture.width, picture.height) * Number(settings.marginPercent)) / 100
    const share = (whole: number, part: number, now: number, by: number): number => {
      const free = whole - part - 2 * margin
      return free <= 0 ? now : now + (100 * by) / free
    }
    const [across, down] = stampHandles.place(settings)
    return laid(settings, share(picture.width, width, across, dx), share(picture.height, height, down, dy))
  },
}

/** Where a stamp lies otherwise than in the macro; nothing where more than its place is otherwise. */
export function stampChange(to: Settings, from: Settings | undefined): string | undefined {
  const places = ['positionXPercent', 'positionYPercent']
  const isPlace =
    from && Object.entries(to).every(([key, value]) => places.includes(key) || JSON.stringify(value) === JSON.stringify(from[key]))
  return isPlace ? `stamp ${describePosition(...stampHandles.place(to))}` : undefined
}

/** Luminance from which ground counts as bright: half of the way in lightness. */
const brightGround = 0.18

/** Whether the ground under a stamp is bright, by its mean luminance on a small copy. A mark that repeats stands on all of it. */
export function isBrightUnder({ size, planes }: LinearPicture, place: StampPlace, frame: Size, repeats: boolean): boolean {
  const { x, y, width, height } = repeats ? { x: 0, y: 0, ...frame } : place
  const [sx, sy] = [size.width / frame.width, size.height / frame.height]
  const length = size.width * size.height
  let [sum, count] = [0, 0]
  for (let row = Math.max(0, Math.floor(y * sy)); row < Math.min(size.height, Math.ceil((y + height) * sy)); row++)
    for (let column = Math.max(0, Math.floor(x * sx)); column < Math.min(size.width, Math.ceil((x + width) * sx)); column++) {
      const i = row * size.width + column
      sum += luminanceWeights.reduce((light, weight, c) => light + weight * floatAt(planes, c * length + i), 0)
      count++
    }
  return count > 0 && sum / count >= brightGround
}

/** Where a stamp stands and how it joins the picture; plain data, kept with every result. */
export interface StampLay {
  readonly place: readonly number[]
  readonly opacity: number
  readonly angle: number
  /** Width of the room between two marks, of a mark's width; below 0: the mark stands once. */
  readonly spacing: number
  readonly blend: StampBlend
}

export const stampLay = (
  s: PlaceSettings & { readonly opacityPercent: number; readonly blend: StampBlend },
  place: StampPlace | undefined,
): { [K in keyof StampLay]: StampLay[K] } => ({
  place: place ? [place.x, place.y, place.width, place.height] : [],
  opacity: s.opacityPercent / 100,
  angle: s.angleDegrees,
  spacing: s.repeats ? s.spacingPercent / 100 : -1,
  blend: s.blend,
})

/** A drawn mark: red, green, blue in linear working RGB times alpha, and alpha, row by row. */
interface Drawn {
  readonly size: Size
  readonly pixels: Float32Array
}

/** A mark turned about its middle, by linear interpolation between its pixels. */
function turned({ size, pixels }: Drawn, degrees: number): Drawn {
  if (degrees === 0) return { size, pixels }
  const box = turnedBox(size, degrees)
  const [cos, sin] = [Math.cos((-degrees * Math.PI) / 180), Math.sin((-degrees * Math.PI) / 180)]
  const result = new Float32Array(box.width * box.height * 4)
  const at = (x: number, y: number, c: number): number =>
    x < 0 || y < 0 || x >= size.width || y >= size.height ? 0 : floatAt(pixels, (y * size.width + x) * 4 + c)
  for (let y = 0; y < box.height; y++)
    for (let x = 0; x < box.width; x++) {
      const [dx, dy] = [x + 0.5 - box.width / 2, y + 0.5 - box.height / 2]
      const [u, v] = [dx * cos + dy * sin + size.width / 2 - 0.5, -dx * sin + dy * cos + size.height / 2 - 0.5]
      const [left, top] = [Math.floor(u), Math.floor(v)]
      const [fx, fy] = [u - left, v - top]
      for (let c = 0; c < 4; c++)
        result[(y * box.width + x) * 4 + c] =
          (at(left, top, c) * (1 - fx) + at(left + 1, top, c) * fx) * (1 - fy) +
          (at(left, top + 1, c) * (1 - fx) + at(left + 1, top + 1, c) * fx) * fy
    }
  return { size: box, pixels: result }
}

/** More marks than this no picture needs; a smaller mark is spread wider. */
const maxMarks = 4000

/** Middles of the marks: the one, or rows along the angle from there over all of the frame, every second one shifted by half. */
function middles({ place: [x = 0, y = 0, width = 1, height = 1], angle, spacing }: StampLay, frame: Size): (readonly [number, number])[] {
  const [middleX, middleY] = [x + width / 2, y + height / 2]
  if (spacing < 0) return [[middleX, middleY]]
  const room = spacing * width
  const reach = Math.hypot(frame.width, frame.height)
  const wider = Math.max(1, Math.sqrt((((2 * reach) / (width + room)) * ((2 * reach) / (height + room))) / maxMarks))
  const [along, down] = [(width + room) * wider, (height + room) * wider]
  const [cos, sin] = [Math.cos((-angle * Math.PI) / 180), Math.sin((-angle * Math.PI) / 180)]
  const [rows, columns] = [Math.ceil(reach / down), Math.ceil(reach / along) + 1]
  const found: (readonly [number, number])[] = []
  for (let row = -rows; row <= rows; row++)
    for (let column = -columns; column <= columns; column++) {
      const [u, v] = [(column + (row & 1 ? 0.5 : 0)) * along, row * down]
      found.push([middleX + u * cos - v * sin, middleY + u * sin + v * cos])
    }
  return found.filter(([mx, my]) => mx > -reach / 2 && my > -reach / 2 && mx < frame.width + reach / 2 && my < frame.height + reach / 2)
}

/**
 * Lays a stamp over the picture in linear light. `draw` makes the mark upright, at the size it has in a frame. A preview draws it at its
 * own scale; each scale is made once.
 */
export function stampEffect(lay: StampLay, full: Size, draw: (size: Size, scale: number) => Float32Array): Effect {
  const made = new Map<string, Drawn & { readonly places: readonly { readonly x: number; readonly y: number }[] }>()
  const [, , width = 1, height = 1] = lay.place
  const drawnFor = (frame: Size) =>
    lruCached(made, `${frame.width} ${frame.height}`, Number.POSITIVE_INFINITY, () => {
      const [sx, sy] = [frame.width / full.width, frame.height / full.height]
      const size = { width: Math.max(1, Math.round(width * sx)), height: Math.max(1, Math.round(height * sy)) }
      const mark = turned({ size, pixels: draw(size, sx) }, lay.angle)
      const places = middles(lay, full).map(([x, y]) => ({
        x: Math.round(x * sx - mark.size.width / 2),
        y: Math.round(y * sy - mark.size.height / 2),
      }))
      return { ...mark, places }
    })
  const blend = stampBlends.indexOf(lay.blend)
  return byPosition('linear', ({ kernels: { run, heap }, frame, x, y }, tile) => {
    const { size, pixels, places } = drawnFor(frame)
    for (const at of places) {
      const [left, right] = [Math.max(x, at.x), Math.min(x + tile.width, at.x + size.width)]
      const [top, bottom] = [Math.max(y, at.y), Math.min(y + tile.height, at.y + size.height)]
      if (left >= right) continue
      for (let row = top; row < bottom; row++)
        heap.scope(() => {
          const start = ((row - at.y) * size.width + left - at.x) * 4
          const onHeap = heap.floats(pixels.subarray(start, start + (right - left) * 4))
          const target = mapTriple(tile.channels, (channel) => channel + ((row - y) * tile.stride + left - x) * 4)
          run.blendStamp(...target, onHeap, right - left, lay.opacity, blend)
        })
    }
  })
}

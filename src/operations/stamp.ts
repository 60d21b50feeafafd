import { luminanceWeights } from '@/core/colour/spaces'
import type { Size } from '@/core/geometry'
import type { LinearPicture } from '@/core/linear-picture'
import { placed } from './grid'
import type { Effect } from './operation'
import { number } from './settings'

/** Where a stamp lies, in pixels of a frame. */
export interface StampPlace extends Size {
  readonly x: number
  readonly y: number
}

/** Settings that every stamp has. */
export const stampPlaceSettings = {
  positionXPercent: number({
    label: 'Across',
    unit: '%',
    min: 0,
    max: 100,
    step: 0.1,
    default: 100,
    help: '0 % is the left edge, 50 % the middle.',
  }),
  positionYPercent: number({
    label: 'Down',
    unit: '%',
    min: 0,
    max: 100,
    step: 0.1,
    default: 100,
    help: '0 % is the upper edge, 50 % the middle.',
  }),
  marginPercent: number({
    label: 'Margin',
    unit: '%',
    min: 0,
    max: 25,
    step: 0.1,
    default: 3,
    help: 'Kept free at the edges, of the short edge.',
  }),
}
interface PlaceSettings {
  readonly positionXPercent: number
  readonly positionYPercent: number
  readonly marginPercent: number
}

/** Lays a box of a size into a frame, a margin away from its edges. */
export function stampPlace(s: PlaceSettings, box: Size, frame: Size): StampPlace {
  const margin = (Math.min(frame.width, frame.height) * s.marginPercent) / 100
  const start = (whole: number, part: number, percent: number): number => {
    const free = Math.max(0, whole - part - 2 * margin)
    return Math.round(Math.min(Math.max(0, whole - part), Math.min(margin, (whole - part) / 2) + (free * percent) / 100))
  }
  return { ...box, x: start(frame.width, box.width, s.positionXPercent), y: start(frame.height, box.height, s.positionYPercent) }
}

/** Luminance from which ground counts as bright: half of the way in lightness. */
const brightGround = 0.18

/** Whether the ground under a stamp is bright, by its mean luminance on a small copy. */
export function isBrightUnder({ size, planes }: LinearPicture, { x, y, width, height }: StampPlace, frame: Size): boolean {
  const [sx, sy] = [size.width / frame.width, size.height / frame.height]
  const length = size.width * size.height
  let [sum, count] = [0, 0]
  for (let row = Math.floor(y * sy); row < Math.min(size.height, Math.ceil((y + height) * sy)); row++)
    for (let column = Math.floor(x * sx); column < Math.min(size.width, Math.ceil((x + width) * sx)); column++) {
      const i = row * size.width + column
      sum += luminanceWeights.reduce((light, weight, c) => light + weight * (planes[c * length + i] as number), 0)
      count++
    }
  return count > 0 && sum / count >= brightGround
}

/**
 * Lays a stamp over the picture in linear light (Porter & Duff 1984). `draw` makes its pixels at the size it has in a frame: red, green,
 * blue in linear working RGB times alpha, and alpha, row by row. A preview draws it at its own scale; each scale is made once.
 */
export function stampEffect(place: StampPlace, full: Size, opacity: number, draw: (size: Size, scale: number) => Float32Array): Effect {
  const made = new Map<string, { at: StampPlace; pixels: Float32Array }>()
  const drawnFor = (frame: Size) => {
    const key = `${frame.width} ${frame.height}`
    const [sx, sy] = [frame.width / full.width, frame.height / full.height]
    const size = { width: Math.max(1, Math.round(place.width * sx)), height: Math.max(1, Math.round(place.height * sy)) }
    const entry = made.get(key) ?? { at: { x: Math.round(place.x * sx), y: Math.round(place.y * sy), ...size }, pixels: draw(size, sx) }
    made.set(key, entry)
    return entry
  }
  return placed('linear', ({ kernels: { run, heap }, frame, x, y }, pixels) => {
    const { at, pixels: stamp } = drawnFor(frame)
    const [left, right] = [Math.max(x, at.x), Math.min(x + pixels.width, at.x + at.width)]
    const [top, bottom] = [Math.max(y, at.y), Math.min(y + pixels.height, at.y + at.height)]
    if (left >= right) return
    for (let row = top; row < bottom; row++)
      heap.scope(() => {
        const start = ((row - at.y) * at.width + left - at.x) * 4
        const onHeap = heap.floats(stamp.subarray(start, start + (right - left) * 4))
        const target = pixels.channels.map((channel) => channel + ((row - y) * pixels.stride + left - x) * 4) as [number, number, number]
        run.blendStamp(...target, onHeap, right - left, opacity)
      })
  })
}

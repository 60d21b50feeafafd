import { srgbToWorking } from '@/core/colour/hex'
import { colourSpaces, luminanceWeights, rgbToRgb, workingSpace } from '@/core/colour/spaces'
import { srgbTransfer } from '@/core/colour/transfer'
import { plainNumber, shortNumber } from '@/core/format'
import type { Size } from '@/core/geometry'
import { type Asset, keptFileName } from '@/core/kept-file'
import type { LinearPicture } from '@/core/linear-picture'
import { transform, type Vector3 } from '@/core/matrix'
import { once } from '@/core/remembered'
import { resamplingKernels, weightTable } from '@/core/resampling'
import { placed } from './grid'
import { defineOperation } from './operation'
import { choice, colour, file, number, type SettingsOf } from './settings'

const settings = {
  file: file({
    label: 'File',
    holds: 'image',
    help: 'The mark, best a PNG with transparency. It is kept with the macro: the original may move or go.',
  }),
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
  sizePercent: number({
    label: 'Size',
    unit: '%',
    min: 1,
    max: 100,
    step: 0.5,
    default: 14,
    help: 'Width of the mark, of the picture’s short edge: the same on portraits and landscapes.',
  }),
  opacityPercent: number({ label: 'Opacity', unit: '%', min: 0, max: 100, step: 1, default: 60, help: 'How much of the mark shows.' }),
  tint: choice({
    label: 'Colour',
    options: [
      { value: 'own', label: 'Its own' },
      { value: 'given', label: 'One colour' },
      { value: 'ground', label: 'Light or dark' },
    ],
    default: 'ground',
    help: 'Light or dark: white on dark ground, black on bright, chosen for each picture.',
  }),
  colour: colour({ label: 'One colour', default: '#ffffff', help: 'Of the whole mark.', shownWhen: { setting: 'tint', is: ['given'] } }),
}

/** Where the mark lies, in pixels of a frame. */
interface Place extends Size {
  readonly x: number
  readonly y: number
}

function placeOf(s: SettingsOf<typeof settings>, mark: Size, frame: Size): Place {
  const short = Math.min(frame.width, frame.height)
  const factor = Math.min(((short * s.sizePercent) / 100 / mark.width) as number, frame.width / mark.width, frame.height / mark.height)
  const [width, height] = [Math.max(1, Math.round(mark.width * factor)), Math.max(1, Math.round(mark.height * factor))]
  const margin = (short * s.marginPercent) / 100
  const free = (whole: number, part: number): number => Math.max(0, whole - part - 2 * margin)
  const start = (whole: number, part: number, percent: number): number =>
    Math.round(Math.min(Math.max(0, whole - part), Math.min(margin, (whole - part) / 2) + (free(whole, part) * percent) / 100))
  return { width, height, x: start(frame.width, width, s.positionXPercent), y: start(frame.height, height, s.positionYPercent) }
}

/** Luminance from which ground counts as bright: half of the way in lightness. */
const brightGround = 0.18

/** Mean luminance under the mark. */
function groundUnder({ size, planes }: LinearPicture, { x, y, width, height }: Place, frame: Size): number {
  const [sx, sy] = [size.width / frame.width, size.height / frame.height]
  const length = size.width * size.height
  let [sum, count] = [0, 0]
  for (let row = Math.floor(y * sy); row < Math.min(size.height, Math.ceil((y + height) * sy)); row++)
    for (let column = Math.floor(x * sx); column < Math.min(size.width, Math.ceil((x + width) * sx)); column++) {
      const i = row * size.width + column
      sum += luminanceWeights.reduce((light, weight, c) => light + weight * (planes[c * length + i] as number), 0)
      count++
    }
  return count === 0 ? 0 : sum / count
}

type Image = Extract<Asset, { kind: 'image' }>
const toWorking = rgbToRgb(colourSpaces.srgb, workingSpace)

/** Linear working RGB times alpha, and alpha: four floats a pixel. */
const linearOf = once(({ pixels }: Image): Float32Array => {
  const decode = Float32Array.from({ length: 256 }, (_, code) => srgbTransfer.decode(code / 255))
  const result = new Float32Array(pixels.length)
  for (let i = 0; i < pixels.length; i += 4) {
    const rgb: Vector3 = [0, 1, 2].map((c) => decode[pixels[i + c] as number] as number) as unknown as Vector3
    const alpha = (pixels[i + 3] as number) / 255
    const working = transform(toWorking, rgb)
    for (const c of [0, 1, 2] as const) result[i + c] = working[c] * alpha
    result[i + 3] = alpha
  }
  return result
})

/** The mark at a size, by the same filters that pictures are resized with. */
function resized(image: Image, to: Size): Float32Array {
  const source = linearOf(image)
  const kernel = resamplingKernels.mitchell
  const [across, down] = [weightTable(kernel, image.size.width, to.width), weightTable(kernel, image.size.height, to.height)]
  const middle = new Float32Array(to.width * image.size.height * 4)
  for (let y = 0; y < image.size.height; y++)
    for (let x = 0; x < to.width; x++)
      for (let t = 0; t < across.taps; t++) {
        const weight = across.weights[x * across.taps + t] as number
        const column = Math.min(image.size.width - 1, Math.max(0, (across.starts[x] as number) + t))
        if (weight === 0) continue
        for (let c = 0; c < 4; c++) {
          const at = (y * to.width + x) * 4 + c
          middle[at] = (middle[at] as number) + weight * (source[(y * image.size.width + column) * 4 + c] as number)
        }
      }
  const result = new Float32Array(to.width * to.height * 4)
  for (let y = 0; y < to.height; y++)
    for (let t = 0; t < down.taps; t++) {
      const weight = down.weights[y * down.taps + t] as number
      const row = Math.min(image.size.height - 1, Math.max(0, (down.starts[y] as number) + t))
      if (weight === 0) continue
      for (let i = 0; i < to.width * 4; i++) {
        const at = y * to.width * 4 + i
        result[at] = (result[at] as number) + weight * (middle[row * to.width * 4 + i] as number)
      }
    }
  for (let i = 3; i < result.length; i += 4) result[i] = Math.min(1, Math.max(0, result[i] as number))
  return result
}

export const stampImage = defineOperation({
  id: 'stamp-image',
  name: 'Stamp image',
  group: 'finishing',
  purpose: 'Lay a mark (a watermark) over every picture, at the same relative place and size.',
  settings,
  neutral: { opacityPercent: 0 },
  method: 'The mark, resampled with Mitchell’s filter, composited over the picture in linear light (Porter & Duff 1984).',
  resolve: (s, { size, look, asset }) => {
    const mark = s.file !== '' && s.opacityPercent > 0 ? asset?.(s.file) : undefined
    const image = mark?.kind === 'image' ? mark : undefined
    const place = image && placeOf(s, image.size, size)
    const picture = place && s.tint === 'ground' ? look?.() : undefined
    const bright = picture !== undefined && place !== undefined && groundUnder(picture, place, size) >= brightGround
    const tint = s.tint === 'own' ? [] : s.tint === 'given' ? [...srgbToWorking(s.colour)] : bright ? [0, 0, 0] : [1, 1, 1]
    return { file: s.file, place: place ? [place.x, place.y, place.width, place.height] : [], opacity: s.opacityPercent / 100, tint }
  },
  render: ({ file: value, place, opacity, tint }, { size, asset }) => {
    const mark = place.length > 0 && opacity > 0 ? asset?.(value) : undefined
    if (mark?.kind !== 'image') return { kind: 'none' }
    // A preview draws the mark at its own scale; each scale is made once.
    const made = new Map<string, { at: Place; pixels: Float32Array }>()
    const at = (frame: Size) => {
      const key = `${frame.width} ${frame.height}`
      const known = made.get(key)
      if (known) return known
      const [sx, sy] = [frame.width / size.width, frame.height / size.height]
      const [x = 0, y = 0, width = 1, height = 1] = place
      const here = {
        x: Math.round(x * sx),
        y: Math.round(y * sy),
        width: Math.max(1, Math.round(width * sx)),
        height: Math.max(1, Math.round(height * sy)),
      }
      const entry = { at: here, pixels: tinted(resized(mark, here), tint) }
      made.set(key, entry)
      return entry
    }
    return placed('linear', ({ kernels: { run, heap }, frame, x, y }, pixels) => {
      const { at: mine, pixels: stamp } = at(frame)
      const [left, right] = [Math.max(x, mine.x), Math.min(x + pixels.width, mine.x + mine.width)]
      const [top, bottom] = [Math.max(y, mine.y), Math.min(y + pixels.height, mine.y + mine.height)]
      if (left >= right) return
      for (let row = top; row < bottom; row++)
        heap.scope(() => {
          const start = ((row - mine.y) * mine.width + left - mine.x) * 4
          const onHeap = heap.floats(stamp.subarray(start, start + (right - left) * 4))
          const target = pixels.channels.map((channel) => channel + ((row - y) * pixels.stride + left - x) * 4) as [number, number, number]
          run.blendStamp(...target, onHeap, right - left, opacity)
        })
    })
  },
  describe: (s) =>
    s.file === ''
      ? 'no file yet'
      : `${keptFileName(s.file)}, ${shortNumber(s.sizePercent, 1)} % of the short edge, opacity ${plainNumber(s.opacityPercent)} %`,
})

/** One colour for all of the mark; its shape stays. */
function tinted(pixels: Float32Array, tint: readonly number[]): Float32Array {
  if (tint.length === 0) return pixels
  for (let i = 0; i < pixels.length; i += 4) for (const c of [0, 1, 2]) pixels[i + c] = (tint[c] as number) * (pixels[i + 3] as number)
  return pixels
}

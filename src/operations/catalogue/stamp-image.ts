import { plainNumber, shortNumber } from '@/base/format'
import { type Size, scaleSize } from '@/base/geometry'
import { lruCached, memoised } from '@/base/lru-cache'
import { byteAt, floatAt, integerAt, numberAt } from '@/base/numbers'
import { triple } from '@/base/tuples'
import { srgbToWorking } from '@/colour/hex'
import { transform, type Vector3 } from '@/colour/matrix'
import { colourSpaces, rgbToRgb, workingSpace } from '@/colour/spaces'
import { srgbTransfer } from '@/colour/transfer'
import { type Asset, keptFileName } from '@/pixels/kept-file'
import { resamplingKernels, weightTable } from '@/pixels/resampling'
import { defineOperation } from '../declare/operation'
import { choice, colour, file, number } from '../declare/settings'
import { type Around, aroundSetting, boxAround, coverageAround, insetOf } from '../support/around'
import {
  describeLay,
  isBrightUnder,
  stampBlendSetting,
  stampChange,
  stampEffect,
  stampHandles,
  stampLay,
  stampPlace,
  stampPlaceSettings,
} from '../support/stamp'

const settings = {
  file: file({
    label: 'File',
    holds: 'image',
    help: 'The mark, best a PNG with transparency. It is kept with the macro: the original may move or go.',
  }),
  ...stampPlaceSettings,
  sizePercent: number({
    label: 'Size',
    unit: '%',
    min: 1,
    max: 100,
    step: 0.5,
    default: 14,
    help: 'Width of the mark, of the picture’s short edge: the same on portraits and landscapes.',
  }),
  blend: stampBlendSetting,
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
  around: aroundSetting,
}

/** The mark's size in a frame; with what is around it, it still fits. */
function boxOf(sizePercent: number, around: Around, mark: Size, frame: Size): Size {
  const wanted = (Math.min(frame.width, frame.height) * sizePercent) / 100 / mark.width
  const whole = boxAround(around, mark)
  return scaleSize(mark, Math.min(wanted, frame.width / whole.width, frame.height / whole.height))
}

type Image = Extract<Asset, { kind: 'image' }>
const toWorking = rgbToRgb(colourSpaces.srgb, workingSpace)

/** Linear working RGB times alpha, and alpha: four floats a pixel. */
const linearOf = memoised(({ pixels }: Image): Float32Array => {
  const decode = Float32Array.from({ length: 256 }, (_, code) => srgbTransfer.decode(code / 255))
  const result = new Float32Array(pixels.length)
  for (let i = 0; i < pixels.length; i += 4) {
    const rgb: Vector3 = triple((c) => floatAt(decode, byteAt(pixels, i + c)))
    const alpha = byteAt(pixels, i + 3) / 255
    const working = transform(toWorking, rgb)
    for (const c of [0, 1, 2] as const) result[i + c] = working[c] * alpha
    result[i + 3] = alpha
  }
  return result
})

/** Sizes that a mark is kept at: pictures of a set come in few, and the bench goes between two. */
const keptSizes = 6
const drawnSizes = memoised((_: Image) => new Map<string, Float32Array>())

/** The mark at a size, worked out once for all pictures of that size. Not to be changed. */
const resized = (image: Image, to: Size): Float32Array =>
  lruCached(drawnSizes(image), `${to.width} ${to.height}`, keptSizes, () => resizedAnew(image, to))

/** By the same filters that pictures are resized with. */
function resizedAnew(image: Image, to: Size): Float32Array {
  const source = linearOf(image)
  const kernel = resamplingKernels.mitchell
  const [across, down] = [weightTable(kernel, image.size.width, to.width), weightTable(kernel, image.size.height, to.height)]
  const middle = new Float32Array(to.width * image.size.height * 4)
  for (let y = 0; y < image.size.height; y++)
    for (let x = 0; x < to.width; x++)
      for (let t = 0; t < across.taps; t++) {
        const weight = floatAt(across.weights, x * across.taps + t)
        const column = Math.min(image.size.width - 1, Math.max(0, integerAt(across.starts, x) + t))
        if (weight === 0) continue
        for (let c = 0; c < 4; c++) {
          const at = (y * to.width + x) * 4 + c
          middle[at] = floatAt(middle, at) + weight * floatAt(source, (y * image.size.width + column) * 4 + c)
        }
      }
  const result = new Float32Array(to.width * to.height * 4)
  for (let y = 0; y < to.height; y++)
    for (let t = 0; t < down.taps; t++) {
      const weight = floatAt(down.weights, y * down.taps + t)
      const row = Math.min(image.size.height - 1, Math.max(0, integerAt(down.starts, y) + t))
      if (weight === 0) continue
      for (let i = 0; i < to.width * 4; i++) {
        const at = y * to.width * 4 + i
        result[at] = floatAt(result, at) + weight * floatAt(middle, row * to.width * 4 + i)
      }
    }
  for (let i = 3; i < result.length; i += 4) result[i] = Math.min(1, Math.max(0, floatAt(result, i)))
  return result
}

export const stampImage = defineOperation({
  id: 'stamp-image',
  name: 'Stamp image',
  group: 'finishing',
  purpose: 'Lay a mark (a watermark) over every picture, at the same relative place and size.',
  settings,
  stamp: stampHandles,
  neutral: { opacityPercent: 0 },
  method:
    'The mark, resampled with Mitchell’s filter, composited over the picture in linear light (Porter & Duff 1984; multiply and screen: W3C Compositing and Blending).',
  resolve: (s, { size, copy, asset }) => {
    const mark = s.file !== '' && s.opacityPercent > 0 ? asset?.(s.file) : undefined
    const image = mark?.kind === 'image' ? mark : undefined
    const bare = image && boxOf(s.sizePercent, s.around, image.size, size)
    const place = bare && stampPlace(s, boxAround(s.around, bare), size)
    // A mark in its own colours has a frame that is light or dark.
    const asksGround = s.tint === 'ground' || (s.tint === 'own' && s.around !== 'nothing')
    const picture = place && asksGround ? copy?.() : undefined
    const bright = picture !== undefined && place !== undefined && isBrightUnder(picture, place, size, s.repeats)
    const byGround = bright ? [0, 0, 0] : [1, 1, 1]
    const tint = s.tint === 'own' ? [] : s.tint === 'given' ? [...srgbToWorking(s.colour)] : byGround
    const ink = tint.length > 0 ? tint : byGround
    return { file: s.file, ...stampLay(s, place), tint, around: s.around, ink, bare: bare ? [bare.width, bare.height] : [] }
  },
  render: ({ file: value, tint, around, ink, bare, ...lay }, { size, asset }) => {
    const mark = lay.place.length > 0 && lay.opacity > 0 ? asset?.(value) : undefined
    if (mark?.kind !== 'image') return { kind: 'none' }
    if (around === 'nothing') return stampEffect(lay, size, (to) => tinted(resized(mark, to), tint))
    const own = { width: numberAt(bare, 0), height: numberAt(bare, 1) }
    return stampEffect(lay, size, (to, scale) => {
      const inner = scaleSize(own, Math.min(scale, to.width / own.width, to.height / own.height))
      return framed(tinted(resized(mark, inner), tint), inner, { around, ink, box: to })
    })
  },
  changeInWords: stampChange,
  describe: (s) =>
    s.file === ''
      ? 'no file yet'
      : `${keptFileName(s.file)}, ${shortNumber(s.sizePercent, 1)} % of the short edge${describeLay(s)}, opacity ${plainNumber(s.opacityPercent)} %`,
})

/** A mark in the middle of a larger box, with what is around it. */
function framed(
  pixels: Float32Array,
  size: Size,
  { around, ink, box }: { readonly around: Around; readonly ink: readonly number[]; readonly box: Size },
): Float32Array {
  const result = new Float32Array(box.width * box.height * 4)
  const inset = insetOf(box, size)
  for (let row = 0; row < size.height; row++)
    result.set(pixels.subarray(row * size.width * 4, (row + 1) * size.width * 4), ((inset.y + row) * box.width + inset.x) * 4)
  const coverage = coverageAround(around, box, size)
  for (let i = 0; coverage && i < coverage.length; i++) {
    const over = floatAt(coverage, i)
    if (over === 0) continue
    for (const c of [0, 1, 2, 3]) {
      const value = c === 3 ? 1 : numberAt(ink, c)
      result[i * 4 + c] = value * over + floatAt(result, i * 4 + c) * (1 - over)
    }
  }
  return result
}

/** One colour for all of the mark; its shape stays. */
function tinted(pixels: Float32Array, tint: readonly number[]): Float32Array {
  const result = pixels.slice()
  if (tint.length === 0) return result
  const [red, green, blue] = [numberAt(tint, 0), numberAt(tint, 1), numberAt(tint, 2)]
  for (let i = 0; i < result.length; i += 4) {
    const alpha = floatAt(result, i + 3)
    result[i] = red * alpha
    result[i + 1] = green * alpha
    result[i + 2] = blue * alpha
  }
  return result
}

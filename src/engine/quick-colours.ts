import type { Kernels } from '@kernels/binding'
import { type Size, wholeRect } from '@/base/geometry'
import { numberAt } from '@/base/numbers'
import { mapTriple } from '@/base/tuples'
import { transform, vector3 } from '@/colour/matrix'
import { fileToWorking, workingToFile } from '@/colour/opponent'
import { srgbTransfer } from '@/colour/transfer'
import { conversion, joined, matrixPass } from '@/operations'
import { runPoints } from './evaluate'
import { allOf, type Plan, planRender } from './plan'
import { renderEncoded, walk } from './render'
import type { ResolvedStep } from './resolve'
import type { HeldSource, PlaneSource } from './source'

/*
 * Steps that do the same to a colour wherever it stands, for the moments in which a control is held: the picture before them is indexed once
 * in a palette of its own; then the steps see the palette alone, and a pixel costs one look into it. Nearly the true picture, which
 * follows when the control is let go.
 */

/** A picture in a palette of its own. */
export interface PalettePicture {
  readonly size: Size
  /** The number of each pixel's colour. */
  readonly pixels: Uint16Array
  /** The colours, as a picture of one row. */
  readonly colours: PlaneSource
}

/** Levels of a channel, in encoded sRGB. 0 and 1 are levels themselves: what is inside the range of a screen is told by colours inside. */
interface Levels {
  readonly count: number
  /** The value of the first one. What lies below, or above the last one, is told as that. */
  readonly low: number
  /** Levels in one unit of the encoded range. */
  readonly scale: number
}

/** With what wide colours and bright lights before the steps need beyond 0 and 1. */
function levelsOf(scale: number): Levels {
  const [below, above] = [Math.round(scale / 16), Math.round((scale * 3) / 16)]
  return { count: below + scale + above + 1, low: -below / scale, scale }
}

/** As fine as the palette stays small with. The coarsest can't make more colours than 16 bits can number. */
const fineness = [102, 76, 51, 38, 31].map(levelsOf)
/** The largest palette: its colours are worked on in two or three milliseconds. */
const maxColours = 40_000

/** Thresholds of 4 × 4 pixels, in 16ths (Bayer 1973): what falls between two levels is drawn as a mixture of both. */
const thresholds = [0, 8, 2, 10, 12, 4, 14, 6, 3, 11, 1, 9, 15, 7, 13, 5].map((step) => (step + 0.5) / 16)

/** Whether all that is left to do treats a colour alike wherever it stands. */
export const isByColourAlone = ({ stages }: Plan): boolean => stages.every(({ work }) => work.kind === 'points')

export function inPalette(kernels: Kernels, frame: PlaneSource | HeldSource): PalettePicture {
  for (const levels of fineness) {
    const found = indexed(kernels, frame, levels)
    if (found) return { size: frame.size, pixels: found.pixels, colours: colourPicture(found.cells, levels) }
  }
  throw new Error('The coarsest palette holds any picture')
}

interface IndexedPicture {
  readonly pixels: Uint16Array
  /** What stands for each colour of the palette: red · count² + green · count + blue, of the levels' numbers. */
  readonly cells: Uint32Array
}

/** The picture as indices into a palette, each channel of encoded sRGB rounded to the levels; undefined if that takes too many colours. */
function indexed(kernels: Kernels, frame: PlaneSource | HeldSource, levels: Levels): IndexedPicture | undefined {
  const { size } = frame
  const { heap, run } = kernels
  const pixels = new Uint16Array(size.width * size.height)
  const { count, low, scale } = levels
  const max = levels === fineness.at(-1) ? count ** 3 : maxColours
  const passes = joined([...conversion(frame.domain, 'linear'), matrixPass(workingToFile), { kernel: 'toEncoded', parameters: [] }])
  return heap.scope(() => {
    const numbers = heap.allocate(count ** 3 * 2)
    const cells = heap.allocate(max * 4)
    const row = heap.allocate(size.width * 2)
    const thresholdsAt = heap.floats(thresholds)
    heap.u8(numbers, count ** 3 * 2).fill(0)
    let known = 0
    walk(kernels, planRender(frame, [], 'preview'), wholeRect(size), (strip, top) => {
      if (known < 0) return
      runPoints(kernels, strip, [{ passes, mix: allOf('encoded') }])
      for (let y = 0; y < strip.height && known >= 0; y++) {
        const planes = mapTriple(strip.channels, (channel) => channel + y * strip.stride * 4)
        const fitting = thresholdsAt + ((top + y) & 3) * 16
        known = run.indexColours(...planes, size.width, fitting, count, low, scale, numbers, cells, known, max, row)
        pixels.set(new Uint16Array(heap.memory.buffer, row, size.width), (top + y) * size.width)
      }
    })
    return known < 0 ? undefined : { pixels, cells: new Uint32Array(heap.memory.buffer, cells, known).slice() }
  })
}

function colourPicture(cells: Uint32Array, { count, low, scale }: Levels): PlaneSource {
  const light = Array.from({ length: count }, (_, level) => {
    const value = low + level / scale
    return Math.sign(value) * srgbTransfer.decode(Math.abs(value))
  })
  const planes = new Float32Array(3 * cells.length)
  for (const [i, cell] of cells.entries()) {
    const file = [Math.floor(cell / count ** 2), Math.floor(cell / count) % count, cell % count].map((level) => numberAt(light, level))
    for (const [c, value] of transform(fileToWorking, vector3(file)).entries()) planes[c * cells.length + i] = value
  }
  const size = { width: cells.length, height: 1 }
  return { kind: 'planes', size, fullSize: size, domain: 'linear', planes }
}

/** Pixels that are painted at a time: their numbers and colours stay in a second-level cache. */
const chunkPixels = 1 << 15

/** The picture after the steps: interleaved RGBA of sRGB. `drawn`: where it goes, if there is a place already. */
export function drawQuickly(
  kernels: Kernels,
  { pixels, colours }: PalettePicture,
  steps: readonly ResolvedStep[],
  drawn = new Uint8ClampedArray(pixels.length * 4),
): Uint8ClampedArray<ArrayBuffer> {
  const palette = renderEncoded(kernels, planRender(colours, steps, 'preview'), { space: 'srgb', channels: 4, dither: false })
  const { heap, run } = kernels
  heap.scope(() => {
    const [shown, from, to] = [heap.allocate(palette.length), heap.allocate(chunkPixels * 2), heap.allocate(chunkPixels * 4)]
    heap.u8(shown, palette.length).set(palette)
    const numbers = new Uint16Array(heap.memory.buffer, from, chunkPixels)
    for (let start = 0; start < pixels.length; start += chunkPixels) {
      const some = pixels.subarray(start, start + chunkPixels)
      numbers.set(some)
      run.paintPalette(from, some.length, shown, to)
      drawn.set(heap.u8(to, some.length * 4), start * 4)
    }
  })
  return drawn
}

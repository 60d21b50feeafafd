import { lruCached } from '@/base/lru-cache'
import { doubleAt } from '@/base/numbers'

/** A resampling filter: an even function that is zero beyond its radius. */
export interface ResamplingKernel {
  readonly id: ResamplingKernelId
  readonly name: string
  readonly radius: number
  weight(x: number): number
  /** Not widened when reducing: takes single pixels, and so does not limit the band. */
  readonly keepsWidth?: boolean
}

export type ResamplingKernelId = 'lanczos3' | 'mitchell' | 'catmullRom' | 'bilinear' | 'area' | 'nearest'

const sinc = (x: number): number => (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x))

/** The two-parameter cubic of Mitchell & Netravali, SIGGRAPH 1988, formula (8). */
const cubic =
  (b: number, c: number) =>
  (signed: number): number => {
    const x = Math.abs(signed)
    if (x < 1) return ((12 - 9 * b - 6 * c) * x ** 3 + (-18 + 12 * b + 6 * c) * x ** 2 + (6 - 2 * b)) / 6
    if (x < 2) return ((-b - 6 * c) * x ** 3 + (6 * b + 30 * c) * x ** 2 + (-12 * b - 48 * c) * x + (8 * b + 24 * c)) / 6
    return 0
  }

export const resamplingKernels: Readonly<Record<ResamplingKernelId, ResamplingKernel>> = {
  /** Duchon, J. Applied Meteorology 18 (1979): sinc windowed by the main lobe of a wider sinc. */
  lanczos3: { id: 'lanczos3', name: 'Lanczos-3', radius: 3, weight: (x) => (Math.abs(x) < 3 ? sinc(x) * sinc(x / 3) : 0) },
  mitchell: { id: 'mitchell', name: 'Mitchell', radius: 2, weight: cubic(1 / 3, 1 / 3) },
  catmullRom: { id: 'catmullRom', name: 'Catmull-Rom', radius: 2, weight: cubic(0, 0.5) },
  bilinear: { id: 'bilinear', name: 'Bilinear', radius: 1, weight: (x) => Math.max(0, 1 - Math.abs(x)) },
  nearest: { id: 'nearest', name: 'Nearest', radius: 0.5, weight: (x) => (x >= -0.5 && x < 0.5 ? 1 : 0), keepsWidth: true },
  area: { id: 'area', name: 'Area average', radius: 0.5, weight: (x) => (x >= -0.5 && x < 0.5 ? 1 : 0) },
}

/** For every output sample: the first input sample and `taps` weights that sum to one. */
export interface WeightTable {
  readonly taps: number
  /** First input index per output sample; may be negative or run past the end: edges repeat. */
  readonly starts: Int32Array
  /** `starts.length × taps` weights, row by row. */
  readonly weights: Float32Array
  /**
   * What lies within one output sample to each side, as far as the main lobe of a kernel reaches that has others: input samples
   * `starts + from` and the `count` − 1 behind it. Only where samples are reduced: what is held within them then rings no more.
   */
  readonly surroundings?: { readonly from: Int32Array; readonly count: number }
}

/** The kernels look at no fewer. */
const leastSurroundings = 4

/** Pictures of one folder are of one or two sizes: their tables are worked out once. */
const tables = new Map<string, WeightTable>()
const maxTables = 12

/**
 * Weights for resampling `inputLength` samples to `outputLength`, sample centres aligned.
 * When reducing, the kernel is widened by the ratio, so that it also limits the band (antialiasing).
 */
export const weightTable = (kernel: ResamplingKernel, inputLength: number, outputLength: number): WeightTable =>
  lruCached(tables, `${kernel.id} ${inputLength} ${outputLength}`, maxTables, () => newTable(kernel, inputLength, outputLength))

function newTable(kernel: ResamplingKernel, inputLength: number, outputLength: number): WeightTable {
  const ratio = inputLength / outputLength
  const stretch = kernel.keepsWidth ? 1 : Math.max(1, ratio)
  const support = kernel.radius * stretch
  const most = Math.ceil(2 * support) + 1
  const starts = new Int32Array(outputLength)
  const all = new Float64Array(outputLength * most)
  // Samples that weigh nothing for any output are not looked at.
  let taps = 1
  for (let i = 0; i < outputLength; i++) {
    const centre = (i + 0.5) * ratio - 0.5
    const start = Math.ceil(centre - support)
    let sum = 0
    for (let t = 0; t < most; t++) {
      const weight = kernel.weight((start + t - centre) / stretch)
      all[i * most + t] = weight
      sum += weight
      if (weight !== 0) taps = Math.max(taps, t + 1)
    }
    starts[i] = start
    for (let t = 0; t < most; t++) all[i * most + t] = doubleAt(all, i * most + t) / sum
  }
  const weights = new Float32Array(outputLength * taps)
  for (let i = 0; i < outputLength; i++) weights.set(all.subarray(i * most, i * most + taps), i * taps)
  if (ratio <= 1 || kernel.radius <= 1) return { taps, starts, weights }
  const count = Math.max(leastSurroundings, Math.floor(2 * ratio))
  const from = starts.map((start, i) => Math.max(0, Math.ceil((i + 0.5) * ratio - 0.5 - count / 2) - start))
  return { taps, starts, weights, surroundings: { from, count } }
}

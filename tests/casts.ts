import type { Kernels } from '@kernels/binding'
import sharp from 'sharp'
import { deltaE00 } from '@/colour/delta-e'
import { acrossLocus, whiteOfTemperature } from '@/colour/illuminant'
import { srgb8ToLab } from '@/colour/lab'
import { invert, multiply, transform, type Vector3, vector3 } from '@/colour/matrix'
import { adaptWhite, colourSpaces, d65, rgbToXyz, xyzOfChromaticity } from '@/colour/spaces'
import { srgbTransfer } from '@/colour/transfer'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { resolveSteps } from '@/engine/resolve'
import { newStep } from '@/macros/step'
import type { InterleavedSource } from '@/pixels/picture'
import { srgbColour } from './pictures'

/* Pictures as they would have come out of a camera that took another light for neutral, and what a white balance makes of them. */

/** Linear sRGB of a picture in the light of D65, as it comes out where light of a temperature was not taken into account. */
export function castMatrix(temperatureK: number, duv = 0) {
  const toXyz = rgbToXyz(colourSpaces.srgb)
  const white = xyzOfChromaticity(acrossLocus(whiteOfTemperature(temperatureK), duv))
  const scaled = vector3(white.map((value) => value / white[1]))
  return multiply(invert(toXyz), multiply(adaptWhite(xyzOfChromaticity(d65), scaled), toXyz))
}

/** Codes of sRGB in another light, rounded; `cutOff`: pixels of which a channel did not fit. */
export function inLight(codes: Uint8Array, temperatureK: number): { readonly codes: Uint8Array; readonly cutOff: Uint8Array } {
  const matrix = castMatrix(temperatureK)
  const cast = new Uint8Array(codes.length)
  const cutOff = new Uint8Array(codes.length / 3)
  const decoded = Float64Array.from({ length: 256 }, (_, code) => srgbTransfer.decode(code / 255))
  for (let i = 0; i < cutOff.length; i++) {
    const light = transform(matrix, vector3([0, 1, 2].map((c) => decoded[codes[3 * i + c] ?? 0] ?? 0)))
    if (light.some((value) => value > 1 || value < 0)) cutOff[i] = 1
    for (const [c, value] of light.entries()) cast[3 * i + c] = Math.round(255 * srgbTransfer.encode(Math.min(1, Math.max(0, value))))
  }
  return { codes: cast, cutOff }
}

const srgbSource = (pixels: Uint8Array, { width, height }: { width: number; height: number }): InterleavedSource => ({
  kind: 'interleaved',
  size: { width, height },
  pixels,
  colour: srgbColour,
})

export function balanced(kernels: Kernels, source: InterleavedSource, temperatureK: number): Uint8ClampedArray {
  const steps = resolveSteps([newStep('white-balance', 'w', { temperatureK })], source.size)
  return renderEncoded(kernels, planRender(source, steps, 'full'), { space: 'srgb', channels: 3, dither: false })
}

export interface Returned {
  /** Mean ΔE00 of what was not cut off. */
  readonly apart: number
  /** The most that a hue is turned by, in degrees, of those that have one: the 999th thousandth of what was not cut off. */
  readonly turned: number
  /** Share of what was cut off and had a colour that comes out without one, in per cent. */
  readonly greyedPercent: number
}

const chromaOf = ([, a, b]: Vector3): number => Math.hypot(a, b)
/** Below, a hue is a matter of rounding: one code turns it by degrees. */
const leastChroma = 20

/** A picture put into another light and back by the very inverse. */
export async function thereAndBack(kernels: Kernels, path: string, temperatureK: number): Promise<Returned> {
  const { data, info } = await sharp(path).resize(384, 384, { fit: 'inside' }).removeAlpha().raw().toBuffer({ resolveWithObject: true })
  const { codes, cutOff } = inLight(data, temperatureK)
  const back = balanced(kernels, srgbSource(codes, info), temperatureK)
  let [sum, count, coloured, greyed] = [0, 0, 0, 0]
  const turns: number[] = []
  for (let i = 0; i < cutOff.length; i++) {
    const [was, is] = [data, back].map((some) => srgb8ToLab(vector3([0, 1, 2].map((c) => some[3 * i + c] ?? 0)))) as [Vector3, Vector3]
    if (cutOff[i]) {
      if (chromaOf(was) < 2 * leastChroma) continue
      coloured++
      if (chromaOf(is) < leastChroma / 2) greyed++
      continue
    }
    sum += deltaE00(was, is)
    count++
    if (chromaOf(was) < leastChroma) continue
    const turn = Math.abs(Math.atan2(is[2], is[1]) - Math.atan2(was[2], was[1]))
    turns.push((Math.min(turn, 2 * Math.PI - turn) * 180) / Math.PI)
  }
  turns.sort((a, b) => a - b)
  return {
    apart: sum / count,
    turned: turns[Math.floor(turns.length * 0.999)] ?? 0,
    greyedPercent: coloured > 0 ? (100 * greyed) / coloured : 0,
  }
}

/** Twenty-four fully saturated colours of sRGB: one channel at 255, one at 0. */
export const saturatedChart: readonly Vector3[] = Array.from({ length: 24 }, (_, i) => {
  const [sector, rise] = [Math.floor(i / 4), Math.round((255 * (i % 4)) / 4)]
  const ramps: readonly Vector3[] = [
    [255, rise, 0],
    [255 - rise, 255, 0],
    [0, 255, rise],
    [0, 255 - rise, 255],
    [rise, 0, 255],
    [255, 0, 255 - rise],
  ]
  return ramps[sector] as Vector3
})

/** The least chroma in CIELAB that any of them keeps under a temperature, as a share of what it had. */
export function leastChromaKept(kernels: Kernels, temperatureK: number): number {
  const source = srgbSource(Uint8Array.from(saturatedChart.flat()), { width: saturatedChart.length, height: 1 })
  const pixels = balanced(kernels, source, temperatureK)
  return Math.min(
    ...saturatedChart.map(
      (codes, i) => chromaOf(srgb8ToLab(vector3([...pixels.subarray(3 * i, 3 * i + 3)]))) / chromaOf(srgb8ToLab(codes)),
    ),
  )
}

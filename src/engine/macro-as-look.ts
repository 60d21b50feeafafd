import type { Kernels } from '@kernels/binding'
import { mapTriple } from '@/base/tuples'
import type { LookTable } from '@/colour/cube'
import { transform } from '@/colour/matrix'
import { colourSpaces, rgbToRgb, workingSpace } from '@/colour/spaces'
import { srgbTransfer } from '@/colour/transfer'
import { planRender } from './plan'
import { renderEncoded16 } from './render'
import type { ResolvedStep } from './resolve'
import type { PlaneSource } from './source'

/** Entries along one axis: what looks for pictures usually have (common practice). */
const lookSize = 33

/** Whether steps do the same to a colour wherever it stands: only then can a table hold all they do. */
export const isLook = (steps: readonly ResolvedStep[]): boolean =>
  steps.every(
    ({ effect, limit }) =>
      effect.kind === 'none' ||
      (limit.length === 0 && (effect.kind === 'point' || (effect.kind === 'neighbourhood' && effect.byColourAlone === true))),
  )

/** What steps make of every colour of sRGB, as a 33³ table of encoded sRGB values. Give only steps that `isLook` holds for. */
export function renderLook(kernels: Kernels, steps: readonly ResolvedStep[]): LookTable {
  const toWorking = rgbToRgb(colourSpaces.srgb, workingSpace)
  const count = lookSize ** 3
  const planes = new Float32Array(3 * count)
  const light = (index: number): number => srgbTransfer.decode(index / (lookSize - 1))
  for (let i = 0; i < count; i++) {
    const rgb = mapTriple([i % lookSize, Math.floor(i / lookSize) % lookSize, Math.floor(i / lookSize ** 2)], light)
    for (const [c, value] of transform(toWorking, rgb).entries()) planes[c * count + i] = value
  }
  const size = { width: lookSize ** 2, height: lookSize }
  const source: PlaneSource = { kind: 'planes', size, fullSize: size, domain: 'linear', planes }
  const codes = renderEncoded16(kernels, planRender(source, steps, 'full'), { space: 'srgb' })
  const values = Float32Array.from(codes, (code) => code / 65535)
  return { kind: '3d', size: lookSize, domainMin: [0, 0, 0], domainMax: [1, 1, 1], values }
}

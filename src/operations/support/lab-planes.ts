import { floatAt } from '@/base/numbers'
import { transform } from '@/colour/matrix'
import { coneToLab, workingToCone } from '@/colour/oklab'
import type { LinearPicture } from '@/pixels/linear-picture'

export type LabPlanes = readonly [l: Float32Array, a: Float32Array, b: Float32Array]

/** OKLab planes of a picture. */
export function labOf({ size, planes }: LinearPicture): LabPlanes {
  const length = size.width * size.height
  const lab: LabPlanes = [new Float32Array(length), new Float32Array(length), new Float32Array(length)]
  for (let i = 0; i < length; i++) {
    const cone = transform(workingToCone, [floatAt(planes, i), floatAt(planes, length + i), floatAt(planes, 2 * length + i)])
    const values = transform(coneToLab, [Math.cbrt(cone[0]), Math.cbrt(cone[1]), Math.cbrt(cone[2])])
    for (const c of [0, 1, 2] as const) lab[c][i] = values[c]
  }
  return lab
}

import type { Pointer } from '@kernels/heap'
import { strideOf } from '@kernels/planes'
import { memoised } from '@/base/lru-cache'
import { mapTriple } from '@/base/tuples'
import { type LinearPicture, laidOut } from '@/pixels/linear-picture'
import { conversion } from './domains'

export type LabPlanes = readonly [l: Float32Array, a: Float32Array, b: Float32Array]

/** What is taken of a picture's OKLab planes, while they are on the heap. */
function ofLab<T>(picture: LinearPicture, take: (planes: readonly [Pointer, Pointer, Pointer]) => T): T {
  const { heap, run } = picture.kernels
  return heap.scope(() => {
    const planes = laidOut(picture)
    const count = strideOf(picture.size.width * picture.size.height)
    for (const { kernel, parameters } of conversion('linear', 'oklab')) run[kernel](...planes, count, heap.floats(parameters))
    return take(planes)
  })
}

const copyOf = ({ kernels: { heap }, size }: LinearPicture, plane: Pointer): Float32Array =>
  heap.f32(plane, size.width * size.height).slice()

/** OKLab planes of a picture. */
export const labOf = (picture: LinearPicture): LabPlanes => ofLab(picture, (planes) => mapTriple(planes, (plane) => copyOf(picture, plane)))

/** OKLab lightness of a picture. */
export const lightnessOf = memoised((picture: LinearPicture): Float32Array => ofLab(picture, ([light]) => copyOf(picture, light)))

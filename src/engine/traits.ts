import type { Kernels } from '@kernels/binding'
import { findTilt } from '@/operations/measure/horizon'
import type { Codes } from '@/pixels/codes'
import { detailOf } from '@/pixels/detail'
import { reducedLinear } from '@/pixels/linear-picture'
import { type PictureTraits, traitsOf } from '@/pixels/traits'

/** Tilts beyond this, in degrees, are taken for intended. */
const maxTiltDegrees = 5
/** Long edge that tilts are looked for on. */
const tiltEdge = 384

/** All that a finished picture is compared with its siblings by, but for what the frame cuts off. `detail`: whether it has all its pixels. */
export function finishedTraits(kernels: Kernels, codes: Codes, { hasDetail }: { hasDetail: boolean }): PictureTraits {
  const { values, channels } = codes
  const tiltDegrees = findTilt(reducedLinear(kernels, codes, tiltEdge), maxTiltDegrees)
  return { ...traitsOf(values, channels), ...(hasDetail ? detailOf(kernels, codes) : undefined), tiltDegrees }
}

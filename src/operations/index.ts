import { autoLevels } from './auto-levels'
import { bitDepth } from './bit-depth'
import { channelMixer } from './channel-mixer'
import { colourSpace } from './colour-space'
import { contrast } from './contrast'
import { crop } from './crop'
import { curve } from './curve'
import { deconvolve } from './deconvolve'
import { despeckle } from './despeckle'
import { detailBands } from './detail-bands'
import { equalise } from './equalise'
import { exposure } from './exposure'
import { falloff } from './falloff'
import { grain } from './grain'
import { haze } from './haze'
import { hueBands } from './hue-bands'
import { levels } from './levels'
import { localContrast } from './local-contrast'
import { lookTable } from './look-table'
import { match } from './match'
import { monochrome } from './monochrome'
import { noiseReduction } from './noise-reduction'
import type { Operation } from './operation'
import { pad } from './pad'
import { perspective } from './perspective'
import { playMacro } from './play-macro'
import { resize } from './resize'
import { saturation } from './saturation'
import { sharpenForSize } from './sharpen-for-size'
import { smooth } from './smooth'
import { splitTint } from './split-tint'
import { stampImage } from './stamp-image'
import { stampText } from './stamp-text'
import { straighten } from './straighten'
import { toneBands } from './tone-bands'
import { turn } from './turn'
import { unsharpMask } from './unsharp-mask'
import { vibrance } from './vibrance'
import { whiteBalance } from './white-balance'

/** The catalogue, in the order in which operations are offered. */
export const operations: readonly Operation[] = [
  exposure,
  levels,
  autoLevels,
  curve,
  contrast,
  toneBands,
  localContrast,
  haze,
  equalise,
  falloff,
  grain,
  whiteBalance,
  saturation,
  vibrance,
  hueBands,
  channelMixer,
  monochrome,
  splitTint,
  lookTable,
  match,
  noiseReduction,
  despeckle,
  smooth,
  unsharpMask,
  deconvolve,
  detailBands,
  sharpenForSize,
  crop,
  straighten,
  perspective,
  turn,
  pad,
  resize,
  stampImage,
  stampText,
  playMacro,
  colourSpace,
  bitDepth,
]

const byId = new Map(operations.map((operation) => [operation.id, operation]))

/** The operation with this id, or undefined: a newer version may have written ids that this one lacks. */
export const findOperation = (id: string): Operation | undefined => byId.get(id)

export { conversion, gamutPass, joined, matrixPass } from './domains'
export { gaussianBlur, gaussianReach } from './gaussian'
export { expandGrid } from './grid'
export type {
  Constants,
  Domain,
  Effect,
  Grid,
  Ground,
  NeighbourhoodJob,
  Operation,
  OperationGroup,
  PictureAtStep,
  PointPass,
} from './operation'
export { operationGroups } from './operation'
export * from './settings'

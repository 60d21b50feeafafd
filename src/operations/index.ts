import { baseCurve } from './catalogue/base-curve'
import { bitDepth } from './catalogue/bit-depth'
import { channelMixer } from './catalogue/channel-mixer'
import { colourSpace } from './catalogue/colour-space'
import { contrast } from './catalogue/contrast'
import { crop } from './catalogue/crop'
import { curve } from './catalogue/curve'
import { deconvolve } from './catalogue/deconvolve'
import { despeckle } from './catalogue/despeckle'
import { detailBands } from './catalogue/detail-bands'
import { equalise } from './catalogue/equalise'
import { evenOut } from './catalogue/even-out'
import { exposure } from './catalogue/exposure'
import { falloff } from './catalogue/falloff'
import { fullRange } from './catalogue/full-range'
import { grain } from './catalogue/grain'
import { haze } from './catalogue/haze'
import { hueBands } from './catalogue/hue-bands'
import { levels } from './catalogue/levels'
import { localContrast } from './catalogue/local-contrast'
import { lookTable } from './catalogue/look-table'
import { match } from './catalogue/match'
import { monochrome } from './catalogue/monochrome'
import { noiseReduction } from './catalogue/noise-reduction'
import { pad } from './catalogue/pad'
import { perspective } from './catalogue/perspective'
import { playMacro } from './catalogue/play-macro'
import { resize } from './catalogue/resize'
import { saturation } from './catalogue/saturation'
import { sharpenForSize } from './catalogue/sharpen-for-size'
import { smooth } from './catalogue/smooth'
import { splitTint } from './catalogue/split-tint'
import { stampImage } from './catalogue/stamp-image'
import { stampText } from './catalogue/stamp-text'
import { straighten } from './catalogue/straighten'
import { toneBands } from './catalogue/tone-bands'
import { turn } from './catalogue/turn'
import { unsharpMask } from './catalogue/unsharp-mask'
import { vibrance } from './catalogue/vibrance'
import { whiteBalance } from './catalogue/white-balance'
import type { Operation } from './declare/operation'

/** The catalogue, in the order in which operations are offered. */
export const operations: readonly Operation[] = [
  exposure,
  baseCurve,
  levels,
  fullRange,
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
  evenOut,
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

const byId = new Map(
  operations.flatMap((operation) => [operation.id, ...(operation.formerIds ?? [])].map((id) => [id, operation] as const)),
)

/** The operation with this id, or with this as a former one; undefined: a newer version may have written ids that this one lacks. */
export const findOperation = (id: string): Operation | undefined => byId.get(id)

export { alsoCalled } from './also-called'
export type { DeskPart, FrameGrip, FrameHandles, LevelHandles, StampHandles, Standing, StepTool, ToolKind } from './declare/handles'
export { kindOf } from './declare/kinds'
export type { JsonSchema } from './declare/kinds/kind'
export type {
  Constants,
  Domain,
  Effect,
  Grid,
  Ground,
  NeighbourhoodJob,
  Operation,
  OperationGroup,
  PatchOptions,
  PictureAtStep,
  PointPass,
} from './declare/operation'
export { operationGroups } from './declare/operation'
export * from './declare/settings'
export * from './ready-made'
export { shownBy } from './shown-by'
export { conversion, gamutPass, joined, matrixPass } from './support/domains'
export { gaussianBlur, gaussianReach } from './support/gaussian'
export { expandGrid } from './support/grid'
export { lightNodes } from './support/light-tables'

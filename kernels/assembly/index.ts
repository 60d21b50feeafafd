export { toEncoded, toLinear } from './transfer'
export * from './colour'
export * from './tone'
export * from './pixels'
export * from './neighbourhood'
export * from './resample'
export { curve, curveFirst, gainByTable, hueTable, lightTables, lookTable, tileCurves } from './tables'
export * from './place'
export * from './local'
export { shrinkBlocks, weighBlocks } from './shrinkage'
export { shrinkStaggered } from './staggered'
export { shareGroups, shrinkGroups } from './grouped'
export { doublePlane, followHalf, halveAndLose, halvePlane } from './pyramid'
export { layColour, meanProducts, shareHalf, solveFollow } from './follow'
export * from './detail'
export { warpRow } from './warp'
export * from './limit'
export * from './output'
export * from './palette'
export { blendStamp } from './stamp'
export { readScan } from './jpeg-scan'
export { boxMeanColumns, boxMeanRows, countAbove, countBuckets, floatOfRank, gatherBuckets, guidedSlopes } from './measure'
export { countColours, lightColours, scoreLight } from './light'
export { chooseFlattest, markCutOff, placeBlocks, squaresOfBlocks, transformBlocks } from './noise-blocks'

/** The first address behind the kernels' own constants and scratch. */
export function freeFrom(): usize {
  return __heap_base
}

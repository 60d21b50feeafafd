import { fromOpponent, workingToFile } from '@/colour/opponent'
import { colourSpaces, luminanceWeights, type OutputSpaceId, rgbToRgb, workingSpace } from '@/colour/spaces'
import { conversion, type Domain, gamutPass, joined, matrixPass, type PointPass } from '@/operations'

/** hue: colours that the space lacks are pulled in along their hue. clip: each channel is cut off by itself. */
export type GamutMapping = 'hue' | 'clip'

/** From a domain to the encoded values of a delivery's colour space. Grey is luminance with the transfer of sRGB. */
export function outputPasses(from: Domain, space: OutputSpaceId, gamut: GamutMapping): readonly PointPass[] {
  if (from === 'opponent' && space === 'srgb') {
    // These are encoded already.
    const mapping = { ...gamutPass(workingToFile), kernel: 'mapGamutEncoded' } as const
    return [matrixPass(fromOpponent), ...(gamut === 'hue' ? [mapping] : [])]
  }
  const linear = conversion(from, 'linear')
  if (space === 'grey') {
    const luminance = matrixPass([...luminanceWeights, ...luminanceWeights, ...luminanceWeights])
    return joined([...linear, luminance, ...conversion('linear', 'encoded')])
  }
  const target = colourSpaces[space]
  const toTarget = rgbToRgb(workingSpace, target)
  const { id, law } = target.transfer
  const encode: readonly PointPass[] =
    id === 'srgb'
      ? conversion('linear', 'encoded')
      : [{ kernel: 'encodePower', parameters: [law.cut, law.slope, law.gain, law.exponent, law.offset] }]
  return joined([...linear, matrixPass(toTarget), ...(gamut === 'hue' ? [gamutPass(toTarget)] : []), ...encode])
}

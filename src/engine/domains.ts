import { type ColourSpaceId, colourSpaces, rgbToRgb, workingSpace } from '@/core/colour/spaces'
import { conversion, type Domain, type PointPass } from '@/operations'

/** From a domain to the encoded values of a delivery's colour space (sRGB transfer). */
export function outputPasses(from: Domain, space: ColourSpaceId): readonly PointPass[] {
  return [
    ...conversion(from, 'linear'),
    { kernel: 'matrix', parameters: [...rgbToRgb(workingSpace, colourSpaces[space])] },
    ...conversion('linear', 'encoded'),
  ]
}

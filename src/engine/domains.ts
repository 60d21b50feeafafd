import { coneToLab, coneToWorking, labToCone, workingToCone } from '@/core/colour/oklab'
import { type ColourSpaceId, colourSpaces, rgbToRgb, workingSpace } from '@/core/colour/spaces'
import type { Domain, PointPass } from '@/operations'

const toEncoded: PointPass = { kernel: 'toEncoded', parameters: [] }
const toLinear: PointPass = { kernel: 'toLinear', parameters: [] }
const toOklab: PointPass = { kernel: 'toOklab', parameters: [...workingToCone, ...coneToLab] }
const fromOklab: PointPass = { kernel: 'fromOklab', parameters: [...labToCone, ...coneToWorking] }

const leave: Record<Domain, readonly PointPass[]> = { linear: [], encoded: [toLinear], oklab: [fromOklab] }
const enter: Record<Domain, readonly PointPass[]> = { linear: [], encoded: [toEncoded], oklab: [toOklab] }

/** The passes from one domain to another; none between equal ones, else by way of linear light. */
export const conversion = (from: Domain, to: Domain): readonly PointPass[] => (from === to ? [] : [...leave[from], ...enter[to]])

/** From a domain to the encoded values of a delivery's colour space (sRGB transfer). */
export function outputPasses(from: Domain, space: ColourSpaceId): readonly PointPass[] {
  return [...leave[from], { kernel: 'matrix', parameters: [...rgbToRgb(workingSpace, colourSpaces[space])] }, toEncoded]
}

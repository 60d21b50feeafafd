import { coneToLab, coneToWorking, labToCone, workingToCone } from '@/core/colour/oklab'
import { invert, type Matrix3, multiply } from '@/core/matrix'
import type { Domain, PointPass } from './operation'

const toEncoded: PointPass = { kernel: 'toEncoded', parameters: [] }
const toLinear: PointPass = { kernel: 'toLinear', parameters: [] }
const toOklab: PointPass = { kernel: 'toOklab', parameters: [...workingToCone, ...coneToLab] }
const fromOklab: PointPass = { kernel: 'fromOklab', parameters: [...labToCone, ...coneToWorking] }

const leave: Record<Domain, readonly PointPass[]> = { linear: [], encoded: [toLinear], oklab: [fromOklab] }
const enter: Record<Domain, readonly PointPass[]> = { linear: [], encoded: [toEncoded], oklab: [toOklab] }

/** The passes from one domain to another; none between equal ones, else by way of linear light. */
export const conversion = (from: Domain, to: Domain): readonly PointPass[] => (from === to ? [] : [...leave[from], ...enter[to]])

/** Pulls colours that an RGB space lacks in along their hue, on its linear values. `toSpace`: from linear working RGB. */
export function gamutPass(toSpace: Matrix3): PointPass {
  const toCone = multiply(workingToCone, invert(toSpace))
  return { kernel: 'mapGamut', parameters: [...toCone, ...coneToLab, ...labToCone, ...invert(toCone)] }
}

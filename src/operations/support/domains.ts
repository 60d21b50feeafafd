import { invert, type Matrix3, matrix3, multiply } from '@/colour/matrix'
import { coneToLab, coneToWorking, labToCone, workingToCone } from '@/colour/oklab'
import { fileToWorking, fromOpponent, toOpponent, workingToFile } from '@/colour/opponent'
import type { Domain, PointPass } from '../declare/operation'

const toEncoded: PointPass = { kernel: 'toEncoded', parameters: [] }
const toLinear: PointPass = { kernel: 'toLinear', parameters: [] }
const toOklab: PointPass = { kernel: 'toOklab', parameters: [...workingToCone, ...coneToLab] }
const fromOklab: PointPass = { kernel: 'fromOklab', parameters: [...labToCone, ...coneToWorking] }

/** A matrix on three planes. */
export const matrixPass = (matrix: Matrix3): PointPass => ({ kernel: 'matrix', parameters: matrix })

const leave: Record<Domain, readonly PointPass[]> = {
  linear: [],
  encoded: [toLinear],
  oklab: [fromOklab],
  opponent: [matrixPass(fromOpponent), toLinear, matrixPass(fileToWorking)],
}
const enter: Record<Domain, readonly PointPass[]> = {
  linear: [],
  encoded: [toEncoded],
  oklab: [toOklab],
  opponent: [matrixPass(workingToFile), toEncoded, matrixPass(toOpponent)],
}

/** The passes from one domain to another; none between equal ones, else by way of linear light. */
export const conversion = (from: Domain, to: Domain): readonly PointPass[] => (from === to ? [] : joined([...leave[from], ...enter[to]]))

/** The same passes with fewer runs over the pixels: what multiplies with a matrix first or last takes in a matrix beside it. */
export function joined(passes: readonly PointPass[]): PointPass[] {
  const result: PointPass[] = []
  for (const pass of passes) {
    const last = result.at(-1)
    const both = last && takenIn(last, pass)
    if (both) result.pop()
    result.push(both ?? pass)
  }
  return result
}

const matrixAt = (parameters: readonly number[], start: number): Matrix3 => matrix3(parameters.slice(start, start + 9))

function takenIn(first: PointPass, second: PointPass): PointPass | undefined {
  const [a, b] = [first.parameters, second.parameters]
  if (first.kernel === 'matrix' && second.kernel === 'matrix') return matrixPass(multiply(matrixAt(b, 0), matrixAt(a, 0)))
  if (first.kernel === 'matrix' && second.kernel === 'toOklab')
    return { kernel: 'toOklab', parameters: [...multiply(matrixAt(b, 0), matrixAt(a, 0)), ...b.slice(9)] }
  if (first.kernel === 'fromOklab' && second.kernel === 'matrix')
    return { kernel: 'fromOklab', parameters: [...a.slice(0, 9), ...multiply(matrixAt(b, 0), matrixAt(a, 9))] }
  return undefined
}

/** Pulls colours that an RGB space lacks in along their hue, on its linear values. `toSpace`: from linear working RGB. */
export function gamutPass(toSpace: Matrix3): PointPass {
  const toCone = multiply(workingToCone, invert(toSpace))
  return { kernel: 'mapGamut', parameters: [...toCone, ...coneToLab, ...labToCone, ...invert(toCone)] }
}

import { numberAt } from '@/base/numbers'
import { type LocusPlace, nearestOnLocus } from './illuminant'
import { d50ToD65 } from './lab'
import { diagonal, identity3, invert, type Matrix3, mapMatrix, multiply, transform, type Vector3 } from './matrix'
import { adaptWhite, type Chromaticity, chromaticityOf, d50Pcs, rgbToXyz, workingSpace, xyzOfChromaticity } from './spaces'

/*
 * Colours of a camera's sensor. Formulas after the DNG specification 1.4 (2012), chapter 6, "Mapping Camera Color Space to CIE XYZ Space".
 */

/** What is known of a sensor's colours under one light. */
export interface CameraProfile {
  /** Correlated colour temperature of that light. */
  readonly kelvin: number
  /** XYZ → camera, as ColorMatrix has it. */
  readonly matrix: Matrix3
  /** Camera, balanced → XYZ of D50, as ForwardMatrix has it. */
  readonly forward?: Matrix3
  /** From the reference camera to this one: AnalogBalance times CameraCalibration. */
  readonly calibration?: Matrix3
}

/** The colours of a raw file: plain data, part of its facts. */
export interface CameraColour {
  /** What something neutral is in the sensor's channels, the largest 1, as the camera judged the light. */
  readonly neutral: Vector3
  /** One profile, or two under different lights. */
  readonly profiles: readonly CameraProfile[]
}

/** Between the lights of two profiles, by reciprocal temperature; beyond them the nearer one. */
function between(profiles: readonly CameraProfile[], kelvin: number): CameraProfile {
  const [low, high] = [...profiles].sort((a, b) => a.kelvin - b.kelvin)
  if (!low) throw new RangeError('A camera needs a profile')
  if (!high || kelvin <= low.kelvin) return low
  if (kelvin >= high.kelvin) return high
  const share = (1 / kelvin - 1 / high.kelvin) / (1 / low.kelvin - 1 / high.kelvin)
  const mixed = (a: Matrix3, b: Matrix3): Matrix3 => mapMatrix((i) => share * numberAt(a, i) + (1 - share) * numberAt(b, i))
  return {
    kelvin,
    matrix: mixed(low.matrix, high.matrix),
    ...(low.forward && high.forward ? { forward: mixed(low.forward, high.forward) } : {}),
    calibration: mixed(low.calibration ?? identity3, high.calibration ?? identity3),
  }
}

const toCamera = ({ calibration = identity3, matrix }: CameraProfile): Matrix3 => multiply(calibration, matrix)

/** More passes than the iteration of the specification needs to settle. */
const maxPasses = 30

/** The chromaticity of the light in which a neutral surface has these values in the camera. */
export function whiteOfNeutral({ neutral, profiles }: CameraColour): Chromaticity {
  let white = chromaticityOf(d50Pcs)
  for (let pass = 0; pass < maxPasses; pass++) {
    const profile = between(profiles, nearestOnLocus(white).kelvin)
    const next = chromaticityOf(transform(invert(toCamera(profile)), neutral))
    const moved = Math.hypot(next[0] - white[0], next[1] - white[1])
    white = next
    if (moved < 1e-7) break
  }
  return white
}

/** The light as the camera judged it. */
export const asShot = (colour: CameraColour): LocusPlace => nearestOnLocus(whiteOfNeutral(colour))

const fromXyz = multiply(invert(rgbToXyz(workingSpace)), d50ToD65)

/**
 * The camera's values, balanced by the neutral it judged, → linear working RGB as they are in a light of this white: what is white in that
 * light comes out white, as bright as the camera's own neutral.
 */
export function balancedToWorking({ neutral, profiles }: CameraColour, white: Chromaticity): Matrix3 {
  const profile = between(profiles, nearestOnLocus(white).kelvin)
  const whiteXyz = xyzOfChromaticity(white)
  const whiteSeen = transform(toCamera(profile), whiteXyz)
  const largest = Math.max(...whiteSeen)
  const level: Vector3 = [neutral[0] * largest, neutral[1] * largest, neutral[2] * largest]
  return multiply(fromXyz, multiply(toPcs(profile, whiteXyz, whiteSeen), diagonal(level)))
}

/** The same in the light as shot: what is balanced is white already. */
export const asShotToWorking = (colour: CameraColour): Matrix3 => balancedToWorking(colour, whiteOfNeutral(colour))

/** Camera → XYZ of D50, for light of a white that the camera sees as `whiteSeen`. */
function toPcs(profile: CameraProfile, white: Vector3, whiteSeen: Vector3): Matrix3 {
  const { calibration = identity3, forward } = profile
  if (!forward) return multiply(adaptWhite(white, d50Pcs), invert(toCamera(profile)))
  // CameraToXYZ_D50 = FM · D · Inv(AB · CC), D what makes the reference camera's neutral white.
  const back = invert(calibration)
  return multiply(forward, multiply(invert(diagonal(transform(back, whiteSeen))), back))
}

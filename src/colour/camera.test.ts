import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { numberAt } from '@/base/numbers'
import { asShot, balancedToWorking, type CameraColour, whiteOfNeutral } from './camera'
import { matrix3, multiply, transform, type Vector3, vector3 } from './matrix'
import { d65, rgbToXyz, workingSpace, xyzOfChromaticity } from './spaces'

const truth = JSON.parse(readFileSync('demo/raw/raw-truth.json', 'utf8'))
const truthOf = (name: string) => truth.files[`${name}.dng`]
const names: readonly string[] = Object.keys(truth.files).map((file: string) => file.replace('.dng', ''))
const workingXyz = rgbToXyz(workingSpace)
const white = xyzOfChromaticity(d65)

describe('white of a camera', () => {
  // A made-up camera; all of it is worked out by hand after the DNG specification 1.4, chapter 6.
  const [a, d] = [matrix3(truth.about.matrices.illuminant_a.flat()), matrix3(truth.about.matrices.d65.flat())]
  const colourOf = (neutral: Vector3): CameraColour => ({
    neutral,
    profiles: [
      { kelvin: 2856, matrix: a },
      { kelvin: 6504, matrix: d },
    ],
  })
  it('the neutral of D65 under the D65 matrix is D65', () => {
    const seen = transform(d, white)
    const largest = Math.max(...seen)
    const [x, y] = whiteOfNeutral(colourOf(vector3(seen.map((value) => value / largest))))
    expect(x).toBeCloseTo(d65[0], 4)
    expect(y).toBeCloseTo(d65[1], 4)
  })
  it('half way between the lights in reciprocal temperature, both matrices count alike', () => {
    const kelvin = 2 / (1 / 2856 + 1 / 6504)
    const mixed = matrix3(a.map((value, i) => (value + numberAt(d, i)) / 2))
    const { kelvin: found } = asShot(colourOf(neutralUnder(kelvin, mixed)))
    expect(found).toBeCloseTo(kelvin, -1)
  })
  it.each(names)('%s: a neutral is white, as bright as its largest channel', (name) => {
    const colour = colourOf(truthOf(name).neutral_true)
    const light = transform(balancedToWorking(colour, whiteOfNeutral(colour)), [1, 1, 1])
    for (const value of light) expect(value).toBeCloseTo(1, 4)
  })
  it('with a forward matrix, white is D50 of the profile connection space whatever the matrix before says', () => {
    // ForwardMatrix maps (1, 1, 1) to D50 (0.9642, 1, 0.8249); this one takes camera primaries at equal shares.
    const forward = matrix3([0.6, 0.2, 0.1642, 0.3, 0.6, 0.1, 0.05, 0.05, 0.7249])
    const colour: CameraColour = { neutral: [0.5, 1, 0.6], profiles: [{ kelvin: 6504, matrix: d, forward }] }
    const shot = transform(balancedToWorking(colour, whiteOfNeutral(colour)), [1, 1, 1])
    for (const value of shot) expect(value).toBeCloseTo(1, 3)
    const red = transform(multiply(workingXyz, balancedToWorking(colour, whiteOfNeutral(colour))), [1, 0, 0])
    expect(red[1]).toBeCloseTo(0.3, 1)
  })
})

function neutralUnder(kelvin: number, matrix: ReturnType<typeof matrix3>): Vector3 {
  // CIE 15:2018 daylight reaches down to 4000 K; below, the locus of the product passes into lamps.
  const t = 1000 / kelvin
  const lampX = -0.2661239 * t ** 3 - 0.2343589 * t ** 2 + 0.8776956 * t + 0.17991
  const lampY = -0.9549476 * lampX ** 3 - 1.37418593 * lampX ** 2 + 2.09137015 * lampX - 0.16748867
  const seen = transform(matrix, xyzOfChromaticity([lampX, lampY]))
  const largest = Math.max(...seen)
  return vector3(seen.map((value) => value / largest))
}

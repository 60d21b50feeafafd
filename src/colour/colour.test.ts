import Color from 'colorjs.io'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { evaluateCurve, srgbCurve } from './curve'
import { hexOfCodes } from './hex'
import { d50ToD65, d65ToD50, srgb8ToLab } from './lab'
import { identity3, invert, type Matrix3, multiply, transform, type Vector3 } from './matrix'
import { coneToLab, coneToWorking, labToCone, oklabToWorking, workingToCone, workingToOklab } from './oklab'
import { type ColourSpaceId, colourSpaces, rgbToRgb, rgbToXyz, workingSpace } from './spaces'

const near = (actual: readonly number[], expected: readonly number[], within: number): void => {
  actual.forEach((value, i) => {
    expect(Math.abs(value - (expected[i] ?? Number.NaN))).toBeLessThanOrEqual(within)
  })
}
const unit = fc.double({ min: 0, max: 1, noNaN: true })
const anyColour = fc.tuple(unit, unit, unit)
/** colorjs.io's names for our spaces; an independent implementation of the same standards. */
const outsideNames: Record<ColourSpaceId, string> = {
  srgb: 'srgb',
  'display-p3': 'p3',
  oprgb: 'a98rgb',
  rec2020: 'rec2020',
  romm: 'prophoto',
}

describe('RGB to XYZ', () => {
  it('is the matrix of IEC 61966-2-1:1999, table 1, to its four digits', () => {
    near(rgbToXyz(colourSpaces.srgb), [0.4124, 0.3576, 0.1805, 0.2126, 0.7152, 0.0722, 0.0193, 0.1192, 0.9505], 6e-5)
  })
  it('has the luminance row of ITU-R BT.2020-2, table 4', () => {
    near(rgbToXyz(workingSpace).slice(3, 6), [0.2627, 0.678, 0.0593], 5e-5)
  })
  it('has the luminance row of IEC 61966-2-5 for opRGB, from memory: 0.29734, 0.62736, 0.07529', () => {
    near(rgbToXyz(colourSpaces.oprgb).slice(3, 6), [0.29734, 0.62736, 0.07529], 2e-5)
  })
})

describe('colour conversions agree with colorjs.io to 1e-5', () => {
  it.each(['srgb', 'display-p3', 'oprgb', 'romm'] as const)('%s to the linear working space', (id) => {
    const space = colourSpaces[id]
    fc.assert(
      fc.property(anyColour, (rgb) => {
        const linear = rgb.map((value) => space.transfer.decode(value)) as unknown as Vector3
        const theirs = new Color(outsideNames[id], rgb).to('rec2020-linear').coords
        // The two round the white of ROMM RGB differently, in the fifth digit.
        near(transform(rgbToRgb(space, workingSpace), linear), theirs as number[], id === 'romm' ? 4e-5 : 1e-5)
      }),
    )
  })
  it('linear working space to OKLab', () => {
    fc.assert(
      fc.property(anyColour, (rgb) => near(workingToOklab(rgb), new Color('rec2020-linear', rgb).to('oklab').coords as number[], 1e-5)),
    )
  })
  it('8-bit sRGB to CIELAB under D50', () => {
    fc.assert(
      fc.property(fc.tuple(fc.nat(255), fc.nat(255), fc.nat(255)), (rgb) => {
        const theirs = new Color('srgb', rgb.map((code) => code / 255) as [number, number, number]).to('lab').coords
        // Lab runs to 100: 1e-5 of its range; the whites differ in the fifth digit of D50.
        near(srgb8ToLab(rgb), theirs as number[], 0.02)
      }),
    )
  })
})

describe('every matrix stands beside its inverse', () => {
  it.each<[string, Matrix3, Matrix3]>([
    ['working to cone', workingToCone, coneToWorking],
    ['cone to Lab', coneToLab, labToCone],
    ['D65 to D50', d65ToD50, d50ToD65],
  ])('%s', (_, forward, back) => near(multiply(forward, back), identity3, 1e-12))

  it('and a singular one is refused', () => {
    expect(() => invert([1, 2, 3, 2, 4, 6, 1, 1, 1])).toThrow(RangeError)
  })
  it('OKLab round trip', () => {
    fc.assert(fc.property(anyColour, (rgb) => near(oklabToWorking(workingToOklab(rgb)), rgb, 1e-12)))
  })
  it('white has no colour in OKLab', () => {
    near(workingToOklab([1, 1, 1]), [1, 0, 0], 1e-6)
  })
})

describe('transfer functions', () => {
  it.each(Object.values(colourSpaces))('$name comes back from a round trip, below 0 and above 1 too', ({ transfer }) => {
    for (const value of [-0.5, -0.002, 0, 0.001, 0.0031308, 0.04045, 0.18, 0.5, 1, 1.7])
      expect(transfer.encode(transfer.decode(value))).toBeCloseTo(value, 6)
  })
  it('sRGB as an ICC curve is the same function', () => {
    for (let code = 0; code < 256; code++)
      expect(evaluateCurve(srgbCurve, code / 255)).toBeCloseTo(colourSpaces.srgb.transfer.decode(code / 255), 12)
  })
  it('tables are interpolated and their ends held', () => {
    const curve = { kind: 'table', values: [0, 0.25, 1] } as const
    expect([-1, 0, 0.25, 0.5, 0.75, 1, 2].map((x) => evaluateCurve(curve, x))).toEqual([0, 0, 0.125, 0.25, 0.625, 1, 1])
  })
  it('curves by formula of types 0–4 follow ICC.1:2022, table 68', () => {
    const value = (type: 0 | 1 | 2 | 3 | 4, parameters: number[], x: number) => evaluateCurve({ kind: 'parametric', type, parameters }, x)
    expect(value(0, [2], 0.5)).toBe(0.25)
    expect(value(1, [2, 0.5, 0.25], 0.5)).toBe(0.25)
    expect(value(1, [2, 0.5, -0.4], 0.5)).toBe(0)
    expect(value(2, [2, 0.5, 0.25, 0.1], 0.5)).toBeCloseTo(0.35, 12)
    expect(value(3, [2, 1, 0, 0.5, 0.6], 0.5)).toBe(0.25)
    expect(value(4, [2, 1, 0, 0.5, 0.4, 0.1, 0.2], 0.5)).toBeCloseTo(0.35, 12)
    expect(value(4, [2, 1, 0, 0.5, 0.6, 0.1, 0.2], 0.5)).toBeCloseTo(0.45, 12)
  })
})

describe('a colour as people write it', () => {
  it('comes of codes, rounded and held', () => {
    expect(hexOfCodes([164.4, 84.6, 43])).toBe('#a4552b')
    expect(hexOfCodes([-3, 0, 300])).toBe('#0000ff')
  })
})

import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { bentCube } from '../../tests/assets'
import { CubeError, parseCube, writeCube } from './cube'

describe('a .cube look', () => {
  it('is read back as it was written, with its domain', () => {
    const look = { ...parseCube(bentCube(5)), domainMin: [-0.5, 0, 0] as const, domainMax: [1, 2, 1] as const }
    const again = parseCube(writeCube(look, 'a "look"'))
    expect(again).toMatchObject({ kind: '3d', size: 5, domainMin: [-0.5, 0, 0], domainMax: [1, 2, 1] })
    expect([...again.values]).toEqual([...look.values].map((value) => expect.closeTo(value, 5)))
  })
  it('may be one-dimensional, commented, and end its lines in any way', () => {
    const look = parseCube('# made by hand\r\nTITLE "x"\r\nLUT_1D_SIZE 3\rLUT_1D_INPUT_RANGE 0 1\n0 0 0\n.5 .4 .3\n1 1 1\n\n')
    expect(look).toMatchObject({ kind: '1d', size: 3 })
    expect(look.values[4]).toBeCloseTo(0.4)
  })
  it.each([
    ['', 'no LUT_1D_SIZE'],
    ['LUT_3D_SIZE 1\n', 'size must be'],
    ['LUT_3D_SIZE 500\n', 'size must be'],
    ['LUT_3D_SIZE 2\nLUT_1D_SIZE 2\n', 'second size'],
    ['LUT_1D_SIZE 2\n0 0 0\n', '1 entries, not 2'],
    ['LUT_1D_SIZE 2\n0 0 0\n1 nan 1\n', 'three numbers'],
    ['LUT_1D_SIZE 2\n0 0\n1 1 1\n', 'three numbers'],
    ['LUT_1D_SIZE 2\nDOMAIN_MIN 1 0 0\n0 0 0\n1 1 1\n', 'DOMAIN_MAX'],
  ])('%j is refused: %s', (text, reason) => {
    expect(() => parseCube(text)).toThrow(CubeError)
    expect(() => parseCube(text)).toThrow(reason)
  })
  it('answers any text with a look or a CubeError', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 200 }), (text) => {
        try {
          expect(parseCube(`LUT_1D_SIZE 2\n${text}`).values.every(Number.isFinite)).toBe(true)
        } catch (error) {
          expect(error).toBeInstanceOf(CubeError)
        }
      }),
    )
  })
})

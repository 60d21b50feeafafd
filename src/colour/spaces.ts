import { mapTriple } from '@/base/tuples'
import { diagonal, invert, type Matrix3, multiply, transform, type Vector3, vector3 } from './matrix'
import { bt2020Transfer, gammaTransfer, rommTransfer, srgbTransfer, type Transfer } from './transfer'

/** CIE 1931 chromaticity x, y. */
export type Chromaticity = readonly [x: number, y: number]

/** An RGB colour space as its standard declares it. */
export interface ColourSpace {
  readonly id: ColourSpaceId
  /** The standard's own name. */
  readonly name: string
  readonly red: Chromaticity
  readonly green: Chromaticity
  readonly blue: Chromaticity
  readonly white: Chromaticity
  readonly transfer: Transfer
  /** The document the numbers are taken from. */
  readonly source: string
}

export type ColourSpaceId = 'srgb' | 'display-p3' | 'oprgb' | 'rec2020' | 'romm'

/** What a delivery may be written in. */
export type OutputSpaceId = ColourSpaceId | 'grey'

/** CIE standard illuminant D65 as the RGB standards round it. */
export const d65: Chromaticity = [0.3127, 0.329]

/** CIE standard illuminant D50, as ISO 22028-2 rounds it. */
export const d50: Chromaticity = [0.3457, 0.3585]

export const colourSpaces: Readonly<Record<ColourSpaceId, ColourSpace>> = {
  srgb: {
    id: 'srgb',
    name: 'sRGB',
    red: [0.64, 0.33],
    green: [0.3, 0.6],
    blue: [0.15, 0.06],
    white: d65,
    transfer: srgbTransfer,
    source: 'IEC 61966-2-1:1999',
  },
  'display-p3': {
    id: 'display-p3',
    name: 'Display P3',
    red: [0.68, 0.32],
    green: [0.265, 0.69],
    blue: [0.15, 0.06],
    white: d65,
    transfer: srgbTransfer,
    source: 'SMPTE EG 432-1:2010 primaries, D65, IEC 61966-2-1 transfer',
  },
  oprgb: {
    id: 'oprgb',
    name: 'opRGB',
    red: [0.64, 0.33],
    green: [0.21, 0.71],
    blue: [0.15, 0.06],
    white: d65,
    transfer: gammaTransfer(563 / 256),
    source: 'IEC 61966-2-5:2007',
  },
  rec2020: {
    id: 'rec2020',
    name: 'Rec. 2020',
    red: [0.708, 0.292],
    green: [0.17, 0.797],
    blue: [0.131, 0.046],
    white: d65,
    transfer: bt2020Transfer,
    source: 'ITU-R BT.2020-2, tables 3 and 4',
  },
  romm: {
    id: 'romm',
    name: 'ROMM RGB',
    red: [0.7347, 0.2653],
    green: [0.1596, 0.8404],
    blue: [0.0366, 0.0001],
    white: d50,
    transfer: rommTransfer,
    source: 'ISO 22028-2:2013, from memory',
  },
}

/** XYZ (Y = 1) of a chromaticity. */
export const xyzOfChromaticity = ([x, y]: Chromaticity): Vector3 => [x / y, 1, (1 - x - y) / y]

/** The chromaticity of XYZ, whatever its luminance. */
export const chromaticityOf = ([x, y, z]: Vector3): Chromaticity => [x / (x + y + z), y / (x + y + z)]

/** Linear RGB → XYZ relative to the space's own white (Y = 1), derived as in SMPTE RP 177:1993. */
export function rgbToXyz(space: Pick<ColourSpace, 'red' | 'green' | 'blue' | 'white'>): Matrix3 {
  const [r, g, b] = mapTriple([space.red, space.green, space.blue], xyzOfChromaticity)
  const columns: Matrix3 = [r[0], g[0], b[0], r[1], g[1], b[1], r[2], g[2], b[2]]
  const gains = transform(invert(columns), xyzOfChromaticity(space.white))
  return multiply(columns, diagonal(gains))
}

/** Linear RGB of one space → linear RGB of another; different whites are adapted (Bradford). */
export function rgbToRgb(from: ColourSpace, to: ColourSpace): Matrix3 {
  const sameWhite = from.white[0] === to.white[0] && from.white[1] === to.white[1]
  const adapted = sameWhite
    ? rgbToXyz(from)
    : multiply(adaptWhite(xyzOfChromaticity(from.white), xyzOfChromaticity(to.white)), rgbToXyz(from))
  return multiply(invert(rgbToXyz(to)), adapted)
}

/** The space every frame is computed in: linear light, Rec. 2020 primaries, D65. "Encoded" steps use the transfer of sRGB on top. */
export const workingSpace: ColourSpace = { ...colourSpaces.rec2020, transfer: srgbTransfer }

/** Bradford cone matrix (ICC.1:2022, annex E.1). */
const bradford: Matrix3 = [0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296]

/** XYZ under one white → XYZ under another, by the linear Bradford transform of ICC.1:2022 annex E. */
export function adaptWhite(from: Vector3, to: Vector3): Matrix3 {
  const [sourceCone, targetCone] = [transform(bradford, from), transform(bradford, to)]
  const gains: Vector3 = [targetCone[0] / sourceCone[0], targetCone[1] / sourceCone[1], targetCone[2] / sourceCone[2]]
  return multiply(invert(bradford), multiply(diagonal(gains), bradford))
}

/** ICC profile connection space white, D50 (ICC.1:2022, 7.2.16). */
export const d50Pcs: Vector3 = [0.9642, 1, 0.8249]

/** Luminance of linear working RGB: the Y row of its matrix (ITU-R BT.2020-2, table 4). */
export const luminanceWeights = vector3(rgbToXyz(workingSpace).slice(3, 6))

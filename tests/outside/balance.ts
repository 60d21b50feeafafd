import Color from 'colorjs.io'
import { expect } from 'vitest'
import { greyPicture, paint } from '../pictures'
import { renderOne } from '../render'
import type { Checks } from './checks'
import { compareSwatches } from './libraries'

export const balanceChecks: Checks = {
  saturation: [
    'chroma times 0.6 in the OKLCh of colorjs.io (Ottosson 2020)',
    () =>
      compareSwatches('saturation', { saturationPercent: -40 }, (colour) => {
        const [l, c, h] = colour.to('oklch').coords
        return new Color('oklch', [l ?? 0, (c ?? 0) * 0.6, h ?? 0])
      }),
  ],
  vibrance: [
    'strong colours stay, weak ones gain chroma at the same hue and lightness, in the OKLCh of colorjs.io',
    async () => {
      const weak = new Color('oklch', [0.6, 0.04, 250])
      const strong = new Color('oklch', [0.6, 0.23, 29])
      const codes = (colour: Color) => colour.to('srgb').coords.map((value) => Math.round((value ?? 0) * 255)) as [number, number, number]
      const source = paint(2, 1, (x) => codes(x === 0 ? weak : strong))
      const { pixels } = await renderOne(source, 'vibrance', { vibrancePercent: 100, skinGuardPercent: 0 })
      const after = (x: number) =>
        new Color('srgb', [0, 1, 2].map((c) => (pixels[x * 3 + c] ?? 0) / 255) as [number, number, number]).to('oklch').coords
      const [l, c, h] = after(0)
      // 1 + (1 − s(0.04 / 0.22)), s the smooth step 3t² − 2t³.
      const t = 0.04 / 0.22
      expect(c).toBeCloseTo(0.04 * (2 - (3 * t * t - 2 * t ** 3)), 2)
      expect([l ?? 0, (h ?? 0) / 100]).toEqual([expect.closeTo(0.6, 2), expect.closeTo(2.5, 1)])
      expect(after(1)[1]).toBeCloseTo(0.23, 2)
    },
  ],
  'channel-mixer': [
    'the same matrix on the linear Rec. 2020 of colorjs.io',
    () =>
      compareSwatches(
        'channel-mixer',
        { redFromRedPercent: 60, redFromGreenPercent: 40, blueFromBluePercent: 80, blueFromRedPercent: 20 },
        (colour) => {
          const [r, g, b] = colour.to('rec2020-linear').coords as [number, number, number]
          return new Color('rec2020-linear', [0.6 * r + 0.4 * g, g, 0.2 * r + 0.8 * b])
        },
      ),
  ],
  monochrome: [
    'without a filter the grey has the luminance Y of the colour, as colorjs.io has it (CIE 1931)',
    () =>
      compareSwatches('monochrome', { tintPercent: 0 }, (colour) => {
        const y = colour.to('xyz-d65').coords[1] ?? 0
        return new Color('srgb-linear', [y, y, y])
      }),
  ],
  'split-tint': [
    'lightness stays, and middle grey leans to the hue asked for, in the OKLCh of colorjs.io',
    async () => {
      const { pixels } = await renderOne(
        greyPicture(3, 1, (x) => [0, 128, 255][x] ?? 0),
        'split-tint',
        { midsHueDegrees: 200, midsPercent: 80 },
      )
      const [l, c, h] = new Color('srgb', [3, 4, 5].map((i) => (pixels[i] ?? 0) / 255) as [number, number, number]).to('oklch').coords
      const grey = new Color('srgb', [128 / 255, 128 / 255, 128 / 255]).to('oklch').coords[0] ?? 0
      expect(l).toBeCloseTo(grey, 2)
      expect(c).toBeCloseTo(0.08 * 2 * grey * (1 - grey) * (1 - (2 * grey - 1) ** 4), 2)
      expect(Math.abs((h ?? 0) - 200)).toBeLessThan(4)
      expect([...pixels.subarray(0, 3), ...pixels.subarray(6, 9)]).toEqual([0, 0, 0, 255, 255, 255])
    },
  ],
  'white-balance': [
    'a grey seen under CIE illuminants D50 and A comes out neutral, the casts by the Bradford adaptation of colorjs.io',
    async () => {
      // Whites of CIE 15:2018: D50 (0.34567, 0.35850), D65; A stands on the Planckian locus at 2856 K (0.44757, 0.40745).
      for (const [temperatureK, x, y] of [
        [5003, 0.34567, 0.3585],
        [2856, 0.44757, 0.40745],
      ] as const) {
        const white = [x / y, 1, (1 - x - y) / y].map((value) => value * 0.18) as [number, number, number]
        const codes = new Color('xyz-d65', white).to('srgb').coords.map((value) => (value ?? 0) * 255) as [number, number, number]
        const { pixels } = await renderOne(
          paint(1, 1, () => codes),
          'white-balance',
          { by: 'temperature', temperatureK, tintPercent: 0 },
        )
        expect(Math.max(...pixels) - Math.min(...pixels)).toBeLessThanOrEqual(3)
        expect(new Color('srgb', [...pixels].map((code) => code / 255) as [number, number, number]).to('xyz-d65').coords[1]).toBeCloseTo(
          0.18,
          1,
        )
      }
    },
  ],
  'hue-bands': [
    'the middle of a band turns and gains as asked, and the opposite hue stays, in the OKLCh of colorjs.io',
    async () => {
      const colours = [29, 195].map((hue) => new Color('oklch', [0.6, 0.08, hue]))
      const source = paint(2, 1, (x) => colours[x]?.to('srgb').coords.map((value) => (value ?? 0) * 255) as [number, number, number])
      const { pixels } = await renderOne(source, 'hue-bands', { redHueDegrees: 20, redChromaPercent: 50, redLightnessPercent: 40 })
      const after = [0, 3].map(
        (at) => new Color('srgb', [0, 1, 2].map((c) => (pixels[at + c] ?? 0) / 255) as [number, number, number]).to('oklch').coords,
      )
      expect(after[0]?.[0]).toBeCloseTo(0.6 + 0.4 * 0.8 * 0.08, 2)
      expect(after[0]?.[1]).toBeCloseTo(0.12, 2)
      expect(Math.abs((after[0]?.[2] ?? 0) - 49)).toBeLessThan(2)
      expect(Math.abs((after[1]?.[2] ?? 0) - 195)).toBeLessThan(2)
      expect(after[1]?.[1]).toBeCloseTo(0.08, 2)
    },
  ],
}

import Color from 'colorjs.io'
import { bisectLeft, bisectRight, curveMonotoneX, deviation, line, quantile } from 'd3'
import { expect } from 'vitest'
import { srgbTransfer } from '@/colour/transfer'
import { newStep } from '@/macros/step'
import type { Settings } from '@/operations'
import { greyPicture, paint } from '../pictures'
import { renderOne, renderSteps, worstDifference } from '../render'
import type { Checks } from './checks'
import { compareSwatches, throughLibvips } from './libraries'

export const toneChecks: Checks = {
  exposure: [
    'one stop doubles linear light (common practice), with the linear sRGB of colorjs.io',
    () =>
      compareSwatches('exposure', { exposureEv: -1, shoulderPercent: 0 }, (colour) => {
        const [r, g, b] = colour.to('srgb-linear').coords
        return new Color('srgb-linear', [(r ?? 0) / 2, (g ?? 0) / 2, (b ?? 0) / 2])
      }),
  ],
  'base-curve': [
    'above 0.8 the extended form of Reinhard et al. (2002, equation 4) on the linear sRGB of colorjs.io; middle grey stays, the rest turns about it',
    async () => {
      const facts = { size: { width: 64, height: 1 }, format: 'raw', bits: 16, space: 'camera', hasAlpha: false }
      const straight = { kind: 'gamma', exponent: 1 } as const
      const identity = [4, 0, 0, 0, 4, 0, 0, 0, 4] as const
      // Scene light from 0 to 4, the same in all channels.
      const source = {
        kind: 'interleaved',
        size: facts.size,
        pixels: Uint16Array.from({ length: 64 * 3 }, (_, i) => Math.round((Math.floor(i / 3) / 63) * 65535)),
        colour: { curves: [straight, straight, straight], toWorking: identity },
      } as const
      const drawn = async (settings: Settings, on = facts): Promise<number[]> => {
        const step = newStep('base-curve', 'one', settings)
        const { pixels } = await renderSteps(source, [step], false, 'clip', { facts: on, name: 'a.dng' })
        return Array.from({ length: 64 }, (_, i) => pixels[i * 3] ?? -1)
      }
      const code = (light: number): number => {
        const [r] = new Color('srgb-linear', [light, light, light]).to('srgb').coords
        return 255 * Math.min(1, r ?? 0)
      }
      const [knee, whiteAt] = [0.8, (4 - 0.8) / 0.2]
      for (const [i, value] of (await drawn({ contrastPercent: 0, roomEv: 2 })).entries()) {
        const scene = (i / 63) * 4
        const l = (scene - knee) / (1 - knee)
        const light = l <= 0 ? scene : knee + (1 - knee) * ((l * (1 + l / whiteAt ** 2)) / (1 + l))
        expect(Math.abs(value - code(light))).toBeLessThanOrEqual(0.8)
      }
      const [plain, steep] = [await drawn({ contrastPercent: 0, roomEv: 0 }), await drawn({ contrastPercent: 100, roomEv: 0 })]
      for (let i = 1; i < 16; i++) {
        const grey = (i / 63) * 4 < 0.18
        expect(grey ? (plain[i] ?? 0) - (steep[i] ?? 0) : (steep[i] ?? 0) - (plain[i] ?? 0)).toBeGreaterThanOrEqual(0)
      }
      // A picture that is rendered already stays as it is, to the bit.
      const jpeg = { ...facts, format: 'jpeg' }
      expect(await drawn({ contrastPercent: 100, roomEv: 2 }, jpeg)).toEqual(plain)
    },
  ],
  levels: [
    'black and white on greys as libvips’ linear map, then the power 1/gamma (common practice)',
    async () => {
      const source = greyPicture(256, 1, (x) => x)
      const [black, white, gamma] = [20, 230, 1.4]
      const mapped = await throughLibvips(
        Float32Array.from({ length: 256 }, (_, code) => code / 255),
        256,
        1,
        (image) => image.linear(255 / (white - black), (-black / (white - black)) * 65535),
      )
      const { pixels } = await renderOne(source, 'levels', { allBlack: black, allWhite: white, allGamma: gamma })
      mapped.forEach((t, code) => {
        const expected = 255 * Math.min(1, Math.max(0, t) ** (1 / gamma))
        expect(Math.abs((pixels[code * 3] ?? -9) - expected)).toBeLessThanOrEqual(0.51)
      })
    },
  ],
  'brightness-contrast': [
    'ends and pivot stay; the slope at the pivot is 2^(contrast/80) (by the formula), on the sRGB codes of colorjs.io',
    async () => {
      const { pixels } = await renderOne(
        greyPicture(256, 1, (x) => x),
        'brightness-contrast',
        { brightnessPercent: 0, contrastPercent: 80, pivotPercent: 40 },
      )
      const code = (x: number) => pixels[x * 3] ?? -1
      expect([code(0), code(102), code(255)]).toEqual([0, 102, 255])
      expect((code(112) - code(92)) / 20).toBeCloseTo(2, 0)
      await compareSwatches('brightness-contrast', { brightnessPercent: 50, contrastPercent: 0, pivotPercent: 50 }, (colour) => {
        // Powers act on the working primaries: colorjs.io takes the swatch to them, encoded like sRGB, and back.
        const [r, g, b] = colour
          .to('rec2020-linear')
          .coords.map((value) => srgbTransfer.decode(srgbTransfer.encode(value ?? 0) ** (2 ** -0.5))) as [number, number, number]
        return new Color('rec2020-linear', [r, g, b])
      })
    },
  ],
  'full-range': [
    'the percentiles that d3 finds (type 7 of Hyndman & Fan 1996), mapped to black and white, within one code',
    async () => {
      const source = greyPicture(256, 128, (x, y) => 60 + (x / 255) * 90 + (y / 127) * 40)
      const codes = Array.from(source.pixels)
      const [black, white] = [quantile(codes, 0.05) ?? 0, quantile(codes, 0.95) ?? 255]
      const { pixels } = await renderOne(source, 'full-range', { boldPercent: 100 })
      const expected = codes.map((code) => Math.min(255, Math.max(0, ((code - black) / (white - black)) * 255)))
      expect(worstDifference(pixels, expected)).toBeLessThanOrEqual(1.01)
    },
  ],
  curve: [
    'the codes that the monotone curve of d3 (Steffen 1990) goes through, within half a code',
    async () => {
      const points: [number, number][] = [
        [0, 10],
        [40, 30],
        [120, 150],
        [180, 170],
        [255, 250],
      ]
      const path = line().curve(curveMonotoneX)(points) ?? ''
      const numbers = path.split(/[MC,]/).filter(Boolean).map(Number)
      const spans = Array.from({ length: points.length - 1 }, (_, i) => numbers.slice(i * 6, i * 6 + 8))
      const { pixels } = await renderOne(
        greyPicture(256, 1, (x) => x),
        'curve',
        { all: points },
      )
      let checked = 0
      // The inner Bézier points of d3 lie at thirds of the span, so the input is linear in t.
      for (const [x0 = 0, y0 = 0, , y1 = 0, , y2 = 0, x3 = 0, y3 = 0] of spans)
        for (let input = x0; input <= x3; input++, checked++) {
          const t = (input - x0) / (x3 - x0)
          const output = (1 - t) ** 3 * y0 + 3 * t * (1 - t) ** 2 * y1 + 3 * t * t * (1 - t) * y2 + t ** 3 * y3
          expect(Math.abs((pixels[input * 3] ?? -9) - output)).toBeLessThanOrEqual(0.51)
        }
      expect(checked).toBe(259)
    },
  ],
  'tone-bands': [
    'one stop on every band is one stop of light, with the linear sRGB of colorjs.io',
    () =>
      compareSwatches('tone-bands', { deepEv: -1, shadowsEv: -1, midsEv: -1, lightsEv: -1, peaksEv: -1 }, (colour) => {
        const [r, g, b] = colour.to('srgb-linear').coords
        return new Color('srgb-linear', [(r ?? 0) / 2, (g ?? 0) / 2, (b ?? 0) / 2])
      }),
  ],
  'local-contrast': [
    'faint texture on a flat ground grows by the amount, in the OKLab lightness of colorjs.io (base: the mean, He 2010 for small variance)',
    async () => {
      const source = greyPicture(512, 256, (x) => 120 + 6 * Math.sin((2 * Math.PI * x) / 8))
      const guards = { highlightGuardPercent: 0, shadowGuardPercent: 0, skinGuardPercent: 0 }
      const { pixels } = await renderOne(source, 'local-contrast', { amountPercent: 100, radiusPercent: 4, ...guards })
      const swing = (codes: ArrayLike<number>): number => {
        const row = Array.from({ length: 256 }, (_, i) => {
          const code = (codes[(128 * 512 + 128 + i) * 3] ?? 0) / 255
          return new Color('srgb', [code, code, code]).to('oklab').coords[0] ?? 0
        })
        return deviation(row) ?? 0
      }
      const texture = swing(source.pixels)
      const kept = texture ** 2 / (texture ** 2 + 0.12 ** 2)
      expect(swing(pixels) / texture).toBeCloseTo(2 - kept, 1)
    },
  ],
  haze: [
    'haze laid on colours by the model I = J·t + A·(1 − t) (Koschmieder 1924, as in He 2009) is taken away again, on the linear light of colorjs.io',
    async () => {
      const [t, air] = [0.6, 0.7]
      // Pure colours of the working space: one channel is 0, as the dark channel prior takes for granted.
      const scene = [
        [0.5, 0, 0.2],
        [0.1, 0.6, 0],
        [0, 0.3, 0.7],
      ] as const
      const hazy = scene.map((rgb) => rgb.map((value) => value * t + air * (1 - t)))
      const codes = hazy.map((rgb) =>
        new Color('rec2020-linear', rgb as [number, number, number]).to('srgb').coords.map((value) => (value ?? 0) * 255),
      )
      const source = paint(90, 60, (x) => (codes[Math.floor(x / 2) % 3] ?? [0, 0, 0]) as [number, number, number])
      const code = Math.round(srgbTransfer.encode(air) * 255)
      const given = { airlight: 'given', airRedLevels: code, airGreenLevels: code, airBlueLevels: code }
      const { pixels } = await renderOne(source, 'haze', { amountPercent: 100, ...given })
      const found = 1 - 0.95 * (1 - t)
      hazy.forEach((rgb, i) => {
        const clear = rgb.map((value) => (value - air) / found + air) as [number, number, number]
        const expected = new Color('rec2020-linear', clear).to('srgb').coords
        expected.forEach((value, channel) => {
          const at = ((30 * 90 + 30 + i * 2) * 3 + channel) as number
          expect(Math.abs((pixels[at] ?? -9) - Math.min(255, Math.max(0, (value ?? 0) * 255)))).toBeLessThanOrEqual(3)
        })
      })
    },
  ],
  'equalise-locally': [
    'with one tile and nothing cut off, lightness becomes its own rank, as d3 bisects it (histogram equalisation)',
    async () => {
      const source = greyPicture(256, 64, (x, y) => 30 + 190 * ((x + y / 64) / 256) ** 1.1)
      const lightness = (code: number): number => new Color('srgb', [code / 255, code / 255, code / 255]).to('oklab').coords[0] ?? 0
      const sorted = Float64Array.from({ length: 256 * 64 }, (_, i) => lightness(source.pixels[i * 3] ?? 0)).sort()
      const { pixels } = await renderOne(source, 'equalise-locally', { tilesAcross: 1, limit: 10 })
      for (let i = 0; i < 256 * 64; i += 97) {
        const value = lightness(source.pixels[i * 3] ?? 0)
        const rank = (bisectLeft(sorted, value) + bisectRight(sorted, value)) / 2 / sorted.length
        // Below a tenth 8 bits have too few codes; a bin of lightness holds up to 2 % of the pixels.
        if (rank > 0.1) expect(Math.abs(lightness(pixels[i * 3] ?? 0) - rank)).toBeLessThan(0.03)
      }
    },
  ],
}

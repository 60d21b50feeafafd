import Color from 'colorjs.io'
import { bisectLeft, bisectRight, curveMonotoneX, deviation, line, mean, quantile } from 'd3'
import sharp, { type Sharp } from 'sharp'
import { describe, expect, it } from 'vitest'
import { coneToWorking, labToCone } from '@/core/colour/oklab'
import { srgbTransfer } from '@/core/colour/transfer'
import { transform } from '@/core/matrix'
import { operations } from '@/operations'
import type { Checks } from './outside/checks'
import { colourChecks } from './outside/colour'
import { finishingChecks } from './outside/finishing'
import { geometryChecks } from './outside/geometry'
import { noiseChecks } from './outside/noise'
import { sharpeningChecks } from './outside/sharpening'
import { busyPicture, greyPicture, paint } from './pictures'
import { renderOne, worstDifference } from './render'

/*
 * Every operation against something outside the project. libvips is reached through sharp; colorjs.io is an
 * independent implementation of the colour standards.
 */

/** One channel of values 0–1 through libvips, as 16-bit grey: a 257th of the tolerance. */
async function throughLibvips(values: Float32Array, width: number, height: number, work: (image: Sharp) => Sharp): Promise<Float32Array> {
  const codes = Uint16Array.from(values, (value) => Math.round(value * 65535))
  const image = sharp(codes, { raw: { width, height, channels: 1 } })
  const { data } = await work(image).toColourspace('grey16').raw({ depth: 'ushort' }).toBuffer({ resolveWithObject: true })
  return Float32Array.from(new Uint16Array(data.buffer, data.byteOffset, data.length / 2), (code) => code / 65535)
}

const swatches = [
  [200, 40, 30],
  [30, 120, 200],
  [90, 160, 60],
  [128, 128, 128],
  [240, 220, 40],
  [70, 30, 90],
] as const
const swatchPicture = () => paint(swatches.length, 1, (x) => swatches[x] ?? [0, 0, 0])

/** Renders the swatches and compares each with what another library makes of it, in codes of 8 bits. */
async function compareSwatches(operation: string, settings: Record<string, number>, expected: (colour: Color) => Color): Promise<void> {
  const { pixels } = await renderOne(swatchPicture(), operation, settings)
  swatches.forEach((rgb, i) => {
    const theirs = expected(new Color('srgb', rgb.map((code) => code / 255) as [number, number, number])).to('srgb').coords
    const codes = theirs.map((value) => Math.min(255, Math.max(0, (value ?? 0) * 255)))
    codes.forEach((code, channel) => {
      expect(Math.abs((pixels[i * 3 + channel] ?? -9) - code)).toBeLessThanOrEqual(0.51)
    })
  })
}

const checks: Checks = {
  ...colourChecks,
  ...finishingChecks,
  ...geometryChecks,
  ...noiseChecks,
  ...sharpeningChecks,
  exposure: [
    'one stop doubles linear light (common practice), with the linear sRGB of colorjs.io',
    () =>
      compareSwatches('exposure', { exposureEv: -1, shoulderPercent: 0 }, (colour) => {
        const [r, g, b] = colour.to('srgb-linear').coords
        return new Color('srgb-linear', [(r ?? 0) / 2, (g ?? 0) / 2, (b ?? 0) / 2])
      }),
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
  saturation: [
    'chroma times 0.6 in the OKLCh of colorjs.io (Ottosson 2020)',
    () =>
      compareSwatches('saturation', { saturationPercent: -40 }, (colour) => {
        const [l, c, h] = colour.to('oklch').coords
        return new Color('oklch', [l ?? 0, (c ?? 0) * 0.6, h ?? 0])
      }),
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
  'turn-mirror': [
    'the very pixels that libvips turns and mirrors, for all sixteen settings',
    async () => {
      const source = busyPicture(31, 18)
      const image = sharp(Buffer.from(source.pixels), { raw: { ...source.size, channels: 3 } })
      for (const [turn, degrees] of [
        ['none', 0],
        ['right', 90],
        ['half', 180],
        ['left', 270],
      ] as const)
        for (const mirrorAcross of [false, true])
          for (const mirrorDown of [false, true]) {
            const turned = await sharp(await image.clone().rotate(degrees).png().toBuffer())
              .flop(mirrorAcross)
              .flip(mirrorDown)
              .raw()
              .toBuffer()
            const { pixels } = await renderOne(source, 'turn-mirror', { turn, mirrorAcross, mirrorDown })
            expect(worstDifference(pixels, turned)).toBe(0)
          }
    },
  ],
  'auto-levels': [
    'the percentiles that d3 finds (type 7 of Hyndman & Fan 1996), mapped to black and white, within one code',
    async () => {
      const source = greyPicture(256, 128, (x, y) => 60 + (x / 255) * 90 + (y / 127) * 40)
      const codes = Array.from(source.pixels)
      const [black, white] = [quantile(codes, 0.01) ?? 0, quantile(codes, 0.99) ?? 255]
      const { pixels } = await renderOne(source, 'auto-levels', { shadowClipPercent: 1, highlightClipPercent: 1, range: 'together' })
      const expected = codes.map((code) => Math.min(255, Math.max(0, ((code - black) / (white - black)) * 255)))
      expect(worstDifference(pixels, expected)).toBeLessThanOrEqual(1.01)
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
  'unsharp-mask': [
    'plane + amount × (plane − Gaussian), the Gaussian by libvips, at a small and a large radius, within 1/255',
    async () => {
      const [width, height] = [160, 120]
      const source = greyPicture(width, height, (x, y) => 110 + 50 * Math.sin(x / 9) + 40 * Math.cos(y / 7) + (x > 80 ? 30 : 0))
      // For greys OKLab lightness is the cube root of linear light.
      const lightness = Float32Array.from({ length: width * height }, (_, i) =>
        Math.cbrt(srgbTransfer.decode((source.pixels[i * 3] ?? 0) / 255)),
      )
      for (const radiusPx of [1.5, 12]) {
        const blurred = await throughLibvips(lightness, width, height, (image) =>
          image.blur({ sigma: radiusPx, precision: 'float', minAmplitude: 0.001 }),
        )
        const settings = { amountPercent: 100, radiusPx, thresholdLevels: 0, haloLimitLevels: 255, lightnessOnly: true }
        const { pixels } = await renderOne(source, 'unsharp-mask', settings)
        lightness.forEach((value, i) => {
          const sharpened = value + (value - (blurred[i] ?? 0))
          const [linear] = transform(
            coneToWorking,
            transform(labToCone, [sharpened, 0, 0]).map((root) => root ** 3) as unknown as [number, number, number],
          )
          const code = Math.min(255, Math.max(0, srgbTransfer.encode(linear) * 255))
          expect(Math.abs((pixels[i * 3] ?? -9) - code)).toBeLessThanOrEqual(1)
        })
      }
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
  falloff: [
    'the corner loses exactly the stops asked for and the middle none, in the linear sRGB of colorjs.io',
    async () => {
      const { pixels } = await renderOne(
        greyPicture(301, 201, () => 200),
        'falloff',
        { cornersEv: -1, midpointPercent: 30, roundnessPercent: 0 },
      )
      const halved = new Color('srgb-linear', [0, 0, 0].map(() => srgbTransfer.decode(200 / 255) / 2) as [number, number, number])
      expect(Math.abs((pixels[0] ?? 0) - 255 * (halved.to('srgb').coords[0] ?? 0))).toBeLessThanOrEqual(1)
      expect(pixels[(100 * 301 + 150) * 3]).toBe(200)
    },
  ],
  grain: [
    'deviation and correlation of Gaussian-filtered white noise: exp(−d²/4σ²) at distance d (Papoulis 1991, chapter 9; from memory), by d3',
    async () => {
      const sizePx = 1.5
      const { pixels } = await renderOne(
        greyPicture(400, 300, () => 128),
        'grain',
        { amountPercent: 30, sizePx, roughnessPercent: 0 },
      )
      const lightness = Array.from({ length: 400 * 300 }, (_, i) => {
        const code = (pixels[i * 3] ?? 0) / 255
        return new Color('srgb', [code, code, code]).to('oklab').coords[0] ?? 0
      })
      const [middle, spread] = [mean(lightness) ?? 0, deviation(lightness) ?? 0]
      expect(spread).toBeCloseTo(0.3 * 0.12 * 4 * middle * (1 - middle), 2)
      for (const distance of [1, 2, 3]) {
        const products = lightness.flatMap((value, i) =>
          i % 400 < 390 ? [(value - middle) * ((lightness[i + distance] ?? 0) - middle)] : [],
        )
        expect((mean(products) ?? 0) / spread ** 2).toBeCloseTo(Math.exp(-(distance ** 2) / (4 * sizePx ** 2)), 1)
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
  crop: [
    'the very pixels that libvips extracts',
    async () => {
      const source = busyPicture(90, 60)
      const settings = { shape: 'pixels', widthPx: 41, heightPx: 23, turnsWithPicture: false, positionXPercent: 100, positionYPercent: 0 }
      const { pixels, size } = await renderOne(source, 'crop', settings)
      const theirs = await sharp(Buffer.from(source.pixels), { raw: { ...source.size, channels: 3 } })
        .extract({ left: 49, top: 0, width: 41, height: 23 })
        .raw()
        .toBuffer()
      expect(size).toEqual({ width: 41, height: 23 })
      expect(worstDifference(pixels, theirs)).toBe(0)
    },
  ],
  resize: [
    'libvips’ Lanczos-3 in linear light at two ratios, within 1/255 (it enlarges by another filter)',
    async () => {
      const [width, height] = [150, 90]
      const source = greyPicture(width, height, (x, y) => 120 + 70 * Math.sin((x * x + y * y) / 900) + (x > 70 && y > 30 ? 40 : 0))
      const linear = Float32Array.from({ length: width * height }, (_, i) => srgbTransfer.decode((source.pixels[i * 3] ?? 0) / 255))
      for (const to of [100, 80]) {
        const theirs = await throughLibvips(linear, width, height, (image) =>
          image.resize(to, Math.round((to * height) / width), { kernel: 'lanczos3', fit: 'fill' }),
        )
        const { pixels, size } = await renderOne(source, 'resize', { by: 'width', lengthPx: to, mayEnlarge: true, kernel: 'lanczos3' })
        expect(size.width * size.height).toBe(theirs.length)
        const codes = Array.from(theirs, (value) => Math.min(255, Math.max(0, srgbTransfer.encode(value) * 255)))
        expect(
          worstDifference(
            pixels.filter((_, i) => i % 3 === 0),
            codes,
          ),
        ).toBeLessThanOrEqual(1)
      }
    },
  ],
}

describe('outside checks', () => {
  it('there is one for every operation of the catalogue', () => {
    expect(Object.keys(checks).sort()).toEqual(operations.map((operation) => operation.id).sort())
  })
  it.each(Object.entries(checks).map(([id, [title, check]]) => [id, title, check] as const))('%s: %s', (_, __, check) => check())
})

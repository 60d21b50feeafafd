import { describe, expect, it } from 'vitest'
import { resolveSteps } from '@/engine/resolve'
import { newStep } from '@/macros/step'
import { testKernels } from '../../tests/kernels'
import { busyPicture, greyPicture, paint } from '../../tests/pictures'
import { renderOne, worstDifference } from '../../tests/render'
import { type CropSettings, crop, cropRect } from './catalogue/crop'
import { exposure } from './catalogue/exposure'
import { fullRange } from './catalogue/full-range'
import { levels } from './catalogue/levels'
import { resizedSize } from './catalogue/resize'
import { sharpenForSize } from './catalogue/sharpen-for-size'
import { unsharpMask } from './catalogue/unsharp-mask'
import { whiteBalance } from './catalogue/white-balance'
import { defaultSettings, type Settings } from './declare/settings'
import { findSubject } from './measure/subject'
import { gaussianWeights } from './support/gaussian'

const cropped = (part: Partial<CropSettings>): CropSettings => ({ ...defaultSettings(crop.settings), ...part }) as CropSettings

describe('crop', () => {
  const landscape = { width: 2400, height: 1600 }
  const portrait = { width: 1600, height: 2400 }
  it.each([
    ['3 : 2 of a 3 : 2 picture is all of it', { ratioWidth: 3, ratioHeight: 2 }, landscape, [0, 0, 2400, 1600]],
    ['turned with a portrait', { ratioWidth: 3, ratioHeight: 2 }, portrait, [0, 0, 1600, 2400]],
    ['not turned when told so', { ratioWidth: 3, ratioHeight: 2, turnsWithPicture: false }, portrait, [0, 667, 1600, 1067]],
    ['written short side first means the same when it turns', { ratioWidth: 2, ratioHeight: 3 }, landscape, [0, 0, 2400, 1600]],
    ['square in the middle', { ratioWidth: 1, ratioHeight: 1 }, landscape, [400, 0, 1600, 1600]],
    ['square at the right', { ratioWidth: 1, ratioHeight: 1, positionXPercent: 100 }, landscape, [800, 0, 1600, 1600]],
    [
      'half as large, lower left',
      { ratioWidth: 3, ratioHeight: 2, sizePercent: 50, positionXPercent: 0, positionYPercent: 100 },
      landscape,
      [0, 800, 1200, 800],
    ],
    ['pixels, turned', { shape: 'pixels', widthPx: 1000, heightPx: 500 }, portrait, [550, 700, 500, 1000]],
    ['pixels larger than the picture keep the picture', { shape: 'pixels', widthPx: 9000, heightPx: 500 }, landscape, [0, 550, 2400, 500]],
    ['margins', { shape: 'margins', leftPercent: 10, topPercent: 25, rightPercent: 5 }, landscape, [240, 400, 2040, 1200]],
    [
      'margins that eat everything leave one pixel',
      { shape: 'margins', leftPercent: 90, rightPercent: 90 },
      { width: 10, height: 10 },
      [9, 0, 1, 10],
    ],
  ] as const)('%s', (_, part, picture, [x, y, width, height]) => {
    expect(cropRect(cropped(part as Partial<CropSettings>), picture)).toEqual({ x, y, width, height })
  })
  it.each([
    [{ ratioWidth: 5, ratioHeight: 4 }, '5 : 4, centred'],
    [{ positionXPercent: 0, positionYPercent: 0 }, '3 : 2, top left'],
    [{ positionXPercent: 30 }, '3 : 2, at 30 % / 50 %'],
    [{ shape: 'pixels' }, '1200 × 800 px, centred'],
    [{ shape: 'margins', leftPercent: 2.5 }, '2.5 / 0 / 0 / 0 % off'],
  ] as const)('%o reads: %s', (part, words) => expect(crop.describe(cropped(part as Partial<CropSettings>))).toBe(words))
})

describe('resize', () => {
  const defaults = {
    by: 'longEdge',
    lengthPx: 1000,
    boxWidthPx: 800,
    boxHeightPx: 300,
    scalePercent: 25,
    megapixels: 1,
    turnsWithPicture: true,
    printLength: 10,
    printUnit: 'inch',
    printDpi: 100,
    mayEnlarge: false,
    kernel: 'lanczos3',
    edition: 'now',
  } as const
  it.each([
    ['longEdge', { width: 2400, height: 1600 }, [1000, 667]],
    ['longEdge', { width: 1600, height: 2400 }, [667, 1000]],
    ['shortEdge', { width: 2400, height: 1600 }, [1500, 1000]],
    ['width', { width: 1600, height: 2400 }, [1000, 1500]],
    ['height', { width: 1600, height: 2400 }, [667, 1000]],
    ['box', { width: 2400, height: 1600 }, [450, 300]],
    ['percent', { width: 2401, height: 1 }, [600, 1]],
    ['megapixels', { width: 2400, height: 1600 }, [1225, 816]],
  ] as const)('by %s of %o', (by, picture, [width, height]) => {
    expect(resizedSize({ ...defaults, by }, picture).size).toEqual({ width, height })
  })
  it('enlarges only when allowed', () => {
    const small = { width: 300, height: 200 }
    expect(resizedSize(defaults, small).size).toEqual(small)
    expect(resizedSize({ ...defaults, mayEnlarge: true }, small).size).toEqual({ width: 1000, height: 667 })
  })
  it('keeps a flat grey flat, for every filter', async () => {
    for (const kernel of ['lanczos3', 'mitchell', 'catmullRom', 'bilinear', 'area']) {
      const { pixels } = await renderOne(
        greyPicture(50, 40, () => 117),
        'resize',
        { by: 'percent', scalePercent: 37, kernel },
      )
      expect(pixels.every((code) => code === 117)).toBe(true)
    }
  })
  it('averages light, not codes: fine black and white stripes become code 188 (half the light, IEC 61966-2-1)', async () => {
    const stripes = greyPicture(64, 64, (x) => (x % 2) * 255)
    const { pixels } = await renderOne(stripes, 'resize', { by: 'percent', scalePercent: 25, kernel: 'area' })
    expect(new Set(pixels)).toEqual(new Set([188]))
  })
})

describe('exposure', () => {
  it('keeps greys below white for ever under the shoulder, and in their order', async () => {
    const source = greyPicture(256, 1, (x) => x)
    const { pixels } = await renderOne(source, 'exposure', { exposureEv: 5, shoulderPercent: 100 })
    const greys = pixels.filter((_, i) => i % 3 === 0)
    expect(Math.max(...greys)).toBeLessThan(255)
    expect([...greys]).toEqual([...greys].sort((a, b) => a - b))
  })
  it('keeps the ratio of the channels under the shoulder', async () => {
    const source = paint(1, 1, () => [120, 80, 60])
    const { pixels } = await renderOne(source, 'exposure', { exposureEv: 2, shoulderPercent: 60 })
    const { decode } = (await import('@/colour/transfer')).srgbTransfer
    const ratio = (codes: ArrayLike<number>) => decode((codes[0] ?? 0) / 255) / decode((codes[2] ?? 0) / 255)
    expect(ratio(pixels)).toBeCloseTo(ratio(source.pixels), 1)
  })
  it('up and down again comes back, because nothing is clipped between', async () => {
    const { renderSteps } = await import('../../tests/render')
    const { newStep } = await import('@/macros/step')
    const source = busyPicture()
    const { pixels } = await renderSteps(source, [
      newStep('exposure', 'up', { exposureEv: 3 }),
      newStep('exposure', 'down', { exposureEv: -3 }),
    ])
    expect(worstDifference(pixels, source.pixels)).toBe(0)
  })
  it.each([
    [{ exposureEv: 0.35, shoulderPercent: 0 }, '+0.35 EV'],
    [{ exposureEv: -1, shoulderPercent: 30 }, '−1.00 EV, shoulder 30 %'],
  ])('%o reads: %s', (settings, words) => expect(exposure.describe(settings)).toBe(words))
})

describe('levels', () => {
  const settings = (part: Record<string, number>) => ({ ...defaultSettings(levels.settings), ...part })
  it('works on one channel alone', async () => {
    const source = busyPicture()
    const { pixels } = await renderOne(source, 'levels', { redOutWhite: 0 })
    expect(pixels.filter((_, i) => i % 3 === 0).every((code) => code <= 40)).toBe(true)
    expect(Math.max(...pixels.filter((_, i) => i % 3 === 2))).toBeGreaterThan(100)
  })
  it('holds black and white apart when they touch or cross', async () => {
    const { pixels } = await renderOne(
      greyPicture(256, 1, (x) => x),
      'levels',
      { allBlack: 128, allWhite: 100 },
    )
    expect([pixels[0], pixels[127 * 3], pixels[130 * 3], pixels[255 * 3]]).toEqual([0, 0, 255, 255])
  })
  it.each([
    [{}, '0–255'],
    [{ allBlack: 12, allWhite: 241 }, '12–241'],
    [{ allGamma: 1.2, redWhite: 250 }, '0–255 gamma 1.2, red 0–250'],
    [{ allOutBlack: 10 }, '0–255 to 10–255'],
  ])('%o reads: %s', (part, words) => expect(levels.describe(settings(part as Record<string, number>))).toBe(words))
})

describe('white balance', () => {
  it('takes a channel that the source had clipped for as bright as the others, instead of tinting a white', async () => {
    const source = paint(2, 1, (x) => (x === 0 ? [255, 226, 180] : [150, 132, 100]))
    const { pixels } = await renderOne(source, 'white-balance', {
      ...defaultSettings(whiteBalance.settings),
      by: 'picked',
      pickedRed: 150,
      pickedGreen: 132,
      pickedBlue: 100,
    })
    // Green and blue are known, and lie 7 codes apart in this light; red is what is between them and above.
    const [red = 0, green = 0, blue = 0] = pixels
    expect(red).toBe(Math.max(green, blue))
    expect(Math.abs(green - blue)).toBeLessThanOrEqual(7)
    expect(Math.max(...pixels.subarray(3)) - Math.min(...pixels.subarray(3))).toBeLessThanOrEqual(1)
  })
  it('leaves a cast alone that is stronger than it may take for light, like fire', async () => {
    const glow = paint(64, 64, (x) => [210 + (x % 9), 110 + (x % 7), 34 + (x % 5)])
    const settings = { ...defaultSettings(whiteBalance.settings), by: 'auto', estimate: 'greys' }
    expect(worstDifference((await renderOne(glow, 'white-balance', settings)).pixels, glow.pixels)).toBe(0)
    expect(
      worstDifference((await renderOne(glow, 'white-balance', { ...settings, strongestCastPercent: 250 })).pixels, glow.pixels),
    ).toBeGreaterThan(30)
  })
  it('leaves weak casts alone, takes more of stronger ones, and can be told to take all', async () => {
    const settings = { ...defaultSettings(whiteBalance.settings), by: 'auto', estimate: 'greys' }
    // A grey wall in the light of a lamp: as much more red as there is less blue.
    const leftOver = async (cast: number, more: Settings = {}): Promise<number> => {
      const wall = paint(64, 64, (x) => [160 + cast + (x % 3), 160 + (x % 3), 160 - cast + (x % 3)])
      const { pixels } = await renderOne(wall, 'white-balance', { ...settings, ...more })
      return Math.abs((pixels[0] ?? 0) - (pixels[2] ?? 0)) / (2 * cast)
    }
    expect(await leftOver(4)).toBe(1)
    expect(await leftOver(4, { weakestCastPercent: 0 })).toBeLessThan(0.34)
    const shares = await Promise.all([4, 12, 20, 40].map((cast) => leftOver(cast)))
    expect(shares).toEqual([...shares].sort((a, b) => b - a))
    expect(shares.at(-1)).toBeLessThan(0.12)
  })
  it('takes no green or purple for a light, however much of the picture it fills', async () => {
    const settings = { ...defaultSettings(whiteBalance.settings), by: 'auto', estimate: 'greys' }
    for (const colour of [
      [110, 150, 90],
      [150, 100, 150],
    ]) {
      const all = paint(64, 64, (x) => colour.map((code) => code + (x % 5)) as [number, number, number])
      expect(worstDifference((await renderOne(all, 'white-balance', settings)).pixels, all.pixels)).toBe(0)
    }
  })
  it('finds the light of a grey wall and leaves a red vase in plain light alone', async () => {
    const warm = paint(64, 64, (x, y) => (x > 40 && y > 40 ? [120, 30, 24] : [170 + (x % 5), 150 + (x % 5), 120 + (x % 5)]))
    const lit = await renderOne(warm, 'white-balance', {
      ...defaultSettings(whiteBalance.settings),
      by: 'auto',
      estimate: 'greys',
      weakestCastPercent: 0,
    })
    expect(Math.abs((lit.pixels[0] ?? 0) - (lit.pixels[2] ?? 0))).toBeLessThanOrEqual(3)
    const plain = paint(64, 64, (x, y) => (x > 20 && y > 20 ? [150, 30, 30] : [170, 170, 170]))
    const same = await renderOne(plain, 'white-balance', { ...defaultSettings(whiteBalance.settings), by: 'auto', estimate: 'greys' })
    expect(worstDifference(same.pixels, plain.pixels)).toBeLessThanOrEqual(2)
  })
})

describe('full range', () => {
  const dull = greyPicture(64, 64, (x) => 60 + 1.9 * x)
  it('stretches a dull picture to black and white, and tells what it found', async () => {
    const settings = { ...defaultSettings(fullRange.settings), boldPercent: 0 }
    const { pixels } = await renderOne(dull, 'full-range', settings)
    expect([Math.min(...pixels), Math.max(...pixels)]).toEqual([0, 255])
    expect(fullRange.describeConstants?.({ maps: [255 / 63, -80 / 63, 1, 255 / 63, -80 / 63, 1, 255 / 63, -80 / 63, 1] })).toBe(
      'found 80–143',
    )
  })
  it('does not blow a flat picture up into noise', async () => {
    const flat = greyPicture(64, 64, (x) => 120 + (x % 3))
    const { pixels } = await renderOne(flat, 'full-range', defaultSettings(fullRange.settings))
    expect(Math.max(...pixels) - Math.min(...pixels)).toBeLessThanOrEqual(9)
  })
  it('leaves the picture as it is where only sizes are asked for', () => {
    const unseen = { size: { width: 9, height: 9 } }
    expect(fullRange.render(fullRange.resolve(defaultSettings(fullRange.settings), unseen), unseen)).toEqual({ kind: 'none' })
  })
})

describe('unsharp mask', () => {
  const edge = () => greyPicture(60, 20, (x) => (x < 30 ? 90 : 160))
  const settings = (part: object) => ({ ...defaultSettings(unsharpMask.settings), ...part })

  it('never overshoots the tones around an edge by more than the halo limit', async () => {
    const free = await renderOne(
      edge(),
      'unsharp-mask',
      settings({ amountPercent: 400, radiusPx: 2, haloLimitLevels: 255, thresholdLevels: 0 }),
    )
    const held = await renderOne(
      edge(),
      'unsharp-mask',
      settings({ amountPercent: 400, radiusPx: 2, haloLimitLevels: 0, thresholdLevels: 0 }),
    )
    expect(Math.max(...free.pixels)).toBeGreaterThan(200)
    expect(Math.min(...held.pixels)).toBe(90)
    expect(Math.max(...held.pixels)).toBe(160)
  })
  it('leaves differences below the threshold as they are', async () => {
    const source = greyPicture(40, 40, (x, y) => 120 + ((x + y) % 2))
    const { pixels } = await renderOne(source, 'unsharp-mask', settings({ amountPercent: 500, thresholdLevels: 6 }))
    expect(worstDifference(pixels, source.pixels)).toBe(0)
  })
  it('keeps hue and chroma of strong colours: lightness alone changes', async () => {
    const source = paint(40, 20, (x) => (x < 20 ? [180, 30, 30] : [200, 60, 50]))
    const { workingToOklab } = await import('@/colour/oklab')
    const { colourSpaces, rgbToRgb, workingSpace } = await import('@/colour/spaces')
    const { transform } = await import('@/colour/matrix')
    const labAt = (pixels: ArrayLike<number>, x: number) => {
      const linear = [0, 1, 2].map((c) => colourSpaces.srgb.transfer.decode((pixels[x * 3 + c] ?? 0) / 255)) as [number, number, number]
      return workingToOklab(transform(rgbToRgb(colourSpaces.srgb, workingSpace), linear))
    }
    const { pixels } = await renderOne(source, 'unsharp-mask', settings({ amountPercent: 200, haloLimitLevels: 20, thresholdLevels: 0 }))
    for (const x of [18, 19, 20, 21]) {
      const [before, after] = [labAt(source.pixels, x), labAt(pixels, x)]
      expect(Math.hypot(after[1] - before[1], after[2] - before[2])).toBeLessThan(0.006)
    }
  })
  it('uses a Gaussian that sums to one', () => {
    for (const sigma of [0.3, 1, 5.9]) {
      const weights = gaussianWeights(sigma, Math.ceil(3.5 * sigma))
      expect(weights.reduce((sum, weight, k) => sum + (k === 0 ? weight : 2 * weight), 0)).toBeCloseTo(1, 12)
    }
  })
})

describe('resize into boxes and prints', () => {
  const picture = { width: 3000, height: 2000 }
  const sizeOf = (settings: Settings, of = picture) => {
    const [step] = resolveSteps([newStep('resize', 'r', settings)], of)
    return step && [step.sizeAfter.width, step.sizeAfter.height]
  }
  it.each([
    [{ by: 'fill', boxWidthPx: 800, boxHeightPx: 800 }, [800, 800]],
    [{ by: 'fill', boxWidthPx: 800, boxHeightPx: 600, turnsWithPicture: true }, [800, 600]],
    [{ by: 'fill', boxWidthPx: 6000, boxHeightPx: 6000, mayEnlarge: false }, [2000, 2000]],
    [{ by: 'stretch', boxWidthPx: 500, boxHeightPx: 900, turnsWithPicture: false }, [500, 900]],
    [{ by: 'stretch', boxWidthPx: 500, boxHeightPx: 900, turnsWithPicture: true }, [900, 500]],
    [{ by: 'print', printLength: 10, printUnit: 'inch', printDpi: 200 }, [2000, 1333]],
    [{ by: 'print', printLength: 25.4, printUnit: 'cm', printDpi: 200 }, [2000, 1333]],
  ] as const)('%o gives %s', (settings, size) => {
    expect(sizeOf(settings)).toEqual(size)
  })
  it('turns a box with a portrait', () => {
    expect(sizeOf({ by: 'fill', boxWidthPx: 800, boxHeightPx: 600 }, { width: 2000, height: 3000 })).toEqual([600, 800])
  })
})

describe('crop for prints and around subjects', () => {
  it('cuts a print’s ratio, turned with the picture, with no more pixels than it is printed with', () => {
    const settings = { ...cropDefaults(), shape: 'print', printWidth: 15, printHeight: 10, printUnit: 'cm', printDpi: 300 } as const
    expect(cropRect(settings, { width: 6000, height: 4000 })).toMatchObject({ width: 1772, height: 1181 })
    expect(cropRect(settings, { width: 900, height: 1600 })).toMatchObject({ width: 900, height: 1350 })
  })
  it('lays the frame around a subject, inside the picture', () => {
    const settings = { ...cropDefaults(), shape: 'pixels', widthPx: 400, heightPx: 400, position: 'subject' } as const
    const size = { width: 1000, height: 800 }
    expect(cropRect(settings, size, { x: 0.7, y: 0.5 })).toMatchObject({ x: 500, y: 200 })
    expect(cropRect(settings, size, { x: 0.99, y: 0.02 })).toMatchObject({ x: 600, y: 0 })
  })
  it('finds a bright thing on a plain ground', async () => {
    const [width, height] = [120, 80]
    const planes = new Float32Array(3 * width * height).fill(0.2)
    for (let y = 20; y < 40; y++) for (let x = 80; x < 100; x++) for (const c of [0, 1, 2]) planes[(c * height + y) * width + x] = 0.8
    const kernels = await testKernels()
    const { x, y } = findSubject({ size: { width, height }, planes, kernels })
    expect(Math.abs(x - 0.75)).toBeLessThan(0.03)
    expect(Math.abs(y - 0.375)).toBeLessThan(0.04)
    expect(findSubject({ size: { width: 4, height: 4 }, planes: new Float32Array(48).fill(0.3), kernels })).toEqual({ x: 0.5, y: 0.5 })
  })
})

const cropDefaults = (): CropSettings => defaultSettings(crop.settings) as unknown as CropSettings

describe('sharpen for size', () => {
  it('tells the resize that makes a picture of before of the same size', () => {
    const size = { width: 1600, height: 2400 }
    const settings = { ...defaultSettings(sharpenForSize.settings), longEdgePx: 900 }
    const alone = sharpenForSize.sizeAlone?.(settings)
    const sizes = [newStep('sharpen-for-size', 'a', settings), newStep(alone?.operation ?? '', 'b', alone?.settings)].map(
      (step) => resolveSteps([step], size)[0]?.sizeAfter,
    )
    expect(sizes).toEqual([
      { width: 600, height: 900 },
      { width: 600, height: 900 },
    ])
  })
})

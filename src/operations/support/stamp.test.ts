import { describe, expect, it } from 'vitest'
import { srgbTransfer } from '@/colour/transfer'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { newStep } from '@/macros/step'
import { defaultSettings, findOperation } from '@/operations'
import { testAssets, testFiles } from '../../../tests/assets'
import { testKernels } from '../../../tests/kernels'
import { greyPicture } from '../../../tests/pictures'
import { renderOne } from '../../../tests/render'
import { arounds, boxAround, coverageAround, insetOf } from './around'
import { stampPlace } from './stamp'

const mark = Object.keys(testFiles).find((value) => value.endsWith('.png')) ?? ''
const at = (positionXPercent: number, positionYPercent: number, marginPercent = 10) => ({
  positionXPercent,
  positionYPercent,
  marginPercent,
  repeats: false,
  spacingPercent: 0,
  angleDegrees: 0,
})

describe('where a stamp lies', () => {
  const frame = { width: 1000, height: 500 }
  const box = { width: 100, height: 40 }
  it.each([
    ['top left', at(0, 0), { x: 50, y: 50 }],
    ['bottom right', at(100, 100), { x: 850, y: 410 }],
    ['the middle', at(50, 50), { x: 450, y: 230 }],
    ['a corner without margin', at(100, 100, 0), { x: 900, y: 460 }],
  ] as const)('%s', (_, settings, expected) => expect(stampPlace(settings, box, frame)).toMatchObject(expected))
  it('never leaves the picture, however large the margin and the mark', () => {
    for (const settings of [at(0, 0, 25), at(100, 100, 25), at(37, 81, 25)]) {
      const { x, y } = stampPlace(settings, { width: 980, height: 490 }, frame)
      expect(x).toBeGreaterThanOrEqual(0)
      expect(y).toBeGreaterThanOrEqual(0)
      expect(x + 980).toBeLessThanOrEqual(1000)
      expect(y + 490).toBeLessThanOrEqual(500)
    }
  })
})

describe('stamps on grounds', () => {
  const resolve = async (operation: string, grey: number, settings: Record<string, string | number> = {}) => {
    const source = greyPicture(120, 90, () => grey)
    const sight = { sampler: createSampler(await testKernels(), source), assets: testAssets, subject: undefined }
    return resolveSteps([newStep(operation, 's', settings)], source.size, sight)[0]?.constants
  }
  it.each(['stamp-image', 'stamp-text'])('%s is black on bright ground and white on dark', async (operation) => {
    const settings: Record<string, string> = operation === 'stamp-image' ? { file: mark } : { text: 'Tern Lane' }
    const key = operation === 'stamp-image' ? 'tint' : 'ink'
    expect((await resolve(operation, 230, settings))?.[key]).toEqual([0, 0, 0])
    expect((await resolve(operation, 30, settings))?.[key]).toEqual([1, 1, 1])
  })
  it('a file that is gone is told by its name', async () => {
    await expect(resolve('stamp-image', 100, { file: `${'d'.repeat(64)}/lost-mark.png` })).rejects.toThrow('lost-mark.png')
  })
  it('a line too long for the picture is set smaller, and an empty one draws nothing', async () => {
    const long = await resolve('stamp-text', 100, { text: 'A very long line that goes on and on and on', sizePercent: 30 })
    const place = long?.place as number[]
    expect((place[0] ?? -1) >= 0 && (place[0] ?? 0) + (place[2] ?? 0) <= 120).toBe(true)
    const source = greyPicture(60, 40, () => 90)
    const { pixels } = await renderOne(source, 'stamp-text', { text: '{camera}' })
    expect([...pixels]).toEqual([...source.pixels])
  })
  it('a plate darkens the ground behind white letters', async () => {
    const source = greyPicture(200, 100, () => 120)
    const settings = { text: 'HH', sizePercent: 30, tint: 'given', colour: '#ffffff', positionXPercent: 50, positionYPercent: 50 }
    const bare = (await renderOne(source, 'stamp-text', { ...settings, plate: false })).pixels
    const plated = (await renderOne(source, 'stamp-text', { ...settings, plate: true })).pixels
    const darkest = (pixels: ArrayLike<number>) => Math.min(...Array.from(pixels))
    expect(darkest(bare)).toBe(120)
    expect(darkest(plated)).toBeLessThan(110)
  })
})

describe('how a stamp joins the picture', () => {
  const full = { file: mark, tint: 'given', opacityPercent: 100, sizePercent: 26.7, positionXPercent: 50, positionYPercent: 50 } as const
  const light = (code: number): number => srgbTransfer.decode(code / 255)
  const middleOf = async (settings: Record<string, string | number | boolean>, ground = 120) => {
    const { pixels } = await renderOne(
      greyPicture(120, 90, () => ground),
      'stamp-image',
      { ...full, ...settings },
    )
    return pixels[(45 * 120 + 60) * 3] as number
  }
  it.each([
    ['over', (_: number, stamp: number) => stamp],
    ['multiply', (ground: number, stamp: number) => ground * stamp],
    ['screen', (ground: number, stamp: number) => ground + stamp - ground * stamp],
  ] as const)('%s, as W3C Compositing and Blending (10.1) has it, in linear light', async (blend, formula) => {
    for (const opacity of [1, 0.4]) {
      const expected = light(120) * (1 - opacity) + formula(light(120), light(170)) * opacity
      const code = await middleOf({ blend, colour: '#aaaaaa', opacityPercent: opacity * 100 })
      expect(Math.abs(code - srgbTransfer.encode(expected) * 255)).toBeLessThanOrEqual(1)
    }
  })
  /** Where the picture is darker than its ground: middles of the marks by flood filling. */
  async function marks(settings: Record<string, string | number | boolean>, [width, height] = [300, 200] as const) {
    const { pixels } = await renderOne(
      greyPicture(width, height, () => 200),
      'stamp-image',
      { ...full, colour: '#000000', sizePercent: 12, ...settings },
    )
    const seen = new Set<number>()
    const found: { x: number; y: number; count: number }[] = []
    for (let start = 0; start < width * height; start++) {
      if ((pixels[start * 3] as number) > 100 || seen.has(start)) continue
      const todo = [start]
      seen.add(start)
      let [sx, sy, count] = [0, 0, 0]
      for (let at = todo.pop(); at !== undefined; at = todo.pop()) {
        const [x, y] = [at % width, Math.floor(at / width)]
        sx += x
        sy += y
        count++
        for (const next of [x > 0 ? at - 1 : at, x < width - 1 ? at + 1 : at, at - width, at + width])
          if (next >= 0 && next < width * height && !seen.has(next) && (pixels[next * 3] as number) <= 100) {
            seen.add(next)
            todo.push(next)
          }
      }
      found.push({ x: sx / count, y: sy / count, count })
    }
    return found
  }
  it('turned, keeps its middle and its area, and rises to the right by the angle', async () => {
    const [upright, steep, tilted] = [await marks({}), await marks({ angleDegrees: 90 }), await marks({ angleDegrees: 30 })]
    expect([upright.length, steep.length, tilted.length]).toEqual([1, 1, 1])
    for (const { x, y } of [...upright, ...steep, ...tilted]) {
      expect(Math.abs(x - 149.5)).toBeLessThan(1.5)
      expect(Math.abs(y - 99.5)).toBeLessThan(1.5)
    }
    expect(Math.abs((upright[0]?.count ?? 0) / (tilted[0]?.count ?? 1) - 1)).toBeLessThan(0.12)
    const line = greyPicture(200, 200, () => 0)
    const { pixels } = await renderOne(line, 'stamp-text', {
      text: 'IIIIIIII',
      tint: 'given',
      sizePercent: 10,
      angleDegrees: 40,
      positionXPercent: 50,
      positionYPercent: 50,
      opacityPercent: 100,
    })
    let [xy, xx, yy] = [0, 0, 0]
    for (let y = 0; y < 200; y++)
      for (let x = 0; x < 200; x++) {
        const weight = pixels[(y * 200 + x) * 3] as number
        xy += weight * (x - 99.5) * (y - 99.5)
        xx += weight * (x - 99.5) ** 2
        yy += weight * (y - 99.5) ** 2
      }
    expect(Math.abs((Math.atan2(-2 * xy, xx - yy) * 90) / Math.PI - 40)).toBeLessThan(2)
  })
  it('repeated, stands in even rows with its own spacing, every second row shifted by half', async () => {
    const found = await marks({ repeats: true, spacingPercent: 100 })
    const inside = found.filter(({ count }) => count > 0.9 * Math.max(...found.map((mark) => mark.count)))
    const middle = inside
      .filter(({ y }) => Math.abs(y - 99.5) < 2)
      .map(({ x }) => x)
      .sort((a, b) => a - b)
    expect(middle.length).toBeGreaterThan(4)
    for (const [i, x] of middle.slice(1).entries()) expect(Math.abs(x - (middle[i] ?? 0) - 48)).toBeLessThan(1)
    const next = inside.filter(({ y }) => Math.abs(y - 99.5 - 40) < 2)
    expect(next.length).toBeGreaterThan(3)
    for (const { x } of next) expect(Math.abs(((((x - 149.5) % 48) + 48) % 48) - 24)).toBeLessThan(1)
  })
  it('repeated at an angle, covers the corners too', async () => {
    const found = await marks({ repeats: true, spacingPercent: 60, angleDegrees: 35 })
    for (const [cx, cy] of [
      [0, 0],
      [300, 0],
      [0, 200],
      [300, 200],
    ] as const)
      expect(Math.min(...found.map(({ x, y }) => Math.hypot(x - cx, y - cy)))).toBeLessThan(60)
  })
})

describe('a face of one’s own', () => {
  it('sets the line as the same face does that is shipped', async () => {
    const source = greyPicture(240, 120, () => 60)
    const face = testAssets.get('font:jetbrains-mono-400')
    if (!face) throw new Error('The face is missing')
    const hash = 'c'.repeat(64)
    const assets = new Map([...testAssets, [hash, face]])
    const draw = async (settings: Record<string, string | number>) => {
      const kernels = await testKernels()
      const resolved = resolveSteps([newStep('stamp-text', 's', { text: 'Marram', sizePercent: 12, ...settings })], source.size, {
        sampler: createSampler(kernels, source),
        assets,
      })
      return renderEncoded(kernels, planRender(source, resolved, 'full'), { space: 'srgb', channels: 3, dither: false })
    }
    const own = await draw({ ownFace: `${hash}/mine.woff` })
    expect(own).toEqual(await draw({ font: 'jetbrains-mono-400' }))
    expect(own).not.toEqual(await draw({}))
    await expect(draw({ ownFace: `${'d'.repeat(64)}/lost.otf` })).rejects.toThrow('lost.otf')
  })
})

describe('what is around a mark', () => {
  const bare = { width: 200, height: 60 }
  it.each(arounds)('%s leaves the mark as large as it is, and in the middle', (around) => {
    const box = boxAround(around, bare)
    const { x, y } = insetOf(box, bare)
    expect(x >= 0 && y >= 0 && x + bare.width <= box.width && y + bare.height <= box.height).toBe(true)
    const coverage = coverageAround(around, box, bare)
    if (!coverage) return expect(around).toBe('nothing')
    // Nothing of it lies over the mark.
    let over = 0
    for (let row = y; row < y + bare.height; row++)
      for (let column = x; column < x + bare.width; column++) over += coverage[row * box.width + column] ?? 0
    expect(over).toBeLessThan(0.01)
  })
  it('covers the area that geometry says', () => {
    const stroke = 0.05 * bare.height
    const sum = (around: (typeof arounds)[number]): number =>
      coverageAround(around, boxAround(around, bare), bare)?.reduce((a, b) => a + b, 0) ?? 0
    const frame = boxAround('frame', bare)
    expect(sum('frame')).toBeCloseTo(2 * stroke * (frame.width + frame.height - 2 * stroke), 1)
    expect(sum('line')).toBeCloseTo(stroke * bare.width, 1)
    const { width, height } = boxAround('ring', bare)
    const ring = (Math.PI / 4) * (width * height - (width - 2 * stroke) * (height - 2 * stroke))
    expect(Math.abs(sum('ring') / ring - 1)).toBeLessThan(0.002)
  })
  it.each([
    ['stamp-text', { text: 'Marram', sizePercent: 20 }],
    ['stamp-image', { file: mark, sizePercent: 40, tint: 'given', colour: '#ffffff' }],
  ] as const)('%s draws more with it, and no less of the mark', async (operation, settings) => {
    const source = greyPicture(300, 200, () => 40)
    const lit = async (around: string): Promise<number> => {
      const { pixels } = await renderOne(source, operation, {
        ...defaultSettings(findOperation(operation)?.settings ?? {}),
        ...settings,
        opacityPercent: 100,
        around,
      })
      return pixels.reduce((sum, code) => sum + code - 40, 0)
    }
    const without = await lit('nothing')
    for (const around of ['frame', 'ring', 'line']) expect(await lit(around)).toBeGreaterThan(without * 1.02)
  })
})

import { describe, expect, it } from 'vitest'
import { createEye } from '@/engine/eye'
import { resolveSteps } from '@/engine/resolve'
import { newStep } from '@/macro/step'
import { testAssets, testFiles } from '../../tests/assets'
import { testKernels } from '../../tests/kernels'
import { greyPicture } from '../../tests/pictures'
import { renderOne } from '../../tests/render'
import { stampPlace } from './stamp'

const mark = Object.keys(testFiles).find((value) => value.endsWith('.png')) ?? ''
const at = (positionXPercent: number, positionYPercent: number, marginPercent = 10) => ({
  positionXPercent,
  positionYPercent,
  marginPercent,
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
    const sight = { eye: createEye(await testKernels(), source), assets: testAssets, subject: undefined }
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

import { describe, expect, it } from 'vitest'
import { parseCube, writeCube } from '@/colour/cube'
import { newLimit } from '@/macros/limit'
import { newStep, type Step } from '@/macros/step'
import { testKernels } from '../../tests/kernels'
import { busyPicture } from '../../tests/pictures'
import { renderSteps } from '../../tests/render'
import { isLook, renderLook } from './macro-as-look'
import { planRender } from './plan'
import { renderEncoded } from './render'
import { resolveSteps } from './resolve'

const colouring: readonly Step[] = [
  newStep('exposure', 'a', { exposureEv: 0.4, shoulderPercent: 40 }),
  newStep('levels', 'b', { allBlack: 6, allWhite: 250, allGamma: 1.1 }),
  newStep('saturation', 'c', { saturationPercent: 20 }),
  newStep('split-tint', 'd'),
]

describe('a macro as a look', () => {
  it('is possible for steps that do the same everywhere, and for no others', () => {
    const size = { width: 60, height: 40 }
    const resolve = (...steps: Step[]) => resolveSteps(steps, size)
    expect(isLook(resolve(...colouring))).toBe(true)
    expect(isLook(resolve(newStep('unsharp-mask', 'u')))).toBe(false)
    expect(isLook(resolve(newStep('crop', 'k', { ratioWidth: 1, ratioHeight: 1 })))).toBe(false)
    expect(isLook(resolve({ ...newStep('exposure', 'e', { exposureEv: 1 }), limit: [newLimit('radial')] }))).toBe(false)
  })
  it('written as .cube, read back and laid over a picture, comes within 3/255 of the steps themselves', async () => {
    const kernels = await testKernels()
    const source = busyPicture(90, 60)
    const direct = (await renderSteps(source, colouring)).pixels
    const text = writeCube(renderLook(kernels, resolveSteps(colouring, source.size)), 'Warm')
    expect(text.split('\n').length).toBeGreaterThan(33 ** 3)
    const assets = new Map([['c'.repeat(64), { kind: 'look', look: parseCube(text) } as const]])
    const step = newStep('look-table', 'l', { file: `${'c'.repeat(64)}/warm.cube` })
    const resolved = resolveSteps([step], source.size, { assets })
    const through = renderEncoded(kernels, planRender(source, resolved, 'full'), {
      space: 'srgb',
      gamut: 'clip',
      channels: 3,
      dither: false,
    })
    const differences = Array.from(direct, (code, i) => Math.abs(code - (through[i] ?? 0))).sort((a, b) => a - b)
    expect(differences[Math.floor(differences.length * 0.99)]).toBeLessThanOrEqual(3)
  })
})

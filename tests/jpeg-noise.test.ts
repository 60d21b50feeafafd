import { describe, expect, it } from 'vitest'
import { orderOf, type Shot, shoot, shotSizes } from './jpeg-noise'

describe('noise measured in JPEG files', { timeout: 180_000 }, () => {
  it('is found within a fifth of what is in the file, on the grid and off it, and in the right order', async () => {
    const shots: Shot[] = []
    for (const [width, height] of [shotSizes[0], shotSizes[2]])
      for (const quality of [85, 98])
        for (const sigma of [4, 8, 14]) {
          const shot = await shoot(width, height, { sigma, quality })
          shots.push(shot)
          expect(Math.abs(shot.found / shot.real - 1)).toBeLessThan(0.2)
        }
    expect(orderOf(shots)).toBeGreaterThan(0.95)
  })
  it('is taken away on the grid as well as off it, where an earlier version left all of it', async () => {
    for (const [quality, apartDb] of [
      [85, 0.4],
      [92, 0.2],
    ] as const) {
      const shot = { sigma: 8, quality }
      const [on, off] = [await shoot(768, 512, shot), await shoot(761, 509, shot)]
      expect(Math.abs(on.psnr() - off.psnr())).toBeLessThan(apartDb)
      const then = await shoot(768, 512, { ...shot, edition: 'first' })
      expect(then.psnr()).toBeLessThan(on.psnr() - 4)
    }
  })
})

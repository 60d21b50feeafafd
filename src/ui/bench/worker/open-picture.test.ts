import { describe, expect, it } from 'vitest'
import { AppError } from '@/base/errors'
import { byteAt } from '@/base/numbers'
import { newStep, type Step } from '@/macros/step'
import { testKernels } from '../../../../tests/kernels'
import { paint } from '../../../../tests/pictures'
import type { FetchedPicture } from './loading'
import { OpenPicture } from './open-picture'
import type { RenderRequest } from './protocol'
import { PictureSession } from './session'

const facts = { size: { width: 6000, height: 4000 }, format: 'raw', bits: 16, space: 'camera', hasAlpha: false }
const picture = (width: number): FetchedPicture => ({
  source: {
    kind: 'interleaved',
    size: { width, height: (width * 2) / 3 },
    pixels: new Uint16Array(),
    colour: { curves: [] as never, toWorking: [] as never },
  },
  facts,
})

/** An opening whose answers come when the test says so. */
function newOpening(isRaw = true) {
  const answers = new Map<number | undefined, { resolve(picture: FetchedPicture): void; reject(error: unknown): void }>()
  const told: string[] = []
  const opening = new OpenPicture({
    isRaw,
    fetch: (edge) => new Promise((resolve, reject) => answers.set(edge, { resolve, reject })),
    begin: async ({ source }) => ({ source }) as unknown as PictureSession,
    opened: ({ source }, isWhole) => told.push(`${source.size.width} of ${(source.fullSize ?? source.size).width}, ${isWhole}`),
    failed: (error) => told.push((error as AppError).code),
  })
  const come = (edge: number | undefined): void => answers.get(edge)?.resolve(picture(edge ?? 6000))
  const fail = (edge: number | undefined): void =>
    answers.get(edge)?.reject(new AppError(edge ? 'fileMissing' : 'pictureDamaged', { path: 'x' }))
  return { opening, told, asked: answers, come, fail }
}
const widthOf = async (session: Promise<PictureSession>): Promise<number> =>
  ((await session) as unknown as { source: FetchedPicture['source'] }).source.size.width

describe('a picture on its way to the bench', () => {
  it('is looked at in a copy until the whole raw file is there, and told both times', async () => {
    const { opening, told, come } = newOpening()
    const [looked, truth] = [opening.forLooking(), opening.forTruth()]
    come(2048)
    expect(await widthOf(looked)).toBe(2048)
    come(undefined)
    expect(await widthOf(truth)).toBe(6000)
    expect(await widthOf(opening.forLooking())).toBe(6000)
    expect(told).toEqual(['2048 of 6000, false', '6000 of 6000, true'])
  })
  it('is never looked at in a copy that comes after the whole', async () => {
    const { opening, told, come } = newOpening()
    const looked = opening.forLooking()
    come(undefined)
    expect(await widthOf(looked)).toBe(6000)
    come(2048)
    await Promise.resolve()
    expect(await widthOf(opening.forLooking())).toBe(6000)
    expect(told).toEqual(['6000 of 6000, true'])
  })
  it('is asked for once where it is rendered already, or where only its true pixels are wanted', async () => {
    const jpeg = newOpening(false)
    void jpeg.opening.forLooking()
    expect([...jpeg.asked.keys()]).toEqual([undefined])
    const raw = newOpening()
    void raw.opening.forTruth()
    expect([...raw.asked.keys()]).toEqual([undefined])
  })
  it('is shown all the same where its copy can’t be had', async () => {
    const { opening, come, fail } = newOpening()
    const looked = opening.forLooking()
    fail(2048)
    come(undefined)
    expect(await widthOf(looked)).toBe(6000)
  })
  it('that turns out to be damaged says so, whether its copy was seen or comes later', async () => {
    const seen = newOpening()
    const first = seen.opening.forLooking()
    seen.come(2048)
    await first
    seen.fail(undefined)
    await expect(seen.opening.forTruth()).rejects.toMatchObject({ code: 'pictureDamaged' })
    expect(seen.told).toEqual(['2048 of 6000, false', 'pictureDamaged'])
    await expect(seen.opening.forLooking()).rejects.toMatchObject({ code: 'pictureDamaged' })

    const late = newOpening()
    const looked = late.opening.forLooking()
    late.fail(undefined)
    await expect(late.opening.forTruth()).rejects.toMatchObject({ code: 'pictureDamaged' })
    late.come(2048)
    await expect(looked).rejects.toMatchObject({ code: 'pictureDamaged' })
    expect(late.told).toEqual([])
  })
  it('looks in its copy as it does whole, at the sizes of the whole', async () => {
    const kernels = await testKernels()
    const coloured = [
      newStep('exposure', 'a', { exposureEv: 0.4 }),
      newStep('saturation', 'b', { saturationPercent: 30 }),
      newStep('unsharp-mask', 'u', { radiusPx: 20 }),
    ]
    const shaped = [...coloured, newStep('crop', 'c', { ratioWidth: 1, ratioHeight: 1 }), newStep('resize', 'd', { lengthPx: 200 })]
    const view = { kind: 'fit', widthPx: 300, heightPx: 300 } as const
    const request = (steps: readonly Step[]): RenderRequest => ({ id: 1, path: 'x', steps, focus: 0, view, histogram: true })
    const drawn = (width: number, height: number) =>
      paint(width, height, (x, y) => {
        const [across, down] = [(x + 0.5) / width, (y + 0.5) / height]
        return [60 + 120 * across, 40 + 150 * down, 128 + 60 * Math.sin(9 * across) * Math.cos(7 * down)]
      })
    const seenThrough = (width: number, height: number) => ({
      ...drawn(width, height),
      alpha: Uint8Array.from({ length: width * height }, (_, i) => 255 - ((i % width) / width) * 200),
    })
    const whole = new PictureSession(kernels, seenThrough(600, 400))
    const copy = new PictureSession(kernels, { ...seenThrough(300, 200), fullSize: { width: 600, height: 400 } })
    for (const wanted of [coloured, shaped]) {
      const [seen, truth] = [await copy.render(request(wanted)), await whole.render(request(wanted))]
      expect(seen).toMatchObject({ fullSize: truth.fullSize, sizeBeforeFocus: truth.sizeBeforeFocus, size: truth.size })
      // Rounded to codes at other places: most differ by none, few near black by several.
      const apart = seen.pixels.reduce((sum, value, at) => sum + Math.abs(value - byteAt(truth.pixels, at)), 0)
      expect(apart / seen.pixels.length).toBeLessThan(0.5)
    }
    expect(copy.beadPictures(shaped).map(({ size }) => size)).toEqual(whole.beadPictures(shaped).map(({ size }) => size))
  })
})

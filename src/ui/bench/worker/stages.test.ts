import { beforeAll, describe, expect, it } from 'vitest'
import { type LimitKind, newLimit } from '@/macros/limit'
import { newStep, type Step } from '@/macros/step'
import { operations } from '@/operations'
import { testAssets } from '../../../../tests/assets'
import { testKernels } from '../../../../tests/kernels'
import { busyPicture } from '../../../../tests/pictures'
import { PictureSession } from './session'

/*
 * What the bench asks of every operation: a picture of the stage's size, with each kind of limit, where it applies
 * tinted, for landscapes and portraits that come out larger and smaller than the stage, fitted and at true pixels.
 */

const sizes = [
  [1200, 800],
  [800, 1200],
  [90, 60],
] as const
const stages = [
  [892, 608],
  [400, 300],
] as const
/** What is delivered where an operation says how long. */
const lengths = [2000, 540, 120] as const
const stroke = { sizePercent: 12, softnessPercent: 60, erases: false, points: [[30, 40] as const, [60, 55] as const] }
const limits: readonly (LimitKind | null)[] = [null, 'tone', 'edges', 'radial', 'brush']

/** Whether a limit can say where an operation applies. */
const mixes = (operation: string): boolean => {
  const found = operations.find(({ id }) => id === operation)
  return found !== undefined && found.group !== 'geometry' && found.plays === undefined && !idle.has(operation)
}
/** At their defaults these do nothing, so that there is nothing to limit. */
const idle: ReadonlySet<string> = new Set(['stamp-image', 'stamp-text', 'look-table', 'match', 'even-out', 'play-macro'])

function stepsOf(operation: string): Step[] {
  const found = operations.find(({ id }) => id === operation)
  const keys = Object.keys(found?.settings ?? {})
  const length = keys.find((key) => /^(longEdge|length|target).*Px$/i.test(key))
  const bare = length ? lengths.map((px) => newStep(operation, 'a', { [length]: px })) : [newStep(operation, 'a')]
  return bare.flatMap((step) =>
    limits.map((kind) => (kind ? { ...step, limit: [{ ...newLimit(kind), ...(kind === 'brush' ? { strokes: [stroke] } : {}) }] } : step)),
  )
}

describe('the stage', () => {
  let sessions: readonly PictureSession[]
  beforeAll(async () => {
    const kernels = await testKernels()
    sessions = sizes.map(([width, height]) => new PictureSession(kernels, busyPicture(width, height), undefined, testAssets))
  })

  it.each(operations.map(({ id }) => id))('shows %s with any limit, at any size', async (operation) => {
    for (const step of stepsOf(operation))
      for (const session of sessions)
        for (const [widthPx, heightPx] of stages) {
          const after = newStep('exposure', 'b', { exposureEv: 0.1 })
          const wish = { id: 1, path: 'x', steps: [step, after], focus: 0, histogram: true, mask: true }
          const fitted = await session.render({ ...wish, view: { kind: 'fit', widthPx, heightPx } })
          expect(fitted.size.width).toBeGreaterThan(0)
          expect(fitted.pixels.length).toBe(fitted.size.width * fitted.size.height * 4)
          if (fitted.mask) {
            const { values, size } = fitted.mask
            expect(values.length).toBe(size.width * size.height)
            // It is laid over the picture, so it must have its shape.
            expect(size.width / size.height).toBeCloseTo(fitted.size.width / fitted.size.height, 1)
          } else expect(step.limit === undefined || !mixes(operation)).toBe(true)
        }
    const [step] = stepsOf(operation).slice(-1)
    if (step)
      for (const session of sessions) {
        const view = { kind: 'region', centreX: 0.4, centreY: 0.6, widthPx: 300, heightPx: 200 } as const
        const region = await session.render({ id: 1, path: 'x', steps: [step], focus: 0, histogram: true, mask: true, view })
        expect(region.pixels.length).toBe(region.size.width * region.size.height * 4)
      }
  })
})

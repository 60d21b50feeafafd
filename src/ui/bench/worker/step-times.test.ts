import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { newStep, type Step } from '@/macros/step'
import { testKernels } from '../../../../tests/kernels'
import { busyPicture } from '../../../../tests/pictures'
import { PictureSession } from './session'
import { StepTimes } from './step-times'
import { timesThatCan } from './what-can'

const kernels = await testKernels()
const steps: readonly Step[] = [newStep('full-range', 'a'), newStep('resize', 'b', { lengthPx: 300 })]

/** A clock on which whatever is timed takes ten milliseconds. */
beforeEach(() => {
  let now = 0
  vi.spyOn(performance, 'now').mockImplementation(() => {
    now += 10
    return now
  })
})
afterEach(() => void vi.restoreAllMocks())

it('a picture takes what its part takes times as much as it is larger, and all that was measured so far', () => {
  // 4 megapixels, of which one is timed; after the resize too.
  const times = new StepTimes(kernels, busyPicture(2000, 2000), {})
  expect([0, 1, 2].map((count) => times.withFirst(count, steps))).toEqual([10 + 40, 20 + 40, 30 + 40])
  // Begun anew, and with other steps.
  expect(times.withFirst(0, steps)).toBe(10 + 40)
  expect(times.withFirst(1, steps.slice(0, 1))).toBe(10 + 40)
})
it('a small picture is timed as a whole', () => {
  expect(new StepTimes(kernels, busyPicture(300, 200), {}).withFirst(0, [])).toBe(10 + 10)
})
it('with a step that fails it takes what it takes with those before it', () => {
  const session = new PictureSession(kernels, busyPicture(300, 200))
  const failing = [...steps, { ...newStep('exposure', 'c'), operation: 'nobody-has-this' }]
  const [, , before = 0, after] = [0, 1, 2, 3].map((count) => timesThatCan(session, failing, count))
  // Those before it are looked at once more.
  expect(after).toBe(before + 10)
})

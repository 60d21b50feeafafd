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

it('a picture takes what some of its rows take, without their first strip, times as many rows, and all that was measured so far', () => {
  // 2000 rows, of which 500 are timed: 31 strips of 16 and a rest of 4, the first strip not counted; so many again after the resize.
  const rendering = (310 / 484) * 2000
  const times = new StepTimes(kernels, busyPicture(2000, 2000), {})
  expect(times.withFirst(0, steps)).toBeCloseTo(10 + rendering, 6)
  expect(times.withFirst(1, steps)).toBeCloseTo(20 + rendering, 6)
  // Behind the resize 300 rows in strips of 112: two are walked, one counts.
  expect(times.withFirst(2, steps)).toBeCloseTo(30 + (10 / 112) * 300, 6)
  // Begun anew, and with other steps.
  expect(times.withFirst(0, steps)).toBeCloseTo(10 + rendering, 6)
  expect(times.withFirst(1, steps.slice(0, 1))).toBeCloseTo(10 + rendering, 6)
})
it('a small picture is timed as a whole', () => {
  expect(new StepTimes(kernels, busyPicture(60, 40), {}).withFirst(0, [])).toBe(10 + 10)
})
it('with a step that fails it takes what it takes with those before it', () => {
  const session = new PictureSession(kernels, busyPicture(300, 200))
  const failing = [...steps, { ...newStep('exposure', 'c'), operation: 'nobody-has-this' }]
  const [, , before = 0, after] = [0, 1, 2, 3].map((count) => timesThatCan(session, failing, count))
  // Those before it are looked at once more.
  expect(after).toBe(before + 10)
})

import { expect, it } from 'vitest'
import { allOf, takenBy } from './time-words'

it('a step takes what the picture takes more with it; what is not known yet is not said', () => {
  const times = [60, 100, 1340, 1335]
  expect([0, 1, 2, 3].map((index) => takenBy(times, index))).toEqual(['0.04 s', '1.24 s', 'under 0.01 s', '…'])
  expect([allOf(times, 3), allOf(times, 4)]).toEqual(['all 1.33 s', '…'])
})

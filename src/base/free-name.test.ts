import { describe, expect, it } from 'vitest'
import { freeName, isTaken } from './free-name'

const called = (...names: readonly string[]) => names.map((name) => ({ name }))

describe('names that are free', () => {
  it('are the wanted one, or it with the first number that is free, in whatever letters others are written', () => {
    expect(freeName('Web', [])).toBe('Web')
    expect(freeName('Web', called('web', 'WEB 2', 'Web 4'))).toBe('Web 3')
  })
  it('are not those that stand there', () => {
    expect(isTaken(' web ', called('Web'))).toBe(true)
    expect(isTaken('Web 2', called('Web'))).toBe(false)
  })
})

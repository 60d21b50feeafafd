import { describe, expect, it } from 'vitest'
import { formatBytes, formatDuration, plainNumber, shortNumber, signedNumber, unitsKept } from './format'

describe('numbers in words', () => {
  it('have a true minus sign, and none for what rounds to zero', () => {
    expect([plainNumber(-1.25, 1), plainNumber(-0.04, 1), plainNumber(3, 2)]).toEqual(['−1.3', '0.0', '3.00'])
    expect([signedNumber(0.3, 1), signedNumber(0, 1), signedNumber(-2)]).toEqual(['+0.3', '0.0', '−2'])
  })

  it('are as short as they can be', () => {
    expect([shortNumber(0.8), shortNumber(12), shortNumber(1.256), shortNumber(-0.5), shortNumber(1e-9)]).toEqual([
      '0.8',
      '12',
      '1.26',
      '−0.5',
      '0',
    ])
  })

  it('count bytes in thousands, going on to the next unit before four digits (IEC 80000-13)', () => {
    expect([0, 999, 1000, 99_949, 99_950, 999_499, 999_500, 5e12, 5e15].map(formatBytes)).toEqual([
      '0 B',
      '999 B',
      '1.0 kB',
      '99.9 kB',
      '100 kB',
      '999 kB',
      '1.0 MB',
      '5.0 TB',
      '5000 TB',
    ])
  })

  it('say a time as people do', () => {
    expect([-1, 0.4, 59, 59.6, 3599, 3600, 4800].map(formatDuration)).toEqual(['0 s', '0 s', '59 s', '1 min', '1 h', '1 h', '1 h 20 min'])
  })

  it('keep their units with them, and nothing else', () => {
    expect(unitsKept('radius 1.2 px, skin guard 60 %')).toBe('radius 1.2\u00a0px, skin guard 60\u00a0%')
    expect(unitsKept('+0.3 EV, 5600 K')).toBe('+0.3\u00a0EV, 5600\u00a0K')
    for (const other of ['4 pxels', '2 Kilns', '3 : 2', '5 inner', 'level 2, in sRGB']) expect(unitsKept(other)).toBe(other)
  })
})

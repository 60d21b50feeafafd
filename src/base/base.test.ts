import { describe, expect, it } from 'vitest'
import { isOver, nextRunState, type RunEvent, runStates } from '@/jobs/run'
import { AppError, errorCodes, errorSentence, errorStatus, reasonOf, reportOf } from './errors'
import { counted, formatBytes, formatDuration, plainNumber, shortNumber, signedNumber } from './format'
import { clipRect, expandRect, orientationOf, scaleSize } from './geometry'

describe('numbers in words', () => {
  it.each([
    [signedNumber(0.35, 2), '+0.35'],
    [signedNumber(-0.35, 2), '−0.35'],
    [signedNumber(0, 2), '0.00'],
    [signedNumber(-0.001, 2), '0.00'],
    [plainNumber(12.6), '13'],
    [shortNumber(0.8), '0.8'],
    [shortNumber(1.256), '1.26'],
    [shortNumber(12), '12'],
    [formatBytes(0), '0 B'],
    [formatBytes(999), '999 B'],
    [formatBytes(1000), '1.0 kB'],
    [formatBytes(1_234_567), '1.2 MB'],
    [formatBytes(214e6), '214 MB'],
    [formatBytes(999_960), '1.0 MB'],
    [formatDuration(3.6), '4 s'],
    [formatDuration(-1), '0 s'],
    [formatDuration(180), '3 min'],
    [formatDuration(4800), '1 h 20 min'],
    [formatDuration(7200), '2 h'],
    [counted(1, 'picture'), '1 picture'],
    [counted(1200, 'picture'), '1,200 pictures'],
  ])('%s', (actual, expected) => expect(actual).toBe(expected))
})

describe('rectangles', () => {
  const size = { width: 100, height: 50 }
  it.each([
    [
      { x: -10, y: -10, width: 30, height: 30 },
      { x: 0, y: 0, width: 20, height: 20 },
    ],
    [
      { x: 90, y: 40, width: 30, height: 30 },
      { x: 90, y: 40, width: 10, height: 10 },
    ],
    [
      { x: 10, y: 10, width: 20, height: 20 },
      { x: 10, y: 10, width: 20, height: 20 },
    ],
    [
      { x: 200, y: -80, width: 20, height: 20 },
      { x: 99, y: 0, width: 1, height: 1 },
    ],
  ])('%o is clipped to the picture and never empty', (rect, expected) => expect(clipRect(rect, size)).toEqual(expected))

  it('grow on all sides', () => expect(expandRect({ x: 5, y: 6, width: 7, height: 8 }, 2)).toEqual({ x: 3, y: 4, width: 11, height: 12 }))
  it('sizes never fall below one pixel', () => expect(scaleSize({ width: 20_000, height: 1 }, 0.01)).toEqual({ width: 200, height: 1 }))
  it.each([
    [2, 1, 'landscape'],
    [1, 2, 'portrait'],
    [3, 3, 'square'],
  ])('%i × %i is %s', (width, height, expected) => expect(orientationOf({ width, height })).toBe(expected))
})

describe('the table of errors', () => {
  const details = {
    path: '/a/b.jpg',
    reason: 'the disk is full',
    where: 'Step 1',
    names: 'Test loop',
    difference: '2 pictures came',
    question: 'Client?',
    answer: '7',
    range: 'a line of text',
    what: 'It',
    macro: 'M',
    loop: 'L',
    problem: 'It is empty.',
    operation: 'x',
    limit: 1,
    format: 'JPEG',
    quality: 20,
    name: 'a.png',
    width: 3,
    height: 2,
    seconds: 4,
    method: 'TRACE',
    frames: 3,
    free: '1 GB',
    wanted: '2 GB',
  }

  it.each(errorCodes)('%s has a status and a whole sentence', (code) => {
    expect(errorStatus(code)).toBeGreaterThanOrEqual(400)
    const sentence = errorSentence({ code, details })
    expect(sentence).toMatch(/^[A-Z/].*[.]$/)
    expect(sentence).not.toMatch(/undefined|!/)
  })
  it('turns anything thrown into plain data', () => {
    expect(reportOf(new AppError('fileEmpty', { path: 'x' }))).toEqual({ code: 'fileEmpty', details: { path: 'x' } })
    expect(reportOf(new TypeError('odd'))).toEqual({ code: 'internal', details: { reason: 'odd' } })
    expect(reportOf('text')).toEqual({ code: 'internal', details: { reason: 'text' } })
  })
  it('names reasons of the system in words', () => {
    expect(reasonOf(Object.assign(new Error('EACCES: …'), { code: 'EACCES' }))).toBe('permission denied')
    expect(reasonOf(Object.assign(new Error('first\nsecond'), { code: 'EWHAT' }))).toBe('first')
  })
})

describe('the life of a run', () => {
  const events: readonly RunEvent[] = ['claimed', 'faulted', 'pause', 'goOn', 'stop', 'finished']
  it.each([
    ['waiting', ['running', 'paused', 'paused', undefined, 'stopped', undefined]],
    ['running', ['running', 'paused', 'paused', undefined, 'stopped', 'done']],
    ['paused', [undefined, undefined, undefined, 'waiting', 'stopped', undefined]],
    ['stopped', [undefined, undefined, undefined, undefined, undefined, undefined]],
    ['done', [undefined, undefined, undefined, undefined, undefined, undefined]],
  ] as const)('from %s', (state, expected) => expect(events.map((event) => nextRunState(state, event))).toEqual(expected))

  it('is over when nothing leads on', () => {
    for (const state of runStates) expect(isOver(state)).toBe(events.every((event) => nextRunState(state, event) === undefined))
  })
})

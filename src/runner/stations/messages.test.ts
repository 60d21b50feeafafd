import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { readAnswer, readMainSign, readStationSign } from './messages'

const delivered = { resultId: 1, targetPath: '/a', sizeBytes: 1, hash: 'a'.repeat(64), width: 1, height: 1, constants: [], traits: {} }
const outcome = { state: 'done', milliseconds: 5, sourceHash: 'b'.repeat(64), sourceUnchanged: true, delivered: [delivered] }

describe('what a station says', () => {
  it.each([
    { kind: 'finished', outcome },
    {
      kind: 'finished',
      outcome: { state: 'failed', milliseconds: 0, error: { code: 'fileMissing', details: { path: '/a' } }, delivered: [] },
    },
    { kind: 'workerLost' },
    { kind: 'stationLost' },
    { kind: 'putBack' },
    { kind: 'heldUp', reason: { code: 'diskFull', details: { path: '/a' } } },
  ])('is read: %j', (said) => expect(readAnswer(JSON.parse(JSON.stringify(said)))).toMatchObject(said))
  it.each([
    null,
    'finished',
    {},
    { kind: 'done' },
    { kind: 'constructor' },
    { kind: 'finished' },
    { kind: 'finished', outcome: { ...outcome, state: 'waiting' } },
    { kind: 'finished', outcome: { ...outcome, milliseconds: '5' } },
    { kind: 'finished', outcome: { ...outcome, delivered: [{ ...delivered, hash: 'short' }] } },
    { kind: 'finished', outcome: { ...outcome, delivered: [{ ...delivered, resultId: -1 }] } },
    { kind: 'heldUp', reason: 'no' },
  ])('is no answer: %j', (said) => expect(readAnswer(said)).toBeUndefined())
  it('may be anything, and nothing breaks', () => {
    fc.assert(
      fc.property(fc.anything(), fc.string(), (said, text) => {
        readAnswer(said)
        readMainSign(text)
        readStationSign(text)
        readStationSign(JSON.stringify(said) ?? '')
      }),
    )
  })
  it('is no sign where a number is missing or the text is endless', () => {
    const sign = {
      id: 'i',
      name: 'n',
      cores: 2,
      workers: 2,
      busy: 0,
      build: 'b',
      version: '1',
      picturesPerMinute: 0,
      done: 0,
      startedAt: 1,
      trouble: null,
      at: 1,
    }
    expect(readStationSign(JSON.stringify(sign))).toEqual(sign)
    expect(readStationSign(JSON.stringify({ ...sign, workers: undefined }))).toBeUndefined()
    expect(readStationSign(JSON.stringify({ ...sign, workers: 1e9 }))).toBeUndefined()
    expect(readStationSign(JSON.stringify({ ...sign, name: 'x'.repeat(1000) }))).toBeUndefined()
  })
})

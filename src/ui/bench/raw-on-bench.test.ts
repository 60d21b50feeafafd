import { beforeEach, describe, expect, it } from 'vitest'
import { emptyHistory } from '@/macros/history'
import { addStep, removeSteps, startRecording } from '@/macros/recorder'
import { recordBaseCurve, startOnRaw } from './raw-on-bench'
import { useBench } from './store'

const bench = () => useBench.getState()
const wire = () => bench().history.document.steps.map(({ operation, kept }) => [operation, kept])
const add = (operation: string, id: string): void => bench().commit(addStep(bench().history.document, operation, id))

describe('a raw file on the bench', () => {
  beforeEach(() => useBench.setState({ history: emptyHistory, selectedId: null, picture: null }))

  it('gets the base curve on an empty wire, once, with its settings in view', () => {
    startOnRaw()
    startOnRaw()
    expect(wire()).toEqual([['base-curve', false]])
    expect(bench().selectedId).toBe(bench().history.document.steps[0]?.id)
  })
  it('leaves a wire as it is that somebody has laid', () => {
    add('exposure', 'e')
    startOnRaw()
    expect(wire()).toEqual([['exposure', false]])
  })
  it('gets it first, and kept, while something is recorded', () => {
    bench().commit(startRecording(bench().history.document, 'Mine'))
    add('saturation', 's')
    startOnRaw()
    expect(wire()).toEqual([
      ['base-curve', true],
      ['saturation', true],
    ])
  })
  it('does not bring back what was just taken off', () => {
    startOnRaw()
    bench().commit(removeSteps(bench().history.document, new Set([bench().selectedId ?? ''])))
    expect(wire()).toEqual([])
    startOnRaw()
    expect(wire()).toEqual([])
  })
  it('a recording that begins on it keeps the step that lies there', () => {
    startOnRaw()
    bench().commit(startRecording(bench().history.document, 'Mine'))
    recordBaseCurve()
    expect(wire()).toEqual([['base-curve', true]])
  })
})

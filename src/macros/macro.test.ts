import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { AppError } from '@/base/errors'
import { deliverySteps } from '@/jobs/delivery-steps'
import { defaultSettings, findOperation, operations } from '@/operations'
import { checkSteps, macroLimits, readMacroFile, unknownOperations, writeMacroFile } from './codec'
import {
  applyChange,
  type BenchDocument,
  type Change,
  canRedo,
  canUndo,
  commit,
  emptyBench,
  emptyHistory,
  type History,
  invertChange,
  redo,
  replay,
  undo,
} from './history'
import type { Macro } from './macro'
import {
  addStep,
  editStep,
  endRecording,
  insertSteps,
  keepSteps,
  keptSteps,
  layMacro,
  moveStep,
  nestSteps,
  removeSteps,
  startRecording,
} from './recorder'
import { newStep, readSteps, stepSetting } from './step'

const macro: Macro = {
  name: 'Shop listing',
  notes: 'For the shop pages.',
  tags: ['web'],
  steps: [
    {
      ...newStep('exposure', 'a', { exposureEv: 0.35 }),
      when: [
        { kind: 'iso', from: 1600, to: null },
        { kind: 'name', like: 'TLK*' },
      ],
    },
    newStep('crop', 'b'),
    newStep('unsharp-mask', 'c'),
  ],
}
// biome-ignore lint/suspicious/noExplicitAny: files are broken on purpose, in ways that types would not allow
type Loose = any
const file = (change: (json: Loose) => void): string => {
  const json = JSON.parse(writeMacroFile(macro))
  change(json)
  return JSON.stringify(json)
}

describe('a macro file', () => {
  it('comes back as it was written', () => expect(readMacroFile(writeMacroFile(macro))).toEqual(macro))

  it('with defaults of every operation comes back too', () => {
    const all = { ...macro, steps: operations.map((operation) => newStep(operation.id, operation.id)) }
    expect(readMacroFile(writeMacroFile(all))).toEqual(all)
  })

  const broken: readonly (readonly [string, (json: Loose) => void, RegExp])[] = [
    ['another format', (j) => (j.format = 'something/else'), /format must be "copper-loop\/macro"/],
    ['no version', (j) => delete j.version, /version is missing/],
    ['a version that is text', (j) => (j.version = '1'), /version must be a number/],
    ['no name', (j) => delete j.name, /name is missing/],
    ['a name that is a number', (j) => (j.name = 7), /name must be text/],
    ['an endless name', (j) => (j.name = 'x'.repeat(500)), /name must have at most 120/],
    ['steps that are no list', (j) => (j.steps = {}), /steps must be a list/],
    ['a step without id', (j) => delete j.steps[1].id, /steps\[1\]\.id is missing/],
    ['the same id twice', (j) => (j.steps[1].id = 'a'), /steps\[1\]\.id stands at another step too/],
    ['a strength out of range', (j) => (j.steps[0].strengthPercent = 130), /steps\[0\]\.strengthPercent must be at most 100/],
    ['a blend that is none', (j) => (j.steps[0].blend = 'dissolve'), /steps\[0\]\.blend must be one of normal, lightness, colour/],
    ['a condition of no kind', (j) => (j.steps[0].when = [{ kind: 'mood' }]), /steps\[0\]\.when\[0\]/],
    [
      'a condition with a wrong bound',
      (j) => (j.steps[0].when = [{ kind: 'iso', from: 'x', to: null }]),
      /steps\[0\]\.when\[0\]\.from must be a number or null/,
    ],
    ['a note that is a number', (j) => (j.steps[0].note = 1), /steps\[0\]\.note must be text/],
    [
      'an open setting without question',
      (j) => (j.steps[0].open = [{ setting: 'exposureEv' }]),
      /steps\[0\]\.open\[0\]\.question is missing/,
    ],
    [
      'an open setting that is none',
      (j) => (j.steps[0].open = [{ setting: 'sparkle', question: '?' }]),
      /steps\[0\]\.open\[0\]\.setting names "sparkle"/,
    ],
    ['a step that is off by word', (j) => (j.steps[0].enabled = 'no'), /steps\[0\]\.enabled must be true or false/],
    ['something unknown on a step', (j) => (j.steps[0].opacity = 1), /steps\[0\] holds something unknown: opacity/],
    ['something unknown beside the steps', (j) => (j.author = 'x'), /holds something unknown: author/],
    ['a setting out of range', (j) => (j.steps[2].settings.radiusPx = 900), /steps\[2\]\.settings\.radiusPx must be at most 50/],
    ['a setting of a wrong kind', (j) => (j.steps[2].settings.radiusPx = '2'), /steps\[2\]\.settings\.radiusPx must be a number/],
    ['a setting nobody knows', (j) => (j.steps[2].settings.sparkle = 1), /steps\[2\]\.settings .*sparkle/],
    [
      'a choice that is none',
      (j) => (j.steps[1].settings.shape = 'heart'),
      /steps\[1\]\.settings\.shape must be one of ratio, pixels, print, margins/,
    ],
  ]
  it('may leave settings out: the declared defaults fill them', () => {
    const [, , sharpen] = readMacroFile(file((j) => delete j.steps[2].settings.amountPercent)).steps
    expect(sharpen?.settings.amountPercent).toBe(findOperation('unsharp-mask')?.settings.amountPercent?.default)
    const [exposure] = readMacroFile(file((j) => (j.steps[0].settings = {}))).steps
    expect(exposure?.settings).toEqual(defaultSettings(findOperation('exposure')?.settings ?? {}))
  })
  it.each(broken)('with %s is refused, and says where', (_, breakIt, sentence) => {
    const read = () => readMacroFile(file(breakIt))
    expect(read).toThrow(AppError)
    expect(read).toThrow(sentence)
  })
  it.each([
    ['not JSON', '{', /is not JSON/],
    ['empty', '', /is not JSON/],
    ['a number', '7', /The macro can't be used/],
    ['null', 'null', /The macro can't be used/],
    ['too large', ' '.repeat(macroLimits.fileBytes + 1), /larger than 1 MB/],
    ['too deep', '['.repeat(100) + ']'.repeat(100), /nested deeper/],
  ])('that is %s is refused', (_, text, sentence) => expect(() => readMacroFile(text)).toThrow(sentence))

  it('keeps steps of a newer version, and tells which they are', () => {
    const newer = readMacroFile(
      file((j) => j.steps.splice(1, 0, { ...j.steps[0], id: 'n', operation: 'dream', settings: { vividness: 3 } })),
    )
    expect(newer.steps[1]).toMatchObject({ operation: 'dream', settings: { vividness: 3 } })
    expect(unknownOperations(newer.steps)).toEqual([1])
    expect(stepSetting(newer.steps[1] ?? newStep('x', 'x'))).toBe('needs a newer version')
    expect(readMacroFile(writeMacroFile(newer))).toEqual(newer)
  })
  it('answers any JSON with a macro or an AppError, never anything else', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        try {
          readMacroFile(JSON.stringify(value))
        } catch (error) {
          expect(error).toBeInstanceOf(AppError)
        }
      }),
    )
  })
  it('checks steps that came from elsewhere', () => {
    expect(() => checkSteps([{ ...newStep('exposure', 'a'), settings: { exposureEv: 99 } }])).toThrow(/steps\[0\]\.settings/)
  })
})

describe('a macro in words', () => {
  it('reads as numbered sentences', () => {
    const steps = [
      newStep('exposure', 'a', { exposureEv: 0.35 }),
      { ...newStep('saturation', 'b', { saturationPercent: 8 }), strengthPercent: 50 },
      { ...newStep('crop', 'c'), enabled: false },
    ]
    expect(readSteps(steps)).toBe('1. Exposure +0.35 EV\n2. Saturation +8 %, at 50 %\n3. Crop 3 : 2, centred (off)')
  })
})

describe('a delivery’s own steps', () => {
  it('are none without a size, and one resize with one', () => {
    expect(deliverySteps({ id: 'w', longEdgePx: null, sharpenPercent: 0 })).toEqual([])
    expect(deliverySteps({ id: 'w', longEdgePx: 900, sharpenPercent: 0 })[0]?.settings).toMatchObject({
      by: 'longEdge',
      lengthPx: 900,
      mayEnlarge: false,
    })
  })
})

describe('recording', () => {
  const recorded = (document: BenchDocument, ...changes: (Change | undefined)[]): BenchDocument =>
    changes.reduce<BenchDocument>((now, change) => (change ? applyChange(now, change) : now), document)

  it('makes full beads while it is on and hollow ones while it is not', () => {
    let document = recorded(emptyBench, addStep(emptyBench, 'exposure', 'before'))
    document = recorded(document, startRecording(document, 'Mine'))
    document = recorded(document, addStep(document, 'levels', 'during'))
    document = recorded(document, endRecording(document))
    document = recorded(document, addStep(document, 'crop', 'after'))
    expect(document.steps.map((step) => [step.id, step.kept])).toEqual([
      ['before', false],
      ['during', true],
      ['after', false],
    ])
    expect(keptSteps(document).map((step) => step.id)).toEqual(['during'])
    expect(keptSteps(document)[0]).not.toHaveProperty('kept')
  })
  it('records a hollow step that is edited while it is on', () => {
    let document = recorded(emptyBench, addStep(emptyBench, 'exposure', 'a'))
    document = recorded(document, startRecording(document, 'Mine'))
    document = recorded(document, editStep(document, 'a', { settings: { exposureEv: 1, shoulderPercent: 0 } }))
    expect(document.steps[0]?.kept).toBe(true)
  })
  it('keeps forgotten steps afterwards, as one edit', () => {
    const document = recorded(emptyBench, addStep(emptyBench, 'exposure', 'a'), addStep(emptyBench, 'crop', 'b', 1))
    const change = keepSteps(document, new Set(['a', 'b']))
    expect(keptSteps(recorded(document, change))).toHaveLength(2)
    expect(keepSteps(recorded(document, change), new Set(['a', 'b']))).toBeUndefined()
  })
  it('does nothing for edits that change nothing, or steps that are gone', () => {
    const document = recorded(emptyBench, addStep(emptyBench, 'exposure', 'a'))
    expect(editStep(document, 'a', { enabled: true })).toBeUndefined()
    expect(editStep(document, 'gone', { enabled: false })).toBeUndefined()
    expect(removeSteps(document, new Set(['gone']))).toBeUndefined()
    expect(moveStep(document, 'a', 5)).toBeUndefined()
  })
  it('lays a macro on the wire and takes it off again', () => {
    const document = recorded(emptyBench, addStep(emptyBench, 'exposure', 'a'))
    let next = 0
    const change = layMacro(document, macro.steps, () => `fresh-${next++}`)
    const laid = recorded(document, change)
    expect(laid.steps.map((step) => [step.id, step.kept])).toEqual([
      ['fresh-0', true],
      ['fresh-1', true],
      ['fresh-2', true],
    ])
    expect(recorded(laid, invertChange(change))).toEqual(document)
  })
})

describe('the history', () => {
  /** Any gesture at the bench, on whatever is there. */
  const gesture = fc.record({
    kind: fc.constantFrom('add', 'edit', 'remove', 'move', 'record', 'stop', 'keep', 'insert', 'nest', 'lay', 'undo', 'redo'),
    pick: fc.nat(20),
    value: fc.integer({ min: -500, max: 500 }),
  })
  const numbered = (id: string) => {
    let next = 0
    return () => `${id}-${next++}`
  }
  type Gesture = { kind: string; pick: number; value: number }

  function perform(history: History, { kind, pick, value }: Gesture, id: string): History {
    const { document } = history
    const step = document.steps[pick % Math.max(1, document.steps.length)]
    const operation = operations[pick % operations.length]
    const changes: Record<string, () => Change | undefined> = {
      add: () => operation && addStep(document, operation.id, id, pick % (document.steps.length + 1)),
      edit: () => step && editStep(document, step.id, { strengthPercent: Math.abs(value) % 101, enabled: value % 2 === 0 }),
      remove: () =>
        removeSteps(document, new Set([step?.id, pick % 3 === 0 ? document.steps[0]?.id : undefined].flatMap((one) => one ?? []))),
      move: () => step && moveStep(document, step.id, value),
      record: () => startRecording(document, `Macro ${value}`),
      stop: () => endRecording(document),
      insert: () => insertSteps(document, document.steps.slice(0, 3), pick % (document.steps.length + 1), numbered(id)),
      nest: () =>
        nestSteps(document, new Set(document.steps.filter((_, i) => i % 2 === pick % 2).map((each) => each.id)), newStep('play-macro', id)),
      lay: () => layMacro(document, document.steps.slice(0, 2), numbered(id)),
      keep: () => keepSteps(document, new Set(document.steps.map((each) => each.id))),
    }
    if (kind === 'undo') return undo(history)
    if (kind === 'redo') return redo(history)
    const change = changes[kind]?.()
    return change ? commit(history, change) : history
  }

  it('after any gestures: undo to the start is the start, redo to the end is the end, and a replay is the same', () => {
    fc.assert(
      fc.property(fc.array(gesture, { maxLength: 60 }), (gestures) => {
        let history = gestures.reduce((now, each, i) => perform(now, each, `step-${i}`), emptyHistory)
        expect(replay(history.changes, history.cursor).document).toEqual(history.document)
        while (canRedo(history)) history = redo(history)
        const end = history.document
        while (canUndo(history)) history = undo(history)
        expect(history.document).toEqual(emptyBench)
        while (canRedo(history)) history = redo(history)
        expect(history.document).toEqual(end)
      }),
      { numRuns: 300 },
    )
  })
  it('undo after do is identity, for every single change', () => {
    fc.assert(
      fc.property(fc.array(gesture, { maxLength: 40 }), gesture, (gestures, last) => {
        const before = gestures.reduce((now, each, i) => perform(now, each, `step-${i}`), emptyHistory)
        if (last.kind === 'undo' || last.kind === 'redo') return
        const after = perform(before, last, 'last')
        if (after !== before) expect(undo(after).document).toEqual(before.document)
      }),
      { numRuns: 300 },
    )
  })
  it('survives JSON, which is how it is stored', () => {
    const history = ['add', 'add', 'edit', 'record', 'add', 'move'].reduce(
      (now, kind, i) => perform(now, { kind, pick: i, value: i }, `step-${i}`),
      emptyHistory,
    )
    expect(replay(JSON.parse(JSON.stringify(history.changes)), history.cursor).document).toEqual(history.document)
  })
})

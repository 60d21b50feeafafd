import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { emptyHistory } from '@/macros/history'
import { addStep, removeSteps, startRecording } from '@/macros/recorder'
import { useBench } from './store'

const bench = () => useBench.getState()
const document = () => bench().history.document

beforeEach(() => {
  bench().load({ base: null, folded: 0, changes: [], cursor: 0, samplePath: '/a.jpg', samples: [], macroId: null, picture: null })
  bench().set({ selectedId: null, compare: 'none' })
})

describe('the bench', () => {
  it('is ready once the stored one is read, with its sample', () => {
    expect(bench()).toMatchObject({ ready: true, sample: { path: '/a.jpg', error: null }, history: emptyHistory })
  })
  it('makes edits, takes them back and makes them again', () => {
    bench().commit(addStep(document(), 'exposure', 'a'))
    bench().commit(addStep(document(), 'levels', 'b'))
    bench().undo()
    expect(document().steps.map((step) => step.id)).toEqual(['a'])
    bench().redo()
    expect(document().steps.map((step) => step.id)).toEqual(['a', 'b'])
    bench().redo()
    expect(bench().history.cursor).toBe(2)
  })
  it('does nothing for an edit that changes nothing', () => {
    const before = bench().history
    bench().commit(removeSteps(document(), new Set(['gone'])))
    expect(bench().history).toBe(before)
  })
  it('turns a drag into one edit, however often its draft moved', () => {
    bench().commit(addStep(document(), 'exposure', 'a'))
    for (const exposureEv of [0.1, 0.2, 0.3]) bench().setDraft({ stepId: 'a', edit: { settings: { exposureEv, shoulderPercent: 0 } } })
    expect(document().steps[0]?.settings).toMatchObject({ exposureEv: 0 })
    bench().commitDraft({ stepId: 'a', edit: { settings: { exposureEv: 0.3, shoulderPercent: 0 } } })
    expect(document().steps[0]?.settings).toMatchObject({ exposureEv: 0.3 })
    expect(bench()).toMatchObject({ draft: null, history: { cursor: 2 } })
  })
  it('drops a draft that came back to where it began', () => {
    bench().commit(addStep(document(), 'exposure', 'a'))
    bench().setDraft({ stepId: 'a', edit: { strengthPercent: 50 } })
    bench().commitDraft({ stepId: 'a', edit: { strengthPercent: 100 } })
    expect(bench()).toMatchObject({ draft: null, history: { cursor: 1 } })
  })
  it('selects another bead when an undo takes the selected one away', () => {
    bench().commit(addStep(document(), 'exposure', 'a'))
    bench().commit(addStep(document(), 'levels', 'b'))
    bench().set({ selectedId: 'b' })
    bench().undo()
    expect(bench().selectedId).toBe('a')
    bench().undo()
    expect(bench().selectedId).toBeNull()
  })
  it('keeps the selection over a reload if the bead is still there', () => {
    bench().commit(addStep(document(), 'exposure', 'a'))
    bench().commit(addStep(document(), 'levels', 'b'))
    bench().set({ selectedId: 'a' })
    const { changes, cursor } = bench().history
    bench().load({
      base: null,
      folded: 0,
      changes: JSON.parse(JSON.stringify(changes)),
      cursor,
      samplePath: null,
      samples: [],
      macroId: 'm',
      picture: null,
    })
    expect(bench()).toMatchObject({ selectedId: 'a', sample: null, macroId: 'm', picture: null })
    bench().load({ base: null, folded: 0, changes, cursor: 0, samplePath: null, samples: [], macroId: null, picture: null })
    expect(bench().selectedId).toBeNull()
  })
  it('undoes the start of a recording like everything else', () => {
    bench().commit(startRecording(document(), 'Mine'))
    expect(document().recording).toBe('Mine')
    bench().undo()
    expect(document().recording).toBeNull()
  })
})

describe('a draft', () => {
  beforeEach(() => void vi.useFakeTimers())
  afterEach(() => void vi.useRealTimers())
  const draft = (exposureEv: number) => ({ stepId: 'a', edit: { settings: { exposureEv } } })

  it('is told to the page at once when a control is taken and let go, and a few times a second while its slider shows itself', () => {
    bench().setDraft(draft(0.1), true)
    expect(bench().pageDraft).toEqual(draft(0.1))
    for (let i = 2; i <= 5; i++) bench().setDraft(draft(i / 10), true)
    expect(bench()).toMatchObject({ draft: draft(0.5), pageDraft: draft(0.1) })
    vi.advanceTimersByTime(100)
    expect(bench().pageDraft).toEqual(draft(0.5))
    bench().setDraft(draft(0.6), true)
    bench().commitDraft(draft(0.6))
    expect(bench()).toMatchObject({ draft: null, pageDraft: null })
    vi.advanceTimersByTime(100)
    expect(bench().pageDraft).toBeNull()
  })
  it('of a handle that the page draws is told with every move', () => {
    bench().setDraft(draft(0.1))
    bench().setDraft(draft(0.2))
    expect(bench().pageDraft).toEqual(draft(0.2))
    bench().setDraft(null)
    expect(bench().pageDraft).toBeNull()
  })
})

import { describe, expect, it } from 'vitest'
import { answerSteps, asksForFile, questionsOf, readAnswers } from './open'
import { newStep, type Step } from './step'

const asks = (step: Step, setting: string, question: string): Step => ({ ...step, open: [{ setting, question }] })
const lift = asks(newStep('exposure', 'a', { exposureEv: 0.3 }), 'exposureEv', 'How bright?')
const again = asks(newStep('exposure', 'b', { exposureEv: 1 }), 'exposureEv', 'How bright?')
const line = asks(newStep('stamp-text', 'c', { text: 'Tern Lane' }), 'text', 'Whose line?')
const play = newStep('play-macro', 'p', { macro: { macroId: '', name: 'x', revision: 1, steps: [{ ...line }] } })

describe('open settings', () => {
  it('are asked once each, in order, in macros that are played too; not by steps that are off', () => {
    expect(questionsOf([lift, again, play])).toEqual([
      { question: 'How bright?', operation: 'exposure', setting: 'exposureEv', default: 0.3 },
      { question: 'Whose line?', operation: 'stamp-text', setting: 'text', default: 'Tern Lane' },
    ])
    expect(questionsOf([{ ...lift, enabled: false }])).toEqual([])
  })
  it('take one answer in every place; what is not answered keeps its default', () => {
    const answered = answerSteps([lift, again, play], { 'How bright?': -1 })
    expect(answered.map((step) => step.settings.exposureEv)).toEqual([-1, -1, undefined])
    expect(questionsOf(answered)[1]?.default).toBe('Tern Lane')
    const inner = answerSteps([play], { 'Whose line?': 'Kiln 27' })
    expect(questionsOf(inner)[0]?.default).toBe('Kiln 27')
    expect(answerSteps([lift], {})).toEqual([lift])
  })
  it.each([
    [{ 'How bright?': 9 }, 'a number from -5 to 5'],
    [{ 'How bright?': 'very' }, "can't be answered with very"],
    [{ 'Whose line?': '{nobody}' }, 'a line of text'],
  ])('refuse %j', (answers, sentence) => expect(() => answerSteps([lift, play], answers)).toThrow(sentence))
  it('are read from typed words in the kind they have', () => {
    const toggle = asks(newStep('unsharp-mask', 'u'), 'lightnessOnly', 'Lightness?')
    const questions = questionsOf([lift, toggle, line])
    expect(readAnswers(questions, { 'How bright?': '-0.5', 'Lightness?': 'false', 'Whose line?': '12' })).toEqual({
      'How bright?': -0.5,
      'Lightness?': false,
      'Whose line?': '12',
    })
    expect(() => readAnswers(questions, { Nobody: '1' })).toThrow('Nobody')
  })
  it('may be curves and files too', () => {
    const curve = asks(newStep('curve', 'k'), 'all', 'Which curve?')
    const mark = asks(newStep('stamp-image', 'm'), 'file', 'Whose mark?')
    const questions = questionsOf([curve, mark])
    expect(questions.map(asksForFile)).toEqual([false, true])
    const answers = readAnswers(questions, { 'Which curve?': '0,0 64,50  255,255', 'Whose mark?': 'mark.png' })
    expect(answers).toEqual({
      'Which curve?': [
        [0, 0],
        [64, 50],
        [255, 255],
      ],
      'Whose mark?': 'mark.png',
    })
    expect(answerSteps([curve], answers)[0]?.settings.all).toEqual(answers['Which curve?'])
    for (const wrong of ['0,0', '0,0 9,9,9', 'steep', '255,255 0,0'])
      expect(() => answerSteps([curve], readAnswers(questions, { 'Which curve?': wrong }))).toThrow(/points of a curve/)
    // A path is no kept file: whoever asks has to keep it first.
    expect(() => answerSteps([mark], answers)).toThrow(/a picture file/)
    expect(answerSteps([mark], { 'Whose mark?': `${'a'.repeat(64)}/mark.png` })[0]?.settings.file).toMatch(/mark\.png$/)
  })
})

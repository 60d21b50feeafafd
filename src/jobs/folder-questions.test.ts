import { describe, expect, it } from 'vitest'
import { defaultDelivery } from './delivery'
import { answerFolders, folderQuestions, withFoldersAsTheyAre } from './folder-questions'
import { intakeOf, type Loop, newLoop } from './loop'

const asking = (names: readonly string[] = ['Web']): Loop =>
  newLoop('l', {
    intake: intakeOf('/pictures/monday', { asked: true, more: ['/pictures/always'] }),
    deliveries: names.map((name, i) => ({ ...defaultDelivery(`d${i}`, `/out/${i}`), name, folderAsked: true })),
  })

describe('folders that are asked', () => {
  it('are asked from the one that was picked last; only deliveries among several are named', () => {
    expect(folderQuestions(asking()).map(({ question, default: stands, folder }) => [question, stands, folder])).toEqual([
      ['Which pictures?', '/pictures/monday', 'there'],
      ['Where to?', '/out/0', 'new'],
    ])
    expect(folderQuestions(asking(['Web', 'Print'])).map(({ question }) => question)).toEqual([
      'Which pictures?',
      'Where to: Web?',
      'Where to: Print?',
    ])
    expect(folderQuestions(newLoop('l', { intake: intakeOf('/pictures') }))).toEqual([])
  })

  it('take their answers; what nobody asked, or answered, stays', () => {
    const loop = asking(['Web', 'Print'])
    const answered = answerFolders(loop, { 'Which pictures?': ' /pictures/tuesday ', 'Where to: Print?': '/print', 'Where to?': '/nobody' })
    expect(answered.intake).toEqual({ ...loop.intake, folder: '/pictures/tuesday' })
    expect(answered.deliveries.map(({ folder }) => folder)).toEqual(['/out/0', '/print'])
    expect(answerFolders(loop, {})).toEqual(loop)
    const fixed = withFoldersAsTheyAre(answered)
    expect(folderQuestions(fixed)).toEqual([])
    expect(answerFolders(fixed, { 'Which pictures?': '/elsewhere' })).toEqual(fixed)
  })
})

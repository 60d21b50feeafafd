import { describe, expect, it } from 'vitest'
import { find } from './find'

const all = [
  { name: 'Add Curve', about: 'Bend tones' },
  { name: 'Tone set', about: 'Macro' },
  { name: 'Bench', about: 'Go there', also: 'edit, dark room' },
  { name: 'Darken', about: 'Less light in a room' },
]
const names = (wanted: string): string[] => find(all, wanted).map(({ name }) => name)

describe('finding by words', () => {
  it('wants every word, and puts names first', () => {
    expect(names('tone')).toEqual(['Tone set', 'Add Curve'])
    expect(names('bend curve')).toEqual(['Add Curve'])
    expect(names('nothing')).toEqual([])
  })
  it('finds by what others call it, a whole phrase before its words', () => {
    expect(names('edit')).toEqual(['Bench'])
    expect(names('dark room')).toEqual(['Bench', 'Darken'])
  })
  it('finds what is still being typed', () => {
    expect(names('ton')).toEqual(['Tone set', 'Add Curve'])
    expect(names('edi')).toEqual(['Bench'])
  })
  it('leaves all as it stands where nothing is wanted', () => {
    expect(names(' ')).toEqual(all.map(({ name }) => name))
  })
})

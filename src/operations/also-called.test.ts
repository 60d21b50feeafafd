import { describe, expect, it } from 'vitest'
import { find } from '@/base/find'
import { operations } from '.'
import { alsoCalled } from './also-called'

const findable = operations.map(({ id, name, purpose }) => ({ id, name, about: purpose, also: alsoCalled[id] }))
const words = Object.entries(alsoCalled).flatMap(([id, also]) => also.split(',').map((word) => [word.trim(), id] as const))

describe('what people call operations otherwise', () => {
  it('is told of operations that there are, and of all of them', () => {
    expect(Object.keys(alsoCalled).toSorted()).toEqual(operations.map(({ id }) => id).toSorted())
  })
  it.each(words)('"%s" finds %s first', (word, id) => {
    expect(find(findable, word)[0]?.id).toBe(id)
  })
  it.each(findable.map(({ name, id }) => [name, id] as const))('its own name "%s" finds it first', (name, id) => {
    expect(find(findable, name)[0]?.id).toBe(id)
  })
  it('no word stands with two of them', () => {
    const all = words.map(([word]) => word)
    expect(all.filter((word, i) => all.indexOf(word) !== i)).toEqual([])
  })
})

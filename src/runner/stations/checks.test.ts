import { describe, expect, it } from 'vitest'
import { problemOf, rootsHere } from './checks'
import { SharedFolders } from './folders'
import type { MainSign } from './messages'

const folders = new SharedFolders([{ here: '/mnt/p', there: '/srv/p' }])
const main: MainSign = {
  application: 'a',
  build: 'b',
  version: '1.0',
  roots: [{ path: '/srv/p', sign: 's' }],
  addresses: [],
  secret: 's',
  at: 1e12,
}
const station = { build: 'b', version: '1.0', folders, now: 1e12, freeBytes: 1e9 }

describe('a station and its main machine', () => {
  it('go together', () => expect(problemOf(main, station)).toBeUndefined())
  it.each<[string, Partial<MainSign>, Partial<typeof station>, RegExp]>([
    ['another version', { build: 'x', version: '2.0' }, {}, /main machine has Copper Loop 2\.0, this station 1\.0/],
    ['another build', { build: 'x' }, {}, /built from other code than this one \(x, here b\)/],
    ['no folder', { roots: [] }, {}, /shares no folder/],
    [
      'a folder without a place',
      { roots: [{ path: '/srv/q', sign: 's' }] },
      {},
      /\/srv\/q has no place here\. Say where it is: --root .*=\/srv\/q/,
    ],
    ['a clock a quarter of an hour ahead', {}, { now: 1e12 + 900_000 }, /900 s apart/],
    ['a full disk', {}, { freeBytes: 5e7 }, /Only 50 MB are free/],
  ])('do not with %s', (_, part, own, expected) => expect(problemOf({ ...main, ...part }, { ...station, ...own })).toMatch(expected))
  it('find the same folders by their own names', () =>
    expect(rootsHere([...main.roots, { path: '/srv/q', sign: 't' }], folders)).toEqual([{ path: '/mnt/p', sign: 's' }]))
})

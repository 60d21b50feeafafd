import { describe, expect, it } from 'vitest'
import { problemOfBuild, problemOfClock, problemOfRoots, problemOfSpace, rootsHere } from './checks'
import { SharedFolders } from './folders'

const folders = new SharedFolders([{ here: '/mnt/p', there: '/srv/p' }])
const root = (path: string, sign = 's') => ({ path, real: path, sign })
const roots = [root('/srv/p')]
const [main, station] = [
  { build: 'b', version: '1.0' },
  { build: 'b', version: '1.0' },
]

describe('a station and its main machine', () => {
  it.each<[string, string | undefined]>([
    ['builds', problemOfBuild(main, station)],
    ['folders', problemOfRoots(roots, folders)],
    ['clocks', problemOfClock({ at: 1e12 }, 1e12 - 50_000)],
    ['space', problemOfSpace(1e9)],
  ])('go together by their %s', (_, problem) => expect(problem).toBeUndefined())
  it.each<[string, string | undefined, RegExp]>([
    ['another version', problemOfBuild({ build: 'x', version: '2.0' }, station), /main machine has Copper Loop 2\.0, this station 1\.0/],
    ['another build', problemOfBuild({ ...main, build: 'x' }, station), /built from other code than this one \(x, here b\)/],
    ['no folder', problemOfRoots([], folders), /shares no folder/],
    [
      'a folder without a place',
      problemOfRoots([...roots, root('/srv/q')], folders),
      /\/srv\/q has no place here\. Say where it is: --root .*=\/srv\/q/,
    ],
    ['a clock a quarter of an hour ahead', problemOfClock({ at: 1e12 }, 1e12 + 900_000), /900 s apart/],
    ['a full disk', problemOfSpace(5e7), /Only 50 MB are free/],
  ])('do not with %s', (_, problem, expected) => expect(problem).toMatch(expected))
  it('find the same folders by their own names', () =>
    expect(rootsHere([...roots, root('/srv/q', 't')], folders)).toEqual([{ path: '/mnt/p', sign: 's' }]))
})

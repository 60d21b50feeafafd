import { beforeEach, describe, expect, it } from 'vitest'
import { defaultDelivery } from '@/jobs/delivery'
import { pictureTask } from '../../../tests/picture-task'
import type { Claim, WorkQueue } from '../queue'
import { SharedFolders } from './folders'
import { foldersGone, StationQueue } from './station-queue'

const claim = (folder = '/srv/p'): Claim => ({
  crashes: 0,
  runNumber: 1,
  task: pictureTask({
    sourcePath: `${folder}/a.jpg`,
    targets: [{ resultId: 1, path: '/srv/p/out/a.jpg', delivery: defaultDelivery('d', '/srv/p/out'), replaces: null }],
  }),
})
const done = { state: 'done', milliseconds: 1, delivered: [] } as const

describe('a station’s queue', () => {
  let waiting: Claim[]
  let said: [string, Claim, unknown?][]
  let [areThere, keptProblem, trouble]: [boolean, string | undefined, string | null] = [true, undefined, null]
  let troubles: string[]
  beforeEach(() => {
    waiting = []
    said = []
    troubles = []
    areThere = true
    keptProblem = undefined
    trouble = null
  })
  const inner: WorkQueue = {
    claim: async () => waiting.shift(),
    holds: async () => true,
    finish: async (of, outcome) => void said.push(['finish', of, outcome]),
    giveBack: async (of) => void said.push(['giveBack', of]),
    putBack: async (of) => void said.push(['putBack', of]),
    holdUp: async (of, reason) => void said.push(['holdUp', of, reason]),
    tend: async () => undefined,
    leave: async () => undefined,
  }
  const queue = (): StationQueue =>
    new StationQueue(inner, {
      folders: new SharedFolders([{ here: '/mnt/p', there: '/srv/p' }]),
      kept: {
        ensure: async () => {
          if (keptProblem) throw new Error(keptProblem)
        },
      },
      trouble: () => trouble,
      foldersThere: async () => areThere,
      onTrouble: (words) => troubles.push(words),
    })
  const claimed = async (from: StationQueue): Promise<Claim> => {
    waiting.push(claim())
    const given = await from.claim()
    if (!given) throw new Error('Nothing was to be had')
    return given
  }

  it('gives pictures by this station’s names, and their answers by the main machine’s', async () => {
    const own = queue()
    const given = await claimed(own)
    expect(given.task.sourcePath).toBe('/mnt/p/a.jpg')
    expect(own.counts).toEqual({ busy: 1, done: 0 })
    await own.finish(given, done)
    expect(said).toEqual([['finish', claim(), { ...done, error: undefined, remarks: undefined }]])
    expect(own.counts).toEqual({ busy: 0, done: 1 })
  })
  it('takes nothing while something is wrong', async () => {
    trouble = 'no'
    waiting.push(claim())
    expect(await queue().claim()).toBeUndefined()
    expect(waiting).toHaveLength(1)
  })
  it('puts a picture back whose kept file can’t be had, and says why', async () => {
    keptProblem = 'the main machine is silent'
    waiting.push(claim())
    expect(await queue().claim()).toBeUndefined()
    expect(said).toEqual([['putBack', claim()]])
    expect(troubles).toEqual([expect.stringMatching(/could not be fetched .*the main machine is silent/)])
  })
  it('fails a picture that lies in no shared folder, and goes on with the next', async () => {
    waiting.push(claim('/etc'), claim())
    expect((await queue().claim())?.task.sourcePath).toBe('/mnt/p/a.jpg')
    expect(said).toEqual([
      [
        'finish',
        claim('/etc'),
        expect.objectContaining({ state: 'failed', error: { code: 'outsideRoots', details: { path: '/etc/a.jpg' } } }),
      ],
    ])
  })
  it.each(['finish', 'holdUp'] as const)('with its folder gone, what came of a picture does not count: %s', async (as) => {
    const own = queue()
    const given = await claimed(own)
    areThere = false
    expect(await own.holds(given)).toBe(false)
    if (as === 'finish') await own.finish(given, done)
    else await own.holdUp(given, { code: 'deliveryUnwritable', details: { path: '/mnt/p/out/a.jpg', reason: 'gone' } })
    expect(said).toEqual([['putBack', claim()]])
    expect(troubles).toEqual([foldersGone])
  })
  it('puts all back that is in hand, once', async () => {
    const own = queue()
    const given = await claimed(own)
    await own.putBackAll()
    await own.finish(given, done)
    expect(said.map(([what]) => what)).toEqual(['putBack'])
  })
})

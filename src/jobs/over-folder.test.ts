import { describe, expect, it } from 'vitest'
import { standingNeeds } from './delivery'
import { loopSchema } from './loop'
import { besideFolder, loopOver, type OverFolder, patternOf } from './over-folder'

const job: OverFolder = {
  id: 'one',
  name: 'Small ones',
  folder: '/work/shoot/day 1',
  subfolders: true,
  macros: [],
  need: 'web',
  deliverTo: null,
  namePattern: null,
}

describe('a job over a folder', () => {
  it.each(standingNeeds.map(({ key }) => key))('is a whole loop for the need "%s", beside the pictures', (need) => {
    const loop = loopOver({ ...job, need }, ['/work'])
    expect(loopSchema.validateSync(loop)).toEqual(loop)
    expect(loop.deliveries[0]?.folder).toMatch(/^\/work\/shoot\/day 1-[a-z-]+$/)
    expect(loop.deliveries[0]?.namePattern).toBe(patternOf(need))
  })
  it('delivers where it is told, under the names it is told', () => {
    const [delivery] = loopOver({ ...job, need: 'previews', deliverTo: '/out', namePattern: 'a-{name}' }, []).deliveries
    expect(delivery).toMatchObject({ folder: '/out', namePattern: 'a-{name}', longEdgePx: 1600 })
  })
  it('has no place beside a root, which nothing may be written next to', () => {
    expect(besideFolder('/work/', 'web', ['/work'])).toBe('')
    expect(besideFolder('', 'web', [])).toBe('')
    expect(besideFolder('/work/a/', 'web', ['/work'])).toBe('/work/a-web-set')
  })
})

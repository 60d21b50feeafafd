import { describe, expect, it } from 'vitest'
import type { PreflightView } from '@/contract/answers'
import { defaultDelivery } from '@/jobs/delivery'
import { gatherFor, gatherOf } from '@/jobs/gather'
import { untouched } from '@/jobs/touch-up'
import { describePages, expandWhileWritten, foreseenPages, pageWords } from './foreseen-pages'

const delivery = { ...defaultDelivery('d', '/out'), gather: gatherOf({ columns: 1, rows: 2, fileName: '{loop} {run}' }) }
/** A check as the server tells it, as far as pages look at it: what is wrong comes first. */
const check = (notShown = 0): PreflightView => {
  const picture = (place: number, part: object = {}) => ({
    ...{ place, sourcePath: `/in/${place}.jpg`, relativePath: `a/${place}.jpg`, error: null, touchUp: null },
    targets: [{ deliveryId: 'd', size: { width: 3, height: 2 }, captions: [`no ${place}`] }],
    ...part,
  })
  const pictures = [
    picture(2, { error: { code: 'notAPicture', details: {} } }),
    picture(3),
    picture(1),
    picture(4, { touchUp: { ...untouched, setAside: true } }),
    picture(0),
  ]
  return { pictures, notShown, runNumber: 7 } as unknown as PreflightView
}

describe('pages before a run', () => {
  it('hold what will be delivered, in the order of the run', () => {
    const { pictures, pages } = foreseenPages(check(), 'd', delivery.gather)
    expect(pictures.map(({ sourcePath, captions }) => [sourcePath, captions[0]])).toEqual([
      ['/in/0.jpg', 'no 0'],
      ['/in/1.jpg', 'no 1'],
      ['/in/3.jpg', 'no 3'],
    ])
    expect(pages.map((page) => page.pictures.length)).toEqual([2, 1])
    expect(foreseenPages(undefined, 'd', delivery.gather).pages).toEqual([])
    expect(foreseenPages(check(), 'another', delivery.gather).pages).toEqual([])
  })
  it('are told in a line, with the name of their file', () => {
    expect(describePages(check(), delivery, 'Vases')).toBe('Vases 7.pdf, 2 pages')
    expect(describePages(check(), { ...delivery, gather: { ...gatherFor('set'), format: 'png' } }, 'Vases')).toBe('Vases.pdf, 3 pages')
    expect(describePages(check(900), delivery, 'Vases')).toBe('Vases 7.pdf, more than 2 pages')
    expect(describePages(check(), { ...delivery, gather: null }, 'Vases')).toBeUndefined()
  })
  it('show a line as it stands while it is no line yet', () => {
    const words = pageWords(undefined, 'Vases', 'Sheet', 2, 5)
    expect(expandWhileWritten('{page} of {pages}', words)).toBe('2 of 5')
    expect(expandWhileWritten('{pag', words)).toBe('{pag')
  })
})

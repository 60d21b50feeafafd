import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { type Gather, gatherFor, gatherOf, paperNames, papers } from '@/jobs/gather'
import { type Box, edgeFor, gridOf, type Laid, layPages, paperSize, seenOf } from './layout'

const pictures = (count: number, width = 300, height = 200, folder = ''): Laid[] =>
  Array.from({ length: count }, () => ({ size: { width, height }, folder }))

const right = ({ x, width }: Box): number => x + width
const bottom = ({ y, height }: Box): number => y + height
const lieApart = (a: Box, b: Box): boolean =>
  right(a) <= b.x + 1e-6 || right(b) <= a.x + 1e-6 || bottom(a) <= b.y + 1e-6 || bottom(b) <= a.y + 1e-6

const gathers: fc.Arbitrary<Gather> = fc
  .record({
    kind: fc.constantFrom('sheet' as const, 'set' as const),
    paper: fc.constantFrom(...paperNames.filter((name) => name !== 'picture')),
    lying: fc.boolean(),
    marginMm: fc.double({ min: 0, max: 20, noNaN: true }),
    grid: fc.constantFrom('count' as const, 'size' as const),
    columns: fc.integer({ min: 1, max: 8 }),
    rows: fc.integer({ min: 1, max: 8 }),
    cellMm: fc.double({ min: 5, max: 60, noNaN: true }),
    gapMm: fc.double({ min: 0, max: 4, noNaN: true }),
    fill: fc.boolean(),
    turn: fc.boolean(),
    captions: fc.constantFrom([], ['{name}'], ['{name}', '', '{n}']),
    head: fc.constantFrom('', 'Head'),
    foot: fc.constantFrom('', 'Foot'),
  })
  .map((part) => gatherOf(part))

describe('paper', () => {
  // ISO 216: A(n+1) is A(n) halved across, sides rounded down to millimetres; A0 has a square metre with sides as 1 : √2.
  it('of the A sizes halves from one to the next', () => {
    const sizes = [papers.a3, papers.a4, papers.a5, papers.a6]
    for (const [i, { widthMm, heightMm }] of sizes.entries()) {
      const next = sizes[i + 1]
      if (next) expect([next.widthMm, next.heightMm]).toEqual([Math.floor(heightMm / 2), widthMm])
      expect(heightMm / widthMm).toBeCloseTo(Math.SQRT2, 1)
    }
    expect([papers.a4.widthMm, papers.a4.heightMm]).toEqual([210, 297])
  })
  // ISO 32000-1, 8.3.2.3: the unit of user space is 1/72 inch.
  it('is told in seventy-seconds of an inch, and lies when it should', () => {
    expect(paperSize(gatherOf({ paper: 'letter' }))).toEqual({ width: 612, height: 792 })
    expect(paperSize(gatherOf({ paper: 'eightByTen', lying: true }))).toEqual({ width: 720, height: 576 })
    const { width, height } = paperSize(gatherOf({ paper: 'a4' }))
    expect([width, height].map((side) => Math.round(side * 100) / 100)).toEqual([595.28, 841.89])
  })
})

describe('pictures on pages', () => {
  it('all have a place, once, in their order, within the page and apart from each other', () => {
    fc.assert(
      fc.property(
        gathers,
        fc.array(fc.tuple(fc.integer({ min: 1, max: 9000 }), fc.integer({ min: 1, max: 9000 })), { maxLength: 40 }),
        (gather, sizes) => {
          const laid = sizes.map(([width, height]) => ({ size: { width, height }, folder: '' }))
          const pages = layPages(gather, laid)
          expect(pages.flatMap((page) => page.pictures.map(({ index }) => index))).toEqual(laid.map((_, i) => i))
          for (const page of pages) {
            const seen = page.pictures.map(({ picture, cell }) => seenOf(picture, cell))
            for (const [i, box] of seen.entries()) {
              expect(Math.min(box.x, box.y)).toBeGreaterThanOrEqual(-1e-6)
              expect(right(box)).toBeLessThanOrEqual(page.width + 1e-6)
              for (const other of seen.slice(i + 1)) expect(lieApart(box, other)).toBe(true)
              for (const running of [page.head, page.foot])
                if (running && gather.grid === 'count') expect(lieApart(box, running)).toBe(true)
            }
          }
        },
      ),
    )
  })
  it('keep their shape; they fit their cell, or fill it', () => {
    for (const fill of [false, true]) {
      const [page] = layPages(gatherOf({ fill }), pictures(1, 600, 200))
      const place = page?.pictures[0]
      if (!place) throw new Error('There is no picture')
      expect(place.picture.width / place.picture.height).toBeCloseTo(3, 9)
      const covers = place.picture.width >= place.cell.width - 1e-9 && place.picture.height >= place.cell.height - 1e-9
      expect(covers).toBe(fill)
      const within = place.picture.width <= place.cell.width + 1e-9 && place.picture.height <= place.cell.height + 1e-9
      expect(within).toBe(!fill)
    }
  })
  it('stand on their words, and in the middle where there are none', () => {
    const gapsOf = (captions: string[]): number[] => {
      const place = layPages(gatherOf({ captions }), pictures(1, 600, 200))[0]?.pictures[0]
      return place ? [place.picture.y - place.cell.y, bottom(place.cell) - bottom(place.picture)] : []
    }
    expect(gapsOf(['{name}'])[1]).toBeCloseTo(0, 9)
    const [over = 0, under = 1] = gapsOf([])
    expect(over).toBeCloseTo(under, 9)
  })
  it('are turned where they lie otherwise than their cell, and only then', () => {
    const gather = gatherOf({ columns: 1, rows: 1, turn: true })
    const turned = (width: number, height: number) => layPages(gather, pictures(1, width, height))[0]?.pictures[0]?.turned
    expect([turned(600, 400), turned(400, 600), turned(500, 500)]).toEqual([true, false, false])
  })
  it('go on to the next page when one is full, and with each folder where that is wished for', () => {
    const counts = (gather: Gather, laid: Laid[]): number[] => layPages(gather, laid).map((page) => page.pictures.length)
    const grid = gatherOf({ columns: 2, rows: 3 })
    expect(counts(grid, pictures(13))).toEqual([6, 6, 1])
    const folders = [...pictures(2, 3, 2, 'a'), ...pictures(7, 3, 2, 'b'), ...pictures(1, 3, 2, 'c')]
    expect(counts({ ...grid, breakFolders: true }, folders)).toEqual([2, 6, 1, 1])
    expect(counts(grid, [])).toEqual([])
    expect(counts(gatherFor('set'), pictures(3))).toEqual([1, 1, 1])
    expect(counts(gatherOf({ columns: 100, rows: 100, gapMm: 0 }), pictures(10_000))).toEqual([10_000])
  })
  it('fit as often as there is room for their size', () => {
    // 210 − 2 × 10 mm hold three of 60 mm with gaps of 5; 297 − 2 × 10 hold four.
    const { columns, rows } = gridOf(gatherOf({ grid: 'size', cellMm: 60, gapMm: 5, marginMm: 10, captions: [], foot: '' }))
    expect([columns, rows]).toEqual([3, 4])
    expect(gridOf(gatherOf({ grid: 'size', cellMm: 900 }))).toMatchObject({ columns: 1, rows: 1 })
  })
  it('make their page, where it is to be as large as they are', () => {
    const gather = gatherFor('set')
    const [page] = layPages(gather, pictures(1, 1500, 900))
    expect([page?.width, page?.height]).toEqual([360, 216])
    // A page of a PDF is at most 200 inches long (ISO 32000-1, annex C).
    const [long] = layPages({ ...gather, dpi: 72 }, pictures(1, 20_000, 100))
    expect(long?.width).toBeLessThanOrEqual(14_400)
  })
  it('are asked for at the size of their place', () => {
    expect(edgeFor(gatherOf({ grid: 'size', cellMm: 25.4, dpi: 300 }))).toBe(300)
    expect(edgeFor(gatherOf({ grid: 'size', cellMm: 25.4, dpi: 300, fill: true }))).toBe(600)
    expect(edgeFor(gatherFor('set'))).toBeNull()
  })
})

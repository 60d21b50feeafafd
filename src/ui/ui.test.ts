import { describe, expect, it } from 'vitest'
import { routes } from '@/contract/routes'
import type { Change } from '@/macros/history'
import { newStep } from '@/macros/step'
import { defaultSettings } from '@/operations'
import { type CropSettings, crop, cropRect, dragCrop } from '@/operations/catalogue/crop'
import { urlOf } from './api/client'
import { recordingName, shownSteps } from './bench/store'
import { editBetween } from './bench/sync'
import { itemMarks } from './runs/words'
import { isSingle, shortcutLabel, shortcuts } from './shell/shortcuts'
import { darkPalette, lightPalette, type Palette, paletteVariables } from './theme/tokens'

/** Relative luminance and contrast ratio after WCAG 2.2, as in its definitions of the two terms. */
function luminance(hex: string): number {
  const [r = 0, g = 0, b = 0] = [1, 3, 5].map((at) => {
    const value = Number.parseInt(hex.slice(at, at + 2), 16) / 255
    return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4
  })
  return 0.2126 * r + 0.7152 * g + 0.0722 * b
}
const contrast = (a: string, b: string): number => {
  const [high, low] = [luminance(a), luminance(b)].sort((x, y) => y - x) as [number, number]
  return (high + 0.05) / (low + 0.05)
}

describe.each<[string, Palette]>([
  ['light', lightPalette],
  ['dark', darkPalette],
])('the %s palette', (_, palette) => {
  it.each(['ink', 'quietInk', 'copper', 'verdigris', 'ochre', 'brick'] as const)(
    '%s is readable on paper and panel (WCAG 2.2: 4.5:1)',
    (name) => {
      expect(contrast(palette[name], palette.paper)).toBeGreaterThanOrEqual(4.5)
      expect(contrast(palette[name], palette.panel)).toBeGreaterThanOrEqual(4.5)
    },
  )
  it('has readable buttons and a visible line', () => {
    expect(contrast(palette.onCopper, palette.copper)).toBeGreaterThanOrEqual(4.5)
    expect(contrast(palette.wire, palette.panel)).toBeGreaterThanOrEqual(3)
  })
  it('becomes CSS variables', () =>
    expect(paletteVariables(palette)).toMatchObject({ '--quiet-ink': palette.quietInk, '--on-copper': palette.onCopper }))
})

describe('shortcuts', () => {
  it.each(['Bench', 'Proof'])('have keys of their own: %s', (page) => {
    const keys = Object.values(shortcuts)
      .filter(({ where }) => where === 'Everywhere' || where.includes(page))
      .map((shortcut) => shortcut.keys)
    expect(keys.length).toBeGreaterThan(10)
    expect(new Set(keys).size).toBe(keys.length)
  })
  it('read as people write them', () => {
    expect(shortcutLabel('undo')).toBe('Ctrl/⌘ Z')
    expect(shortcutLabel('redo')).toBe('Ctrl/⌘ Shift Z')
    expect(shortcutLabel('original')).toBe('Space')
  })
})

describe('states in words', () => {
  it('never tell themselves by colour alone', () => {
    const shapes = Object.values(itemMarks).map((mark) => mark.shape)
    const words = Object.values(itemMarks).map((mark) => mark.word)
    expect(new Set(shapes).size).toBe(shapes.length)
    expect(new Set(words).size).toBe(words.length)
  })
})

describe('the bench as it is stored', () => {
  const [a, b, c, d] = ['a', 'b', 'c', 'd'].map((name): Change => ({ type: 'recording', before: null, after: name })) as [
    Change,
    Change,
    Change,
    Change,
  ]
  const before = { changes: [a, b, c], cursor: 3, folded: 0 }
  it.each([
    ['nothing', before, before, undefined],
    ['one more', before, { changes: [a, b, c, d], cursor: 4 }, { from: 3, expectedCursor: 3, added: [d], cursor: 4 }],
    ['an undo', before, { changes: [a, b, c], cursor: 2 }, { from: 3, expectedCursor: 3, added: [], cursor: 2 }],
    ['something new after two undos', before, { changes: [a, d], cursor: 2 }, { from: 1, expectedCursor: 3, added: [d], cursor: 2 }],
  ])('is brought up to date after %s', (_, stored, now, edit) => {
    // Only the same object is the same change: an equal one may have been made anew.
    const current = now === before ? before : { ...now, folded: 0, changes: [...now.changes] }
    expect(editBetween(stored, current)).toEqual(edit)
    // Numbers count the changes that were folded, too.
    const later = edit && { ...edit, from: edit.from + 7, expectedCursor: edit.expectedCursor + 7, cursor: edit.cursor + 7 }
    expect(editBetween({ ...stored, folded: 7 }, now === before ? { ...before, folded: 7 } : { ...current, folded: 7 })).toEqual(later)
  })
})

describe('the bench', () => {
  it('shows a draft in place of the stored settings, and only there', () => {
    const steps = [newStep('exposure', 'a'), newStep('saturation', 'b')].map((step) => ({ ...step, kept: true }))
    const shown = shownSteps({ steps, recording: null }, { stepId: 'b', edit: { settings: { saturationPercent: 40 } } })
    expect(shown[0]).toBe(steps[0])
    expect(shown[1]?.settings).toEqual({ saturationPercent: 40 })
  })
  it('remembers the name of the last recording', () => {
    const recording = (before: string | null, after: string | null): Change => ({ type: 'recording', before, after })
    const changes = [recording(null, 'First'), recording('First', null)]
    expect(recordingName({ document: { steps: [], recording: null }, changes, cursor: 2, folded: 0 })).toBe('First')
    expect(recordingName({ document: { steps: [], recording: 'Now' }, changes, cursor: 2, folded: 0 })).toBe('Now')
    expect(recordingName({ document: { steps: [], recording: null }, changes: [], cursor: 0, folded: 0 })).toBeNull()
  })
})

describe('the crop frame under the pointer', () => {
  const picture = { width: 1200, height: 800 }
  const settings = (part: Partial<CropSettings>): CropSettings => ({ ...defaultSettings(crop.settings), ...part }) as CropSettings
  const square = settings({ ratioWidth: 1, ratioHeight: 1 })

  it('moves by what the pointer moves, and stops at the edges', () => {
    expect(cropRect(dragCrop(square, 'move', picture, { dx: 100, dy: 0 }), picture).x).toBe(300)
    expect(cropRect(dragCrop(square, 'move', picture, { dx: 9000, dy: 0 }), picture).x).toBe(400)
    expect(cropRect(dragCrop(square, 'move', picture, { dx: -9000, dy: 0 }), picture).x).toBe(0)
  })
  it('is sized by a corner while the opposite one stays', () => {
    const smaller = cropRect(dragCrop(square, 'se', picture, { dx: -400, dy: -400 }), picture)
    expect(smaller).toEqual({ x: 200, y: 0, width: 400, height: 400 })
    const other = cropRect(dragCrop(square, 'nw', picture, { dx: 400, dy: 400 }), picture)
    expect([other.x + other.width, other.y + other.height]).toEqual([1000, 800])
  })
  it('cuts margins on the side that is dragged', () => {
    const margins = settings({ shape: 'margins' })
    expect(dragCrop(margins, 'nw', picture, { dx: 120, dy: 80 })).toMatchObject({
      leftPercent: 10,
      topPercent: 10,
      rightPercent: 0,
      bottomPercent: 0,
    })
    expect(dragCrop(margins, 'se', picture, { dx: -60, dy: -1e6 })).toMatchObject({ rightPercent: 5, bottomPercent: 95 })
  })
})

describe('addresses', () => {
  it('encode what goes into them', () => {
    expect(urlOf(routes.thumbnail, { path: '/a b/ø&?.jpg', edge: 160 })).toBe(
      '/api/pictures/thumbnail?path=%2Fa+b%2F%C3%B8%26%3F.jpg&edge=160',
    )
    expect(urlOf(routes.result, { id: 'a/../b', edge: undefined })).toBe('/api/results/a%2F..%2Fb')
  })
})

describe('single keys', () => {
  it.each([
    [{ key: 'r', ctrlKey: false, metaKey: false }, true],
    [{ key: '?', ctrlKey: false, metaKey: false }, true],
    [{ key: 'ü', ctrlKey: false, metaKey: false }, true],
    [{ key: 'z', ctrlKey: true, metaKey: false }, false],
    [{ key: 'k', ctrlKey: false, metaKey: true }, false],
    [{ key: ' ', ctrlKey: false, metaKey: false }, false],
    [{ key: 'Delete', ctrlKey: false, metaKey: false }, false],
    [{ key: 'ArrowLeft', ctrlKey: false, metaKey: false }, false],
  ])('%o: %s', (event, single) => expect(isSingle(event)).toBe(single))
})

import opentype, { type Font } from 'opentype.js'
import type { PathCommand } from '@/operations/support/outline-fill'

/* Words on pages are set in the application's own face; what a face has no sign for is told by a question mark. */

/** The faces in the order in which a sign is looked for. */
export const pageFaces = ['instrument-sans-400', 'instrument-sans-ext-400'] as const

/** Signs that stand in one face. */
export interface Stretch {
  readonly face: number
  readonly text: string
}

const ellipsis = '…'
const unknownSign = '?'

/** Sets lines in faces: which signs stand in which, how wide they are, how they are drawn. */
export class Typesetter {
  private readonly fonts: readonly Font[]

  /** @param faces the faces' files, WOFF, TrueType or OpenType */
  constructor(readonly faces: readonly Uint8Array[]) {
    this.fonts = faces.map((bytes) => opentype.parse(new Uint8Array(bytes).buffer))
  }

  /** A line in stretches of one face each. Signs that need others to be read (marks, joins, directions) are left as they come. */
  stretches(line: string): Stretch[] {
    const found: { face: number; text: string }[] = []
    for (const sign of line.normalize('NFC').replace(/[\p{C}\p{Z}]+/gu, ' ')) {
      const known = this.fonts.findIndex((font) => font.charToGlyphIndex(sign) > 0)
      const { face, text } = known < 0 ? { face: 0, text: unknownSign } : { face: known, text: sign }
      const last = found.at(-1)
      if (last?.face === face) last.text += text
      else found.push({ face, text })
    }
    return found
  }

  /** How wide a line is, in the unit of its size. */
  width(line: string, size: number): number {
    return this.stretches(line).reduce((sum, { face, text }) => sum + (this.fonts[face]?.getAdvanceWidth(text, size) ?? 0), 0)
  }

  /** The line, or as much of it as there is room for, with a sign that it goes on. */
  fitted(line: string, size: number, room: number): string {
    if (this.width(line, size) <= room) return line
    const signs = [...line]
    let [fits, tooMany] = [0, signs.length]
    while (tooMany - fits > 1) {
      const middle = Math.floor((fits + tooMany) / 2)
      if (this.width(signs.slice(0, middle).join('').trimEnd() + ellipsis, size) <= room) fits = middle
      else tooMany = middle
    }
    return fits === 0 ? '' : signs.slice(0, fits).join('').trimEnd() + ellipsis
  }

  /** The line's outlines, its baseline beginning at a point. */
  outlines(line: string, size: number, x: number, baseline: number): PathCommand[] {
    let at = x
    return this.stretches(line).flatMap(({ face, text }) => {
      const font = this.fonts[face]
      const commands = (font?.getPath(text, at, baseline, size).commands ?? []) as PathCommand[]
      at += font?.getAdvanceWidth(text, size) ?? 0
      return commands
    })
  }
}

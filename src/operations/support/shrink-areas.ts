import type { Rect } from '@/base/geometry'
import { present } from '@/base/present'
import { followNeeded } from './colour-follow'
import { blockEdge } from './noise-profile'
import { rectOf, type Span, scaled, unionOfSpans } from './sheets'

/** How blocks are laid, and how often they are looked at. */
export interface Way {
  /** Blocks begin at all multiples of `step`, or staggered at every second one. Every pixel lies in 16, 4 or 2. */
  readonly step: 4 | 2
  readonly isStaggered: boolean
  /** Hard thresholds; then, in a second pass, gains from what the first one left. */
  readonly passes: 1 | 2
  /** The second pass takes blocks together with those most like them (Dabov et al. 2007). */
  readonly isGrouped?: boolean
}

/** How brightness, or colour, is cleaned. */
export interface Shrinking {
  /** Share of the noise that is taken away, 0–1. */
  readonly share: number
  /** Coefficients below this many deviations go. */
  readonly threshold: number
  /** How many reduced copies are cleaned, the picture itself counted. */
  readonly copies: number
  readonly whole: Way
  /** The smallest copy: it costs little, and all that is smooth is decided there. */
  readonly last: Way
  /** Of what a smaller copy has, only what is smooth there too is taken over. */
  readonly takesSmooth?: boolean
}

export interface ShrinkAmounts {
  readonly brightness: Shrinking
  readonly colour: Shrinking
  /** By how much more a block counts in its middle than at its ends, across and down. */
  readonly window: BlockWindow
  /** Whether colour follows brightness, and is cleaned from which size on where it doesn't. */
  readonly colourFollows: 'never' | 'fromHalf' | 'fromWhole'
}

/** `even`: alike everywhere. `rounded`: Kaiser's with β = 2 (Dabov et al. 2007): 0.1 dB in white noise, 0.2 in a camera's. */
export type BlockWindow = 'even' | 'rounded'

/** What of a reduced copy must be there for a tile, along one side. */
interface Needed {
  /** What takes the correction from the next copy, or is the result. */
  readonly corrected: Span
  /** What must come out clean: it is halved for the next copy's correction. */
  readonly clean: Span
  /** What the blocks that reach it lie in. */
  readonly blocks: Span
  /** What must be read: for the blocks here and on all smaller copies. */
  readonly read: Span
}

/** Half the width of what smooths. */
export const smoothReach = 1

/** A block's pixels lie at most this far from one another. */
export const blockReach = blockEdge - 1

/** Blocks lie at the same places whatever tile is asked for. */
const gridOf = ({ step, isStaggered, isGrouped }: Way): number => (isGrouped ? 2 * groups.step : isStaggered ? 2 * step : step)

/**
 * Groups begin at multiples of `step` (two of which are one of a block's), and are looked for so far around: what overlaps is nearly all that is alike
 * (at 15 codes 0.2 dB, and no more within 12 pixels). `most`: the sum of squared differences from which on two blocks have nothing in common.
 */
export const groups = { step: 6, reach: 3, most: 0.4 } as const

const marginOf = ({ passes, isGrouped }: Way): number => (isGrouped ? 2 * (groups.reach + blockReach) + groups.step : passes * blockReach)

/** `level`: 0 for the picture itself. */
export const wayAt = ({ whole, last, copies }: Shrinking, level: number): Way => (level > 0 && level === copies - 1 ? last : whole)

function neededOf(wanted: Span, shrinking: Shrinking, level = 0): readonly Needed[] {
  const way = wayAt(shrinking, level)
  const grid = gridOf(way)
  const margin = marginOf(way)
  const corrected = { from: Math.floor(wanted.from / 2) * 2, to: Math.ceil(wanted.to / 2) * 2 }
  const seen = 1 + (shrinking.takesSmooth ? smoothReach : 0)
  const half = { from: corrected.from / 2 - seen, to: corrected.to / 2 + seen }
  const below = level + 1 < shrinking.copies ? neededOf(half, shrinking, level + 1) : []
  const [next] = below
  const clean = next ? { from: 2 * half.from, to: 2 * half.to } : corrected
  const blocks = { from: Math.floor((clean.from - margin) / grid) * grid, to: Math.ceil((clean.to + margin) / grid) * grid }
  const read = next ? { from: Math.min(blocks.from, 2 * next.read.from), to: Math.max(blocks.to, 2 * next.read.to) } : blocks
  return [{ corrected, clean, blocks, read }, ...below]
}

/** Colour that is left as it is follows nothing. */
export const followsOf = ({ colour, colourFollows }: ShrinkAmounts): ShrinkAmounts['colourFollows'] =>
  colour.share > 0 ? colourFollows : 'never'

/** What of colour must be read at full size. */
function colourRead(wanted: Span, amounts: ShrinkAmounts): Span {
  const { colour } = amounts
  const colourFollows = followsOf(amounts)
  if (colourFollows === 'never') return present(neededOf(wanted, colour)[0]).read
  const { halfRead } = followNeeded(wanted)
  if (colourFollows === 'fromWhole') return present(neededOf(scaled(halfRead, 2), colour)[0]).read
  const [chain] = colour.copies > 1 ? neededOf(halfRead, colour, 1) : []
  return scaled(chain ? unionOfSpans(halfRead, chain.read) : halfRead, 2)
}

/** The farthest that a tile looks, wherever it lies on the grids of its reduced copies. */
export function shrinkReach(amounts: ShrinkAmounts): number {
  const { brightness, colour } = amounts
  const grid = Math.max(...[brightness, colour].flatMap(({ whole, last }) => [gridOf(whole), gridOf(last)]))
  const places = Array.from({ length: grid << Math.max(3, brightness.copies - 1, colour.copies - 1) }, (_, at) => at)
  return Math.max(
    ...places.map((at) => {
      const wanted = { from: at, to: at + 1 }
      const read = unionOfSpans(present(neededOf(wanted, brightness)[0]).read, colourRead(wanted, amounts))
      return Math.max(at - read.from, read.to - at - 1)
    }),
  )
}

export type Areas = Readonly<Record<keyof Needed, Rect>>

export const across = ({ x, width }: Rect): Span => ({ from: x, to: x + width })
export const down = ({ y, height }: Rect): Span => ({ from: y, to: y + height })

/** From a level on, where there are that many copies. */
export function areasOf(tile: Rect, way: Shrinking, from = 0): Areas[] {
  if (from >= way.copies) return []
  const rows = neededOf(down(tile), way, from)
  return neededOf(across(tile), way, from).map((columns, index) => {
    const area = (part: keyof Needed): Rect => rectOf(columns[part], present(rows[index])[part])
    return { corrected: area('corrected'), clean: area('clean'), blocks: area('blocks'), read: area('read') }
  })
}

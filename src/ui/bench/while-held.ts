import { present } from '@/base/present'
import type { RenderLane } from './worker/client'
import type { RenderedView } from './worker/protocol'

/*
 * While a control is held the picture has to follow the pointer: it is drawn as sharply as there is time for, and what is
 * drawn beside it waits a little.
 */

/** What rendering may take where neighbours matter: the picture follows within a tenth of a second, with all that comes before and after. */
const promptMs = 80
/** Shares of the screen's resolution, the first that is quick enough is taken. */
const densities = [1, 0.75, 0.5, 0.36] as const

/** The share of the screen's resolution that a picture is drawn at which takes `wholeMs` at all of it. */
export const densityFor = (wholeMs: number): number =>
  densities.find((density) => wholeMs * density * density <= promptMs) ?? present(densities.at(-1))

/** Of every picture's time, what does not depend on its size. */
const fixedMs = 10

/** A picture that takes this many times longer than expected is slow for a reason, not by chance. */
const surprising = 3

type Taken = Pick<RenderedView, 'size' | 'milliseconds' | 'isQuick'>

/**
 * How long the picture takes at the screen's full resolution. At rest it is drawn so; while a control is held it is judged by what a
 * share of the pixels took: the shortest time counts, since the first of a kind always takes longer. A picture drawn by a palette
 * tells nothing about any other.
 */
export function judgeOfPace(): (before: number, view: Taken, isHeld: boolean) => number {
  let atRest = 1
  return (before, { size, milliseconds, isQuick }, isHeld) => {
    if (isQuick) return before
    const pixels = size.width * size.height
    if (!isHeld) {
      atRest = pixels
      return milliseconds
    }
    const whole = Math.min(milliseconds, fixedMs) + (Math.max(0, milliseconds - fixedMs) * atRest) / pixels
    return whole < before || whole > before * surprising ? whole : before
  }
}

/** Histogram and words follow a picture that is painted already this much later: drawing them takes time that the picture needs. */
const followMs = 120

/**
 * Hands views on: at once, or those that are painted already after a while, the newest of each lane. `giveBack` gets those that a newer
 * one has overtaken: the page never sees them.
 */
export function followers(hand: (lane: RenderLane, view: RenderedView) => void, giveBack: (view: RenderedView) => void) {
  const newest = new Map<RenderLane, RenderedView>()
  let timer: ReturnType<typeof setTimeout> | undefined
  const handOn = (): void => {
    clearTimeout(timer)
    timer = undefined
    for (const [lane, view] of newest) hand(lane, view)
    newest.clear()
  }
  return (lane: RenderLane, view: RenderedView, isPainted: boolean): void => {
    const overtaken = newest.get(lane)
    if (overtaken) giveBack(overtaken)
    newest.set(lane, view)
    if (!isPainted) handOn()
    else timer ??= setTimeout(handOn, followMs)
  }
}

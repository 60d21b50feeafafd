import type { Codes } from '@/pixels/codes'
import { type ColourCloud, cloudOf, distanceTo, likenessTo, type Shift } from '@/pixels/likeness'

/** Renders made on the way; the distance has mostly halved several times before. */
const maxTrials = 5
/** Nearer than this, in stops, nobody sees a difference side by side (common practice). */
const nearEnough = 0.04
/** No picture is moved further, in stops. */
const maxEv = 3

const within = (value: number, reach: number): number => Math.min(reach, Math.max(-reach, value))

/**
 * What a picture needs before its steps so that it comes out among its siblings: tried through the steps, since what counts is the result.
 * @param render the picture as it comes out with this much more light and this cast before its steps
 * @param siblings as they come out
 */
export function likeSiblings(render: (shift: Shift) => Codes, siblings: readonly ColourCloud[]): Shift {
  const none: Shift = { ev: 0, red: 0, blue: 0 }
  const start = cloudOf(render(none))
  const { shift: first, measure } = likenessTo(start, siblings)
  if (first.ev === 0) return { ...first, ev: 0 }
  let shift: Shift = { ...first, ev: within(first.ev, maxEv) }
  let best = { shift: none, left: first.ev }
  let before = { asked: 0, left: first.ev }
  for (let trial = 1; trial < maxTrials; trial++) {
    const left = distanceTo(cloudOf(render(shift)), siblings, measure)
    if (Math.abs(left) < Math.abs(best.left)) best = { shift, left }
    if (Math.abs(left) < nearEnough) break
    // Regula falsi: how much of what was asked for came out the time before, since steps may stretch it or hold it back.
    const came = (before.left - left) / (shift.ev - before.asked)
    before = { asked: shift.ev, left }
    shift = { ...shift, ev: within(shift.ev + left / (came > 0.25 && came < 4 ? came : 1), maxEv) }
  }
  return best.shift
}

import type { Rect, Size } from '@/base/geometry'
import type { Effect } from '@/operations'

type Turn = Extract<Effect, { kind: 'turn' }>

/** Where output pixel (x, y) lies in the picture before: x·(xx, yx) + y·(xy, yy) + (x0, y0). */
export interface TurnMap {
  readonly xx: number
  readonly xy: number
  readonly x0: number
  readonly yx: number
  readonly yy: number
  readonly y0: number
}

/** The inverse of a clockwise turn followed by mirroring, for a picture of size `before`. */
export function turnMap({ degrees, mirrorAcross, mirrorDown }: Turn, before: Size): TurnMap {
  const lies = degrees % 180 === 0
  const [right, bottom] = lies ? [before.width - 1, before.height - 1] : [before.height - 1, before.width - 1]
  // Undo the mirroring: output (x, y) was at (sx·x + ox, sy·y + oy) after the turn.
  const [sx, ox] = mirrorAcross ? [-1, right] : [1, 0]
  const [sy, oy] = mirrorDown ? [-1, bottom] : [1, 0]
  switch (degrees) {
    case 0:
      return { xx: sx, xy: 0, x0: ox, yx: 0, yy: sy, y0: oy }
    case 180:
      return { xx: -sx, xy: 0, x0: right - ox, yx: 0, yy: -sy, y0: bottom - oy }
    // A pixel at (u, v) came from (v, height − 1 − u): the turned picture is as wide as the old one was high.
    case 90:
      return { xx: 0, xy: sy, x0: oy, yx: -sx, yy: 0, y0: right - ox }
    // … and from (width − 1 − v, u) for a turn to the left.
    case 270:
      return { xx: 0, xy: -sy, x0: bottom - oy, yx: sx, yy: 0, y0: ox }
  }
}

/** The rectangle of the picture before that an output rectangle is made of. */
export function sourceRect(map: TurnMap, rect: Rect): Rect {
  const corner = (x: number, y: number): readonly [number, number] => [map.xx * x + map.xy * y + map.x0, map.yx * x + map.yy * y + map.y0]
  const [ax, ay] = corner(rect.x, rect.y)
  const [bx, by] = corner(rect.x + rect.width - 1, rect.y + rect.height - 1)
  return { x: Math.min(ax, bx), y: Math.min(ay, by), width: Math.abs(ax - bx) + 1, height: Math.abs(ay - by) + 1 }
}

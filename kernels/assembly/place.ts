// Functions of a pixel's place in the picture. They take the place of their tile's first pixel, so that tiles fit together.
import { exp2x4 } from './math'

/**
 * A coarse grid spread over the picture by linear interpolation. Pixel (i, j) of the tile lies at grid place
 * ((x + i + ½)·stepX − ½, (y + j + ½)·stepY − ½), held inside the grid. Whole vectors are written: up to three floats behind a row.
 * `ends`: for each column of the grid but the last, the first pixel of the picture that lies beyond its cell (32-bit integers).
 */
export function expandGrid(grid: usize, ends: usize, gridWidth: i32, gridHeight: i32, target: usize, targetStride: i32, width: i32, height: i32, stepX: f32, stepY: f32, x: i32, y: i32): void {
  const lastY = <f32>(gridHeight - 1)
  const steps = f32x4.splat(stepX)
  const half = f32x4.splat(0.5)
  const zero = f32x4.splat(0)
  const highest = f32x4.splat(<f32>(gridWidth - 1))
  const first = f32x4.add(f32x4.splat(<f32>x + 0.5), f32x4(0, 1, 2, 3))
  let firstColumn = max(0, <i32>((<f32>x + 0.5) * stepX - 0.5) - 1)
  while (firstColumn < gridWidth - 1 && load<i32>(ends + (<usize>firstColumn << 2)) <= x) firstColumn++
  for (let j = 0; j < height; j++) {
    const v = Mathf.min(Mathf.max((<f32>(y + j) + 0.5) * stepY - 0.5, 0), lastY)
    const row = <i32>v
    const down = v - <f32>row
    const upper = grid + (<usize>(row * gridWidth) << 2)
    const lower = grid + (<usize>(min(row + 1, gridHeight - 1) * gridWidth) << 2)
    const to = target + (<usize>(j * targetStride) << 2)
    let low = cellValue(upper, lower, firstColumn, down)
    for (let i = 0, column = firstColumn; i < width; column++) {
      const end = column < gridWidth - 1 ? min(width, load<i32>(ends + (<usize>column << 2)) - x) : width
      const next = cellValue(upper, lower, min(column + 1, gridWidth - 1), down)
      const base = f32x4.splat(low)
      const rise = f32x4.splat(next - low)
      const left = f32x4.splat(<f32>column)
      for (; i < end; i += 4) {
        const u = f32x4.sub(f32x4.mul(f32x4.add(first, f32x4.splat(<f32>i)), steps), half)
        const held = f32x4.pmin(f32x4.pmax(u, zero), highest)
        v128.store(to + (<usize>i << 2), f32x4.add(base, f32x4.mul(rise, f32x4.sub(held, left))))
      }
      i = end
      low = next
    }
  }
}

/** A column of the grid between two of its rows. */
// @ts-ignore: decorator
@inline
function cellValue(upper: usize, lower: usize, column: i32, down: f32): f32 {
  const at: usize = <usize>column << 2
  return f32.load(upper + at) + (f32.load(lower + at) - f32.load(upper + at)) * down
}

/**
 * Linear light times 2^(ev · s), s a smooth step of the distance from the centre: 0 up to `inner`, 1 at the corner.
 * parameters: centre x, y in pixels; 1/(half-axes to the corner's ellipse); inner; 1/(1 − inner); ev.
 */
export function radialGain(r: usize, g: usize, b: usize, stride: i32, width: i32, height: i32, x: i32, y: i32, parameters: usize): void {
  const centreX = v128.load32_splat(parameters)
  const perX = v128.load32_splat(parameters, 8)
  const inner = v128.load32_splat(parameters, 16)
  const perSpan = v128.load32_splat(parameters, 20)
  const ev = v128.load32_splat(parameters, 24)
  const one = f32x4.splat(1)
  const zero = f32x4.splat(0)
  for (let j = 0; j < height; j++) {
    const dy = (<f32>(y + j) + 0.5 - f32.load(parameters, 4)) * f32.load(parameters, 12)
    const dy2 = f32x4.splat(dy * dy)
    const row: usize = <usize>(j * stride) << 2
    for (let i = 0; i < width; i += 4) {
      const column = f32x4.add(f32x4.splat(<f32>(x + i)), f32x4(0.5, 1.5, 2.5, 3.5))
      const dx = f32x4.mul(f32x4.sub(column, centreX), perX)
      const distance = f32x4.sqrt(f32x4.add(f32x4.mul(dx, dx), dy2))
      const t = f32x4.pmin(f32x4.pmax(f32x4.mul(f32x4.sub(distance, inner), perSpan), zero), one)
      const s = f32x4.mul(f32x4.mul(t, t), f32x4.sub(f32x4.splat(3), f32x4.add(t, t)))
      const gain = exp2x4(f32x4.mul(ev, s))
      const at = row + (<usize>i << 2)
      v128.store(r + at, f32x4.mul(v128.load(r + at), gain))
      v128.store(g + at, f32x4.mul(v128.load(g + at), gain))
      v128.store(b + at, f32x4.mul(v128.load(b + at), gain))
    }
  }
}

/**
 * Noise of mean 0 and variance 1, one value a pixel, from its place and a seed: four sums of eight mixed bits, near enough to normal.
 * Whole vectors are written.
 */
export function placeGrain(target: usize, stride: i32, width: i32, height: i32, x: i32, y: i32, seed: i32): void {
  // The sum of four bytes has mean 510 and variance 4·(256² − 1)/12.
  const scale = f32x4.splat(1 / Mathf.sqrt(21845))
  const mean = f32x4.splat(510)
  const first = i32x4.splat(0x7feb352d)
  const second = i32x4.splat(i32(0x846ca68b))
  const byte = i32x4.splat(255)
  const onward = i32x4.splat(4 * i32(0x9e3779b1))
  const columns = i32x4.mul(i32x4.add(i32x4.splat(x), i32x4(0, 1, 2, 3)), i32x4.splat(i32(0x9e3779b1)))
  for (let j = 0; j < height; j++) {
    const to = target + (<usize>(j * stride) << 2)
    let place = i32x4.add(columns, i32x4.splat((y + j) * i32(0x85ebca77) + seed))
    for (let i: usize = 0, end: usize = <usize>width << 2; i < end; i += 16) {
      let h = i32x4.mul(v128.xor(place, i32x4.shr_u(place, 16)), first)
      h = i32x4.mul(v128.xor(h, i32x4.shr_u(h, 15)), second)
      h = v128.xor(h, i32x4.shr_u(h, 16))
      const low = i32x4.add(v128.and(h, byte), v128.and(i32x4.shr_u(h, 8), byte))
      const high = i32x4.add(v128.and(i32x4.shr_u(h, 16), byte), i32x4.shr_u(h, 24))
      v128.store(to + i, f32x4.mul(f32x4.sub(f32x4.convert_i32x4_s(i32x4.add(low, high)), mean), scale))
      place = i32x4.add(place, onward)
    }
  }
}

// Neighbourhood functions on one plane. Inputs carry their margin with them: output (0, 0) is centred on
// input (margin, margin), so there are no border cases here. Strides in floats; rows in whole vectors.

/** Convolution of rows with an odd, symmetric kernel: `weights` holds centre, then outwards; `reach` to each side. */
export function convolveRows(source: usize, sourceStride: i32, target: usize, targetStride: i32, width: i32, height: i32, weights: usize, reach: i32): void {
  for (let y = 0; y < height; y++)
    convolveLine(source + (<usize>(y * sourceStride + reach) << 2), 4, target + (<usize>(y * targetStride) << 2), width, weights, reach)
}

/** The same down the columns. */
export function convolveColumns(source: usize, sourceStride: i32, target: usize, targetStride: i32, width: i32, height: i32, weights: usize, reach: i32): void {
  const rowBytes: usize = <usize>sourceStride << 2
  for (let y = 0; y < height; y++)
    convolveLine(source + <usize>(y + reach) * rowBytes, rowBytes, target + (<usize>(y * targetStride) << 2), width, weights, reach)
}

/** A line of sums of what lies `step` bytes apart to both sides. Four vectors at a time share each weight. */
function convolveLine(from: usize, step: usize, to: usize, width: i32, weights: usize, reach: i32): void {
  const end: usize = <usize>width << 2
  const last: usize = <usize>reach << 2
  let i: usize = 0
  for (; i + 64 <= end; i += 64) {
    let up = from + i
    let down = up
    let w = v128.load32_splat(weights)
    let a = f32x4.mul(v128.load(up), w)
    let b = f32x4.mul(v128.load(up, 16), w)
    let c = f32x4.mul(v128.load(up, 32), w)
    let d = f32x4.mul(v128.load(up, 48), w)
    for (let k: usize = 4; k <= last; k += 4) {
      up -= step
      down += step
      w = v128.load32_splat(weights + k)
      a = f32x4.add(a, f32x4.mul(f32x4.add(v128.load(up), v128.load(down)), w))
      b = f32x4.add(b, f32x4.mul(f32x4.add(v128.load(up, 16), v128.load(down, 16)), w))
      c = f32x4.add(c, f32x4.mul(f32x4.add(v128.load(up, 32), v128.load(down, 32)), w))
      d = f32x4.add(d, f32x4.mul(f32x4.add(v128.load(up, 48), v128.load(down, 48)), w))
    }
    v128.store(to + i, a)
    v128.store(to + i, b, 16)
    v128.store(to + i, c, 32)
    v128.store(to + i, d, 48)
  }
  for (; i < end; i += 16) {
    let up = from + i
    let down = up
    let sum = f32x4.mul(v128.load(up), v128.load32_splat(weights))
    for (let k: usize = 4; k <= last; k += 4) {
      up -= step
      down += step
      sum = f32x4.add(sum, f32x4.mul(f32x4.add(v128.load(up), v128.load(down)), v128.load32_splat(weights + k)))
    }
    v128.store(to + i, sum)
  }
}

/** Smallest (`largest` = 0) or largest value of a row window of 2·reach + 1. */
export function windowRows(source: usize, sourceStride: i32, target: usize, targetStride: i32, width: i32, height: i32, reach: i32, largest: i32): void {
  for (let y = 0; y < height; y++)
    windowLine(source + (<usize>(y * sourceStride) << 2), 4, target + (<usize>(y * targetStride) << 2), width, 2 * reach, largest)
}

/** The same down the columns. */
export function windowColumns(source: usize, sourceStride: i32, target: usize, targetStride: i32, width: i32, height: i32, reach: i32, largest: i32): void {
  const rowBytes: usize = <usize>sourceStride << 2
  for (let y = 0; y < height; y++)
    windowLine(source + <usize>y * rowBytes, rowBytes, target + (<usize>(y * targetStride) << 2), width, 2 * reach, largest)
}

/** A line of the smallest or largest of each value and the `more` behind it, `step` bytes apart. Two vectors at a time share a loop. */
function windowLine(from: usize, step: usize, to: usize, width: i32, more: i32, largest: i32): void {
  const end: usize = <usize>width << 2
  let i: usize = 0
  for (; i + 32 <= end; i += 32) {
    let at = from + i
    let best = v128.load(at)
    let next = v128.load(at, 16)
    if (largest)
      for (let k = 0; k < more; k++) {
        at += step
        best = f32x4.pmax(best, v128.load(at))
        next = f32x4.pmax(next, v128.load(at, 16))
      }
    else
      for (let k = 0; k < more; k++) {
        at += step
        best = f32x4.pmin(best, v128.load(at))
        next = f32x4.pmin(next, v128.load(at, 16))
      }
    v128.store(to + i, best)
    v128.store(to + i, next, 16)
  }
  if (i < end) {
    let at = from + i
    let best = v128.load(at)
    for (let k = 0; k < more; k++) {
      at += step
      best = largest ? f32x4.pmax(best, v128.load(at)) : f32x4.pmin(best, v128.load(at))
    }
    v128.store(to + i, best)
  }
}

/**
 * Unsharp mask of one row: plane + amount · shrink(plane − blurred), held inside lowest − halo … highest + halo.
 * The shrink takes `threshold` off the difference and leaves nothing below it.
 */
export function unsharpRow(plane: usize, blurred: usize, lowest: usize, highest: usize, target: usize, width: i32, amount: f32, threshold: f32, halo: f32): void {
  const gain = f32x4.splat(amount)
  const dead = f32x4.splat(threshold)
  const margin = f32x4.splat(halo)
  const zero = f32x4.splat(0)
  const signBit = i32x4.splat(i32(0x80000000))
  for (let i: usize = 0, end: usize = <usize>width << 2; i < end; i += 16) {
    const value = v128.load(plane + i)
    const difference = f32x4.sub(value, v128.load(blurred + i))
    const shrunk = v128.or(f32x4.pmax(f32x4.sub(f32x4.abs(difference), dead), zero), v128.and(difference, signBit))
    const sharp = f32x4.add(value, f32x4.mul(gain, shrunk))
    const floor = f32x4.sub(v128.load(lowest + i), margin)
    const ceiling = f32x4.add(v128.load(highest + i), margin)
    v128.store(target + i, f32x4.pmin(f32x4.pmax(sharp, floor), ceiling))
  }
}

/**
 * As `unsharpRow`, but what is well above the threshold is taken whole: a difference d becomes d · (1 − (threshold ÷ d)²), and nothing below
 * the threshold (non-negative garrote: Breiman 1995; as a shrink of details Gao 1998).
 */
export function crispRow(plane: usize, blurred: usize, lowest: usize, highest: usize, target: usize, width: i32, amount: f32, threshold: f32, halo: f32): void {
  const gain = f32x4.splat(amount)
  const dead = f32x4.splat(threshold * threshold)
  const margin = f32x4.splat(halo)
  const zero = f32x4.splat(0)
  const least = f32x4.splat(1e-12)
  for (let i: usize = 0, end: usize = <usize>width << 2; i < end; i += 16) {
    const value = v128.load(plane + i)
    const difference = f32x4.sub(value, v128.load(blurred + i))
    const square = f32x4.pmax(f32x4.mul(difference, difference), least)
    const share = f32x4.pmax(f32x4.div(f32x4.sub(square, dead), square), zero)
    const sharp = f32x4.add(value, f32x4.mul(gain, f32x4.mul(difference, share)))
    const floor = f32x4.sub(v128.load(lowest + i), margin)
    const ceiling = f32x4.add(v128.load(highest + i), margin)
    v128.store(target + i, f32x4.pmin(f32x4.pmax(sharp, floor), ceiling))
  }
}

/** Averages of `factor` × `factor` pixels. Output width and height in reduced pixels. */
export function boxReduce(source: usize, sourceStride: i32, target: usize, targetStride: i32, width: i32, height: i32, factor: i32): void {
  const share: f32 = 1 / <f32>(factor * factor)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      let sum: f32 = 0
      for (let j = 0; j < factor; j++) {
        const from = source + ((<usize>((y * factor + j) * sourceStride + x * factor)) << 2)
        for (let i: usize = 0, end: usize = <usize>factor << 2; i < end; i += 4) sum += f32.load(from + i)
      }
      f32.store(target + ((<usize>(y * targetStride + x)) << 2), sum * share)
    }
  }
}

/**
 * Linear interpolation of a reduced plane back to full size. Output pixel (x, y) lies at
 * ((x + offsetX + ½) / factor − ½, …) of the reduced plane; the plane must hold every sample asked for.
 */
export function bilinearExpand(source: usize, sourceStride: i32, target: usize, targetStride: i32, width: i32, height: i32, factor: i32, offsetX: i32, offsetY: i32): void {
  const step: f32 = 1 / <f32>factor
  for (let y = 0; y < height; y++) {
    const sy: f32 = (<f32>(y + offsetY) + 0.5) * step - 0.5
    const y0 = <i32>Mathf.floor(sy)
    const fy: f32 = sy - <f32>y0
    const upper = source + ((<usize>(y0 * sourceStride)) << 2)
    const lower = upper + ((<usize>sourceStride) << 2)
    const to = target + ((<usize>(y * targetStride)) << 2)
    for (let x = 0; x < width; x++) {
      const sx: f32 = (<f32>(x + offsetX) + 0.5) * step - 0.5
      const x0 = <i32>Mathf.floor(sx)
      const fx: f32 = sx - <f32>x0
      const at: usize = <usize>x0 << 2
      const top = f32.load(upper + at) + (f32.load(upper + at, 4) - f32.load(upper + at)) * fx
      const bottom = f32.load(lower + at) + (f32.load(lower + at, 4) - f32.load(lower + at)) * fx
      f32.store(to + ((<usize>x) << 2), top + (bottom - top) * fy)
    }
  }
}

// Planes and planes of half their size.

// @ts-ignore: decorator
@inline
function halved(upper: usize, lower: usize): v128 {
  const left = f32x4.add(v128.load(upper), v128.load(lower))
  const right = f32x4.add(v128.load(upper, 16), v128.load(lower, 16))
  const sum = f32x4.add(v128.shuffle<f32>(left, right, 0, 2, 4, 6), v128.shuffle<f32>(left, right, 1, 3, 5, 7))
  return f32x4.mul(sum, f32x4.splat(0.25))
}

/** Averages of 2 × 2 pixels, `width` × `height` of them. Strides in floats. Up to 3 pixels behind the width are touched. */
export function halvePlane(source: usize, sourceStride: i32, target: usize, targetStride: i32, width: i32, height: i32): void {
  const rowBytes: usize = <usize>sourceStride << 2
  for (let y = 0; y < height; y++) {
    for (let i: usize = 0, end: usize = <usize>width << 2; i < end; i += 16)
      v128.store(target + i, halved(source + 2 * i, source + 2 * i + rowBytes))
    source += 2 * rowBytes
    target += <usize>targetStride << 2
  }
}

/** What a row of a smaller copy has that the averages of two rows of a larger one have not: `width` pixels from here on, and up to 3 more. */
// @ts-ignore: decorator
@inline
function differences(half: usize, upper: usize, rowBytes: usize, line: usize, width: i32): void {
  for (let i: usize = 0, end: usize = <usize>width << 2; i < end; i += 16)
    v128.store(line + i, f32x4.sub(v128.load(half + i), halved(upper + 2 * i, upper + 2 * i + rowBytes)))
}

// @ts-ignore: decorator
@inline
function blend(near: usize, far: usize): v128 {
  return f32x4.add(f32x4.mul(v128.load(near), f32x4.splat(0.75)), f32x4.mul(v128.load(far), f32x4.splat(0.25)))
}

/** Two lines, doubled, on top of a row. */
// @ts-ignore: decorator
@inline
function addDoubled(near: usize, far: usize, base: usize, target: usize, width: i32): void {
  const quarter = f32x4.splat(0.25)
  const highest = f32x4.splat(0.75)
  for (let i: usize = 0, end: usize = <usize>width << 1; i < end; i += 16) {
    const before = blend(near + i - 4, far + i - 4)
    const here = blend(near + i, far + i)
    const behind = blend(near + i + 4, far + i + 4)
    const even = f32x4.add(f32x4.mul(here, highest), f32x4.mul(before, quarter))
    const odd = f32x4.add(f32x4.mul(here, highest), f32x4.mul(behind, quarter))
    v128.store(target + 2 * i, f32x4.add(v128.load(base + 2 * i), v128.shuffle<f32>(even, odd, 0, 4, 1, 5)))
    v128.store(target + 2 * i, f32x4.add(v128.load(base + 2 * i, 16), v128.shuffle<f32>(even, odd, 2, 6, 3, 7)), 16)
  }
}

/**
 * A plane with the low frequencies of a smaller copy: plus what that has that the plane's own averages of 2 × 2 pixels have not,
 * interpolated linearly. `width` × `height` pixels, both even; `target` may be the `base` itself. `half`: the half-size pixel over the
 * first two by two; one more all around is read, and two of the base. Strides in floats; up to 7 pixels behind the width are touched.
 * `scratch`: 1½ floats a column and 24 more.
 */
export function followHalf(half: usize, halfStride: i32, base: usize, baseStride: i32, target: usize, targetStride: i32, width: i32, height: i32, scratch: usize): void {
  const halfBytes: usize = <usize>halfStride << 2
  const baseBytes: usize = <usize>baseStride << 2
  const targetBytes: usize = <usize>targetStride << 2
  const across = (width >> 1) + 2
  const lineBytes: usize = <usize>(across + 6) << 2
  let above = scratch
  let here = above + lineBytes
  let below = here + lineBytes
  // One pixel farther up and to the left.
  half -= halfBytes + 4
  let averaged = base - 2 * baseBytes - 8
  differences(half, averaged, baseBytes, above, across)
  differences(half + halfBytes, averaged + 2 * baseBytes, baseBytes, here, across)
  half += 2 * halfBytes
  averaged += 4 * baseBytes
  for (let y = 0; y < height; y += 2) {
    differences(half, averaged, baseBytes, below, across)
    addDoubled(here + 4, above + 4, base, target, width)
    addDoubled(here + 4, below + 4, base + baseBytes, target + targetBytes, width)
    const free = above
    above = here
    here = below
    below = free
    half += halfBytes
    averaged += 2 * baseBytes
    base += 2 * baseBytes
    target += 2 * targetBytes
  }
}

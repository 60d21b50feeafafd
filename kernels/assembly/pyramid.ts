// Planes and planes of half their size.

/** Means of two by two, of two rows of eight. */
// @ts-ignore: decorator
@inline
export function meansOfFour(upperLeft: v128, lowerLeft: v128, upperRight: v128, lowerRight: v128): v128 {
  const left = f32x4.add(upperLeft, lowerLeft)
  const right = f32x4.add(upperRight, lowerRight)
  return f32x4.mul(f32x4.add(v128.shuffle<f32>(left, right, 0, 2, 4, 6), v128.shuffle<f32>(left, right, 1, 3, 5, 7)), f32x4.splat(0.25))
}

// @ts-ignore: decorator
@inline
function halved(upper: usize, lower: usize): v128 {
  return meansOfFour(v128.load(upper), v128.load(lower), v128.load(upper, 16), v128.load(lower, 16))
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

/**
 * As `halvePlane`, and the variance inside of every 2 × 2 pixels, a plane that lies as the half-size one does: what halving loses.
 * Strides in floats. Up to 3 pixels behind the width are touched.
 */
export function halveAndLose(source: usize, sourceStride: i32, target: usize, lost: usize, targetStride: i32, width: i32, height: i32): void {
  const rowBytes: usize = <usize>sourceStride << 2
  for (let y = 0; y < height; y++) {
    for (let i: usize = 0, end: usize = <usize>width << 2; i < end; i += 16) {
      const upper = source + 2 * i
      const lower = upper + rowBytes
      const a = v128.load(upper)
      const b = v128.load(lower)
      const c = v128.load(upper, 16)
      const d = v128.load(lower, 16)
      const mean = meansOfFour(a, b, c, d)
      v128.store(target + i, mean)
      v128.store(lost + i, f32x4.sub(meansOfFour(f32x4.mul(a, a), f32x4.mul(b, b), f32x4.mul(c, c), f32x4.mul(d, d)), f32x4.mul(mean, mean)))
    }
    source += 2 * rowBytes
    target += <usize>targetStride << 2
    lost += <usize>targetStride << 2
  }
}

/** What a row of a smaller copy has that the averages of two rows of a larger one have not: `width` pixels from here on, and up to 3 more. */
// @ts-ignore: decorator
@inline
function differences(half: usize, upper: usize, rowBytes: usize, line: usize, width: i32): void {
  for (let i: usize = 0, end: usize = <usize>width << 2; i < end; i += 16)
    v128.store(line + i, f32x4.sub(v128.load(half + i), halved(upper + 2 * i, upper + 2 * i + rowBytes)))
}

/** A quarter of the way from one row, or column, of a smaller copy to the next. */
// @ts-ignore: decorator
@inline
function between(here: v128, there: v128): v128 {
  return f32x4.add(f32x4.mul(here, f32x4.splat(0.75)), f32x4.mul(there, f32x4.splat(0.25)))
}

// @ts-ignore: decorator
@inline
function blend(near: usize, far: usize): v128 {
  return between(v128.load(near), v128.load(far))
}

/** One row of a smaller plane, doubled: the even and the odd pixels of eight. */
// @ts-ignore: decorator
@inline
export function evenOf(here: usize, there: usize): v128 {
  return between(blend(here, there), blend(here - 4, there - 4))
}

// @ts-ignore: decorator
@inline
export function oddOf(here: usize, there: usize): v128 {
  return between(blend(here, there), blend(here + 4, there + 4))
}

/** Of eight pixels whose even and odd ones are known: the first four. */
// @ts-ignore: decorator
@inline
export function firstOf(even: v128, odd: v128): v128 {
  return v128.shuffle<f32>(even, odd, 0, 4, 1, 5)
}

// @ts-ignore: decorator
@inline
export function lastOf(even: v128, odd: v128): v128 {
  return v128.shuffle<f32>(even, odd, 2, 6, 3, 7)
}

/** Two lines, doubled, on top of a row. */
// @ts-ignore: decorator
@inline
function addDoubled(near: usize, far: usize, base: usize, target: usize, width: i32): void {
  for (let i: usize = 0, end: usize = <usize>width << 1; i < end; i += 16) {
    const even = evenOf(near + i, far + i)
    const odd = oddOf(near + i, far + i)
    v128.store(target + 2 * i, f32x4.add(v128.load(base + 2 * i), firstOf(even, odd)))
    v128.store(target + 2 * i, f32x4.add(v128.load(base + 2 * i, 16), lastOf(even, odd)), 16)
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

/**
 * A plane of twice the size, interpolated linearly: `width` × `height` pixels, both even. `half`: the pixel over the first two by two; one
 * more all around is read. Strides in floats; up to 7 pixels behind the width are touched.
 */
export function doublePlane(half: usize, halfStride: i32, target: usize, targetStride: i32, width: i32, height: i32): void {
  const halfBytes: usize = <usize>halfStride << 2
  for (let y = 0; y < height; y++) {
    const other: usize = y & 1 ? halfBytes : 0 - halfBytes
    for (let i: usize = 0, end: usize = <usize>width << 1; i < end; i += 16) {
      const even = evenOf(half + i, half + i + other)
      const odd = oddOf(half + i, half + i + other)
      v128.store(target + 2 * i, firstOf(even, odd))
      v128.store(target + 2 * i, lastOf(even, odd), 16)
    }
    if (y & 1) half += halfBytes
    target += <usize>targetStride << 2
  }
}

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

/** target −= the averages of 2 × 2 pixels of the source. */
export function subtractHalved(source: usize, sourceStride: i32, target: usize, targetStride: i32, width: i32, height: i32): void {
  const rowBytes: usize = <usize>sourceStride << 2
  for (let y = 0; y < height; y++) {
    for (let i: usize = 0, end: usize = <usize>width << 2; i < end; i += 16)
      v128.store(target + i, f32x4.sub(v128.load(target + i), halved(source + 2 * i, source + 2 * i + rowBytes)))
    source += 2 * rowBytes
    target += <usize>targetStride << 2
  }
}

// @ts-ignore: decorator
@inline
function blend(near: usize, far: usize): v128 {
  return f32x4.add(f32x4.mul(v128.load(near), f32x4.splat(0.75)), f32x4.mul(v128.load(far), f32x4.splat(0.25)))
}

/**
 * A plane plus one of half the size, interpolated linearly, for `width` × `height` pixels; `target` may be the `base` itself. `source` is
 * the half-size pixel over the first four; those around it are read too. Strides in floats. Up to 7 pixels behind the width are touched.
 */
export function addDoubled(source: usize, sourceStride: i32, base: usize, baseStride: i32, target: usize, targetStride: i32, width: i32, height: i32): void {
  const half: usize = <usize>sourceStride << 2
  const quarter = f32x4.splat(0.25)
  const most = f32x4.splat(0.75)
  for (let y = 0; y < height; y++) {
    const near = source + <usize>(y >> 1) * half
    const far = y & 1 ? near + half : near - half
    let from = base
    let to = target
    for (let i: usize = 0, end: usize = <usize>width << 1; i < end; i += 16) {
      const before = blend(near + i - 4, far + i - 4)
      const here = blend(near + i, far + i)
      const behind = blend(near + i + 4, far + i + 4)
      const even = f32x4.add(f32x4.mul(here, most), f32x4.mul(before, quarter))
      const odd = f32x4.add(f32x4.mul(here, most), f32x4.mul(behind, quarter))
      const first = f32x4.add(v128.load(from), v128.shuffle<f32>(even, odd, 0, 4, 1, 5))
      const second = f32x4.add(v128.load(from, 16), v128.shuffle<f32>(even, odd, 2, 6, 3, 7))
      v128.store(to, first)
      v128.store(to, second, 16)
      from += 32
      to += 32
    }
    base += <usize>baseStride << 2
    target += <usize>targetStride << 2
  }
}

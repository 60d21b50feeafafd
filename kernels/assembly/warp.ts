// Projective resampling with Catmull-Rom's cubic (Mitchell & Netravali 1988, B = 0, C = ½).

// @ts-ignore: decorator
@inline
function weightsAt(t: f32): v128 {
  const t2: f32 = t * t
  const t3: f32 = t2 * t
  const first: f32 = -0.5 * t3 + t2 - 0.5 * t
  const second: f32 = 1.5 * t3 - 2.5 * t2 + 1
  const third: f32 = -1.5 * t3 + 2 * t2 + 0.5 * t
  const fourth: f32 = 0.5 * t3 - 0.5 * t2
  return f32x4.replace_lane(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(first), 1, second), 2, third), 3, fourth)
}

// @ts-ignore: decorator
@inline
function sampleAt(at: usize, rowBytes: usize, across: v128, down: v128): f32 {
  let sum = f32x4.mul(v128.load(at), v128.shuffle<f32>(down, down, 0, 0, 0, 0))
  sum = f32x4.add(sum, f32x4.mul(v128.load(at + rowBytes), v128.shuffle<f32>(down, down, 1, 1, 1, 1)))
  sum = f32x4.add(sum, f32x4.mul(v128.load(at + 2 * rowBytes), v128.shuffle<f32>(down, down, 2, 2, 2, 2)))
  sum = f32x4.add(sum, f32x4.mul(v128.load(at + 3 * rowBytes), v128.shuffle<f32>(down, down, 3, 3, 3, 3)))
  const weighed = f32x4.mul(sum, across)
  const pairs = f32x4.add(weighed, v128.shuffle<f32>(weighed, weighed, 2, 3, 0, 1))
  return f32x4.extract_lane(pairs, 0) + f32x4.extract_lane(pairs, 1)
}

/**
 * One row of a projective picture. Output pixel x + ½, y + ½ lies in the picture before at (u, v) / w with (u, v, w) = m · (x, y, 1);
 * `m`: nine 64-bit floats. Places outside take the nearest edge. The source planes are a window that begins at (left, top) of a picture
 * of `pictureWidth` × `pictureHeight` and holds two pixels around every place asked for.
 */
export function warpRow(r: usize, g: usize, b: usize, stride: i32, left: i32, top: i32, pictureWidth: i32, pictureHeight: i32, targetR: usize, targetG: usize, targetB: usize, width: i32, x: i32, y: i32, m: usize): void {
  const rowBytes: usize = <usize>stride << 2
  const py: f64 = <f64>y + 0.5
  const baseU = load<f64>(m, 8) * py + load<f64>(m, 16)
  const baseV = load<f64>(m, 32) * py + load<f64>(m, 40)
  const baseW = load<f64>(m, 56) * py + load<f64>(m, 64)
  const stepU = load<f64>(m)
  const stepV = load<f64>(m, 24)
  const stepW = load<f64>(m, 48)
  for (let i = 0; i < width; i++) {
    const px: f64 = <f64>(x + i) + 0.5
    const w = baseW + stepW * px
    const u = Math.min(Math.max((baseU + stepU * px) / w - 0.5, 0), <f64>(pictureWidth - 1))
    const v = Math.min(Math.max((baseV + stepV * px) / w - 0.5, 0), <f64>(pictureHeight - 1))
    const column = Math.floor(u)
    const row = Math.floor(v)
    const across = weightsAt(<f32>(u - column))
    const down = weightsAt(<f32>(v - row))
    const offset: usize = <usize>((<i32>row - 1 - top) * stride + (<i32>column - 1 - left)) << 2
    const to: usize = <usize>i << 2
    f32.store(targetR + to, sampleAt(r + offset, rowBytes, across, down))
    f32.store(targetG + to, sampleAt(g + offset, rowBytes, across, down))
    f32.store(targetB + to, sampleAt(b + offset, rowBytes, across, down))
  }
}

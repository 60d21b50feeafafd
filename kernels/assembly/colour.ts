// Changes of colour coordinates on three planes. The matrices come as parameters: the numbers stand
// once, in src/core/colour.
import { cubeRootx4 } from './math'

// @ts-ignore: decorator
@inline
function row(p: usize, offset: usize, x: v128, y: v128, z: v128): v128 {
  const at = p + offset
  return f32x4.add(
    f32x4.add(f32x4.mul(v128.load32_splat(at), x), f32x4.mul(v128.load32_splat(at, 4), y)),
    f32x4.mul(v128.load32_splat(at, 8), z),
  )
}

/** parameters: 9 floats, row-major. */
export function matrix(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const x = v128.load(r + i)
    const y = v128.load(g + i)
    const z = v128.load(b + i)
    v128.store(r + i, row(parameters, 0, x, y, z))
    v128.store(g + i, row(parameters, 12, x, y, z))
    v128.store(b + i, row(parameters, 24, x, y, z))
  }
}

/** Linear RGB → OKLab. parameters: RGB→cone 3×3, then cone root→Lab 3×3 (18 floats). */
export function toOklab(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const x = v128.load(r + i)
    const y = v128.load(g + i)
    const z = v128.load(b + i)
    const l = cubeRootx4(row(parameters, 0, x, y, z))
    const m = cubeRootx4(row(parameters, 12, x, y, z))
    const s = cubeRootx4(row(parameters, 24, x, y, z))
    v128.store(r + i, row(parameters, 36, l, m, s))
    v128.store(g + i, row(parameters, 48, l, m, s))
    v128.store(b + i, row(parameters, 60, l, m, s))
  }
}

/** OKLab → linear RGB. parameters: Lab→cone root 3×3, then cone→RGB 3×3 (18 floats). */
export function fromOklab(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const x = v128.load(r + i)
    const y = v128.load(g + i)
    const z = v128.load(b + i)
    let l = row(parameters, 0, x, y, z)
    let m = row(parameters, 12, x, y, z)
    let s = row(parameters, 24, x, y, z)
    l = f32x4.mul(f32x4.mul(l, l), l)
    m = f32x4.mul(f32x4.mul(m, m), m)
    s = f32x4.mul(f32x4.mul(s, s), s)
    v128.store(r + i, row(parameters, 36, l, m, s))
    v128.store(g + i, row(parameters, 48, l, m, s))
    v128.store(b + i, row(parameters, 60, l, m, s))
  }
}

/** OKLab chroma times a gain: hue and lightness stay. parameters: gain. */
export function chromaGain(l: usize, a: usize, b: usize, count: i32, parameters: usize): void {
  const gain = v128.load32_splat(parameters)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    v128.store(a + i, f32x4.mul(v128.load(a + i), gain))
    v128.store(b + i, f32x4.mul(v128.load(b + i), gain))
  }
}

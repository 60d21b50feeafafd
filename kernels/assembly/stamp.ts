/**
 * Lays a row of a stamp over linear light. `stamp`: four floats a pixel: red, green, blue in linear light times alpha, and alpha.
 * `blend` 0: over (Porter & Duff 1984). 1: multiplied. 2: screen. Formulas of the last two: W3C Compositing and Blending, 10.1.
 */
export function blendStamp(r: usize, g: usize, b: usize, stamp: usize, count: i32, opacity: f32, blend: i32): void {
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 4) {
    const alpha = f32.load(stamp, 12) * opacity
    if (alpha > 0) {
      blendValue(r + i, f32.load(stamp) * opacity, alpha, blend)
      blendValue(g + i, f32.load(stamp, 4) * opacity, alpha, blend)
      blendValue(b + i, f32.load(stamp, 8) * opacity, alpha, blend)
    }
    stamp += 16
  }
}

// @ts-ignore: decorator
@inline
function blendValue(at: usize, colour: f32, alpha: f32, blend: i32): void {
  const ground = f32.load(at)
  const kept = blend == 2 ? ground - ground * colour : ground * (<f32>1 - alpha)
  f32.store(at, kept + (blend == 1 ? ground * colour : colour))
}

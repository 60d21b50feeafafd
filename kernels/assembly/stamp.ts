/** Lays a row of a stamp over linear light. `stamp`: four floats a pixel: red, green, blue in linear light times alpha, and alpha. */
export function blendStamp(r: usize, g: usize, b: usize, stamp: usize, count: i32, opacity: f32): void {
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 4) {
    const alpha = f32.load(stamp, 12) * opacity
    if (alpha > 0) {
      const rest: f32 = <f32>1 - alpha
      f32.store(r + i, f32.load(r + i) * rest + f32.load(stamp) * opacity)
      f32.store(g + i, f32.load(g + i) * rest + f32.load(stamp, 4) * opacity)
      f32.store(b + i, f32.load(b + i) * rest + f32.load(stamp, 8) * opacity)
    }
    stamp += 16
  }
}

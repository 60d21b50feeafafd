/** Four vectors, rows and columns exchanged, to `target` and three places so many bytes behind it. */
// @ts-ignore: decorator
@inline
export function storeTurned(a: v128, b: v128, c: v128, d: v128, target: usize, second: usize, third: usize, fourth: usize): void {
  const lowAb = v128.shuffle<f32>(a, b, 0, 4, 1, 5)
  const highAb = v128.shuffle<f32>(a, b, 2, 6, 3, 7)
  const lowCd = v128.shuffle<f32>(c, d, 0, 4, 1, 5)
  const highCd = v128.shuffle<f32>(c, d, 2, 6, 3, 7)
  v128.store(target, v128.shuffle<f32>(lowAb, lowCd, 0, 1, 4, 5))
  v128.store(target + second, v128.shuffle<f32>(lowAb, lowCd, 2, 3, 6, 7))
  v128.store(target + third, v128.shuffle<f32>(highAb, highCd, 0, 1, 4, 5))
  v128.store(target + fourth, v128.shuffle<f32>(highAb, highCd, 2, 3, 6, 7))
}

/** The same, to places that lie `step` bytes apart. */
// @ts-ignore: decorator
@inline
export function putTurned(to: usize, step: usize, a: v128, b: v128, c: v128, d: v128): void {
  storeTurned(a, b, c, d, to, step, 2 * step, 3 * step)
}

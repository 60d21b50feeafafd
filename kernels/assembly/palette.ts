// Pictures in a palette of their own: for what must be drawn while a hand moves.

/** The level of four values, 0 … `levels` − 1. */
// @ts-ignore: decorator
@inline
function levelOf(value: v128, low: v128, scale: v128, threshold: v128, last: v128): v128 {
  const place = f32x4.add(f32x4.mul(f32x4.sub(value, low), scale), threshold)
  return i32x4.trunc_sat_f32x4_s(f32x4.pmin(f32x4.pmax(place, f32x4.splat(0)), last))
}

/**
 * The number of each pixel's colour in a palette that grows on the way: `count` 16-bit numbers from three planes. A channel has `levels`,
 * `scale` of them in 1, the first at `low`; what lies between two is drawn as both, by four thresholds that repeat along the row.
 * `numbers`: a 16-bit number for each of levels³ cells, 0 for none yet, else 1 more than the colour's; `cells`: the cell of each colour
 * (red, green, blue, the last running fastest), `known` of them there already. Returns how many are known now, or −1 where more than `highest`
 * would be.
 */
export function indexColours(r: usize, g: usize, b: usize, count: i32, thresholds: usize, levels: i32, low: f32, scale: f32, numbers: usize, cells: usize, known: i32, highest: i32, target: usize): i32 {
  const threshold = v128.load(thresholds)
  const first = f32x4.splat(low)
  const by = f32x4.splat(scale)
  const last = f32x4.splat(<f32>(levels - 1))
  const side = i32x4.splat(levels)
  for (let i = 0; i < count; i += 4) {
    const at: usize = <usize>i << 2
    const red = levelOf(v128.load(r + at), first, by, threshold, last)
    const green = levelOf(v128.load(g + at), first, by, threshold, last)
    const blue = levelOf(v128.load(b + at), first, by, threshold, last)
    v128.store(told, i32x4.add(i32x4.mul(i32x4.add(i32x4.mul(red, side), green), side), blue))
    for (let lane = 0, end = min(4, count - i); lane < end; lane++) {
      const cell = load<u32>(told + (<usize>lane << 2))
      const place = numbers + (<usize>cell << 1)
      let number: i32 = load<u16>(place)
      if (number == 0) {
        if (known == highest) return -1
        store<u32>(cells + (<usize>known << 2), cell)
        number = ++known
        store<u16>(place, <u16>number)
      }
      store<u16>(target, <u16>(number - 1))
      target += 2
    }
  }
  return known
}

/** The cells of four pixels. */
const told = memory.data(16, 16)

/** `count` pixels of 32 bits from 16-bit numbers and the colours they stand for. */
export function paintPalette(numbers: usize, count: i32, colours: usize, target: usize): void {
  for (let i = 0; i < count; i += 4) {
    store<u32>(target, load<u32>(colours + (<usize>load<u16>(numbers) << 2)))
    store<u32>(target, load<u32>(colours + (<usize>load<u16>(numbers, 2) << 2)), 4)
    store<u32>(target, load<u32>(colours + (<usize>load<u16>(numbers, 4) << 2)), 8)
    store<u32>(target, load<u32>(colours + (<usize>load<u16>(numbers, 6) << 2)), 12)
    numbers += 8
    target += 16
  }
}

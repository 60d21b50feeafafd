// Functions read from tables with linear interpolation between entries: their shape is up to the caller.

/** A table's first two floats are the slopes below 0 and above 1; 2^11 spans of equal width follow. */
const spans: i32 = 2048
export const tableFloats: i32 = spans + 3

// @ts-ignore: decorator
@inline
function lookUp(value: f32, table: usize): f32 {
  const first = table + 8
  const t = value * <f32>spans
  if (!(t > 0)) return f32.load(first) + value * f32.load(table)
  if (t >= <f32>spans) return f32.load(first, spans << 2) + (value - 1) * f32.load(table, 4)
  const index = <i32>t
  const at = first + (<usize>index << 2)
  const low = f32.load(at)
  return low + (f32.load(at, 4) - low) * (t - <f32>index)
}

// @ts-ignore: decorator
@inline
function curvePlane(plane: usize, end: usize, table: usize): void {
  for (let i: usize = 0; i < end; i += 4) f32.store(plane + i, lookUp(f32.load(plane + i), table))
}

/** Each plane through its own table. parameters: three tables, one behind the other. */
export function curve(r: usize, g: usize, b: usize, count: i32, parameters: usize): void {
  const end: usize = <usize>count << 2
  curvePlane(r, end, parameters)
  curvePlane(g, end, parameters + (tableFloats << 2))
  curvePlane(b, end, parameters + (tableFloats << 3))
}

/** The first plane alone through a table. */
export function curveFirst(l: usize, a: usize, b: usize, count: i32, parameters: usize): void {
  curvePlane(l, <usize>count << 2, parameters)
}

/** All three planes times the table's value at `base`. */
export function gainByTable(l: usize, a: usize, b: usize, base: usize, count: i32, parameters: usize): void {
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 4) {
    const gain = lookUp(f32.load(base + i), parameters)
    f32.store(l + i, f32.load(l + i) * gain)
    f32.store(a + i, f32.load(a + i) * gain)
    f32.store(b + i, f32.load(b + i) * gain)
  }
}

/** Four floats an entry; the hue circle is walked by diamond angle, which needs no arc tangent: 0 at +a, 1 at +b, 2 at −a, 3 at −b. */
const hueEntries: i32 = 1024

/**
 * OKLab by hue. Entry: cosine and sine of the hue's shift times its chroma gain, lightness added for each unit of chroma, unused.
 * parameters: 1025 entries, the last equal to the first.
 */
export function hueTable(l: usize, a: usize, b: usize, count: i32, parameters: usize): void {
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 4) {
    const x = f32.load(a + i)
    const y = f32.load(b + i)
    const sum = Mathf.abs(x) + Mathf.abs(y)
    const t = sum > 0 ? y / sum : 0
    const angle: f32 = x >= 0 ? (y >= 0 ? t : <f32>4 + t) : <f32>2 - t
    const place = angle * <f32>(hueEntries / 4)
    const index = <i32>Mathf.min(place, <f32>hueEntries - 1)
    const share = f32x4.splat(place - <f32>index)
    const at = parameters + (<usize>index << 4)
    const low = v128.load(at)
    const entry = f32x4.add(low, f32x4.mul(f32x4.sub(v128.load(at, 16), low), share))
    const cosine = f32x4.extract_lane(entry, 0)
    const sine = f32x4.extract_lane(entry, 1)
    f32.store(l + i, f32.load(l + i) + f32x4.extract_lane(entry, 2) * Mathf.sqrt(x * x + y * y))
    f32.store(a + i, x * cosine - y * sine)
    f32.store(b + i, x * sine + y * cosine)
  }
}

/**
 * A lightness plane through the curves of a grid of tiles, mixed linearly between the four nearest tile centres (Zuiderveld 1994).
 * `curves`: tilesAcross × tilesDown tables of 256 spans (257 floats) over 0–1; values beyond keep their distance to the end.
 * Pixel (i, j) lies at tile ((x + i + ½)·stepX − ½, …).
 */
export function tileCurves(plane: usize, stride: i32, width: i32, height: i32, curves: usize, tilesAcross: i32, tilesDown: i32, stepX: f32, stepY: f32, x: i32, y: i32): void {
  for (let j = 0; j < height; j++) {
    const v = Mathf.min(Mathf.max((<f32>(y + j) + 0.5) * stepY - 0.5, 0), <f32>(tilesDown - 1))
    const top = <i32>v
    const down = v - <f32>top
    const upper = curves + <usize>(top * tilesAcross) * 1028
    const lower = curves + <usize>(min(top + 1, tilesDown - 1) * tilesAcross) * 1028
    for (let i = 0; i < width; i++) {
      const u = Mathf.min(Mathf.max((<f32>(x + i) + 0.5) * stepX - 0.5, 0), <f32>(tilesAcross - 1))
      const left = <usize>u
      const right: usize = left + 1 < <usize>tilesAcross ? left + 1 : left
      const across = u - <f32>left
      const at = plane + (<usize>(j * stride + i) << 2)
      const value = f32.load(at)
      const held = Mathf.min(Mathf.max(value, 0), 1)
      const t = held * 256
      const index = <usize>Mathf.min(t, 255)
      const share = t - <f32>index
      const place = index << 2
      const high = mapped(upper + left * 1028 + place, share) * (1 - across) + mapped(upper + right * 1028 + place, share) * across
      const low = mapped(lower + left * 1028 + place, share) * (1 - across) + mapped(lower + right * 1028 + place, share) * across
      f32.store(at, high + (low - high) * down + (value - held))
    }
  }
}

// @ts-ignore: decorator
@inline
function mapped(at: usize, share: f32): f32 {
  const low = f32.load(at)
  return low + (f32.load(at, 4) - low) * share
}

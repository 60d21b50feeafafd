// Colour that follows brightness: a regression of colour on brightness around every 8 × 8 pixels, solved on reduced copies (guided
// filter, He, Sun & Tang 2013; at an eighth of the size, after He & Sun 2015), and laid on colour that is cleaned at half size.

// @ts-ignore: decorator
@inline
function evens(left: v128, right: v128): v128 {
  return v128.shuffle<f32>(left, right, 0, 2, 4, 6)
}

// @ts-ignore: decorator
@inline
function odds(left: v128, right: v128): v128 {
  return v128.shuffle<f32>(left, right, 1, 3, 5, 7)
}

/** Averages of 2 × 2 products of two planes, `width` × `height` of them. Strides in floats. Up to 3 pixels behind the width are touched. */
export function meanProducts(first: usize, firstStride: i32, second: usize, secondStride: i32, target: usize, targetStride: i32, width: i32, height: i32): void {
  const firstBytes: usize = <usize>firstStride << 2
  const secondBytes: usize = <usize>secondStride << 2
  for (let y = 0; y < height; y++) {
    for (let i: usize = 0, end: usize = <usize>width << 2; i < end; i += 16) {
      const a = first + 2 * i
      const b = second + 2 * i
      const upperLeft = f32x4.mul(v128.load(a), v128.load(b))
      const lowerLeft = f32x4.mul(v128.load(a + firstBytes), v128.load(b + secondBytes))
      const upperRight = f32x4.mul(v128.load(a, 16), v128.load(b, 16))
      const lowerRight = f32x4.mul(v128.load(a + firstBytes, 16), v128.load(b + secondBytes, 16))
      v128.store(target + i, pairs(upperLeft, lowerLeft, upperRight, lowerRight))
    }
    first += 2 * firstBytes
    second += 2 * secondBytes
    target += <usize>targetStride << 2
  }
}

const near: f32 = 0.75
const far: f32 = 0.25

/** Between two rows, or two columns, of a smaller copy. */
// @ts-ignore: decorator
@inline
function between(here: v128, there: v128): v128 {
  return f32x4.add(f32x4.mul(here, f32x4.splat(near)), f32x4.mul(there, f32x4.splat(far)))
}

// @ts-ignore: decorator
@inline
function rowsBetween(here: usize, there: usize): v128 {
  return between(v128.load(here), v128.load(there))
}

/** Sums of a row pair's two by two: of values, or of squares. */
// @ts-ignore: decorator
@inline
function pairs(upperLeft: v128, lowerLeft: v128, upperRight: v128, lowerRight: v128): v128 {
  const left = f32x4.add(upperLeft, lowerLeft)
  const right = f32x4.add(upperRight, lowerRight)
  return f32x4.mul(f32x4.add(evens(left, right), odds(left, right)), f32x4.splat(0.25))
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
      const mean = pairs(a, b, c, d)
      v128.store(target + i, mean)
      v128.store(lost + i, f32x4.sub(pairs(f32x4.mul(a, a), f32x4.mul(b, b), f32x4.mul(c, c), f32x4.mul(d, d)), f32x4.mul(mean, mean)))
    }
    source += 2 * rowBytes
    target += <usize>targetStride << 2
    lost += <usize>targetStride << 2
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
      v128.store(target + 2 * i, v128.shuffle<f32>(even, odd, 0, 4, 1, 5))
      v128.store(target + 2 * i, v128.shuffle<f32>(even, odd, 2, 6, 3, 7), 16)
    }
    if (y & 1) half += halfBytes
    target += <usize>targetStride << 2
  }
}

/** Spans of the factor table over brightness 0 … 1. */
const factorSpans: i32 = 16

/** Squared factors of the noise at four brightnesses. */
// @ts-ignore: decorator
@inline
function squaredFactors(brightness: v128, factors: usize): v128 {
  const place = f32x4.mul(f32x4.pmin(f32x4.pmax(brightness, f32x4.splat(0)), f32x4.splat(1)), f32x4.splat(<f32>factorSpans))
  const whole = f32x4.floor(f32x4.pmin(place, f32x4.splat(<f32>factorSpans - 1)))
  const index = i32x4.trunc_sat_f32x4_s(whole)
  const a = factors + (<usize>i32x4.extract_lane(index, 0) << 2)
  const b = factors + (<usize>i32x4.extract_lane(index, 1) << 2)
  const c = factors + (<usize>i32x4.extract_lane(index, 2) << 2)
  const d = factors + (<usize>i32x4.extract_lane(index, 3) << 2)
  const low = f32x4(f32.load(a), f32.load(b), f32.load(c), f32.load(d))
  const high = f32x4(f32.load(a, 4), f32.load(b, 4), f32.load(c, 4), f32.load(d, 4))
  const factor = f32x4.add(low, f32x4.mul(f32x4.sub(high, low), f32x4.sub(place, whole)))
  return f32x4.mul(factor, factor)
}

/**
 * From smoothed moments of brightness and one colour difference at half size to what is laid together at full size: how much of the cleaned
 * colour, of brightness, of a constant and of the fine colour. In `moments`, `planeBytes` apart: means of brightness, of its square, of
 * colour, of their product, of colour's square, of the variance that halving lost, and of clean colour; the four results take their places in `target`.
 * `parameters`: variances of the noise (brightness and colour at half size, fine colour), what is added to brightness's variance, how much
 * a misfit counts. `factors`: 17 floats over brightness. `count` is a multiple of 4.
 */
export function solveFollow(moments: usize, target: usize, planeBytes: usize, count: i32, parameters: usize, factors: usize): void {
  const lightNoise = v128.load32_splat(parameters)
  const colourNoise = v128.load32_splat(parameters, 4)
  const fineNoise = v128.load32_splat(parameters, 8)
  const steadier = v128.load32_splat(parameters, 12)
  const misfit = v128.load32_splat(parameters, 16)
  const zero = f32x4.splat(0)
  const one = f32x4.splat(1)
  const least = f32x4.splat(1e-12)
  for (let i: usize = 0, end: usize = <usize>count << 2; i < end; i += 16) {
    const at = moments + i
    const light = v128.load(at)
    const colour = v128.load(at + 2 * planeBytes)
    const strength = squaredFactors(light, factors)
    const noise = f32x4.mul(colourNoise, strength)
    const lightVariance = f32x4.pmax(f32x4.sub(f32x4.sub(v128.load(at + planeBytes), f32x4.mul(light, light)), f32x4.mul(lightNoise, strength)), zero)
    const shared = f32x4.sub(v128.load(at + 3 * planeBytes), f32x4.mul(light, colour))
    const colourVariance = f32x4.sub(v128.load(at + 4 * planeBytes), f32x4.mul(colour, colour))
    const slope = f32x4.div(shared, f32x4.add(lightVariance, f32x4.add(steadier, f32x4.mul(f32x4.mul(lightNoise, strength), f32x4.splat(0.5)))))
    const explained = f32x4.mul(slope, f32x4.sub(f32x4.add(shared, shared), f32x4.mul(slope, lightVariance)))
    const beyond = f32x4.pmax(f32x4.sub(f32x4.sub(colourVariance, explained), noise), zero)
    // Where little brightness stands for much colour, what is wrong with brightness is worse in colour.
    const carried = f32x4.pmax(f32x4.sub(f32x4.mul(f32x4.mul(slope, slope), f32x4.mul(lightNoise, strength)), noise), zero)
    const wrong = f32x4.mul(misfit, f32x4.add(beyond, carried))
    const trust = f32x4.div(noise, f32x4.add(f32x4.add(noise, wrong), least))
    const energy = v128.load(at + 5 * planeBytes)
    const fine = f32x4.div(f32x4.pmax(f32x4.sub(energy, f32x4.mul(fineNoise, strength)), zero), f32x4.add(energy, least))
    const to = target + i
    const others = f32x4.sub(one, trust)
    const follows = f32x4.mul(trust, slope)
    v128.store(to, others)
    v128.store(to + planeBytes, follows)
    v128.store(to + 2 * planeBytes, f32x4.sub(f32x4.mul(trust, v128.load(at + 6 * planeBytes)), f32x4.mul(follows, light)))
    v128.store(to + 3 * planeBytes, f32x4.mul(others, fine))
  }
}

/** One row of a smaller plane, doubled: the even and the odd pixels of eight. */
// @ts-ignore: decorator
@inline
function evenOf(here: usize, there: usize): v128 {
  return between(rowsBetween(here, there), rowsBetween(here - 4, there - 4))
}

// @ts-ignore: decorator
@inline
function oddOf(here: usize, there: usize): v128 {
  return between(rowsBetween(here, there), rowsBetween(here + 4, there + 4))
}

/**
 * At half size: what there is of colour before brightness and fine colour come to it, and the shares of these two: three planes,
 * `targetPlane` bytes apart. `shares`: the pixel of `solveFollow`'s four planes over the first two by two; one more all around is read.
 * `width` × `height` half-size pixels, both even; up to 7 behind the width are touched. Strides in floats.
 */
export function shareHalf(shares: usize, sharesStride: i32, sharesPlane: usize, clean: usize, cleanStride: i32, noisy: usize, noisyStride: i32, target: usize, targetStride: i32, targetPlane: usize, width: i32, height: i32): void {
  const sharesBytes: usize = <usize>sharesStride << 2
  for (let y = 0; y < height; y++) {
    const other: usize = y & 1 ? sharesBytes : 0 - sharesBytes
    for (let i: usize = 0, end: usize = <usize>width << 1; i < end; i += 16) {
      const at = shares + i
      const to = target + 2 * i
      const lightAt = at + sharesPlane
      const constantAt = lightAt + sharesPlane
      const fineAt = constantAt + sharesPlane
      const cleanEven = evenOf(at, at + other)
      const cleanOdd = oddOf(at, at + other)
      const lightEven = evenOf(lightAt, lightAt + other)
      const lightOdd = oddOf(lightAt, lightAt + other)
      const constantEven = evenOf(constantAt, constantAt + other)
      const constantOdd = oddOf(constantAt, constantAt + other)
      const fineEven = evenOf(fineAt, fineAt + other)
      const fineOdd = oddOf(fineAt, fineAt + other)
      for (let part: usize = 0; part < 32; part += 16) {
        const isSecond = part != 0
        const fine = isSecond ? v128.shuffle<f32>(fineEven, fineOdd, 2, 6, 3, 7) : v128.shuffle<f32>(fineEven, fineOdd, 0, 4, 1, 5)
        const constant = isSecond ? v128.shuffle<f32>(constantEven, constantOdd, 2, 6, 3, 7) : v128.shuffle<f32>(constantEven, constantOdd, 0, 4, 1, 5)
        const share = isSecond ? v128.shuffle<f32>(cleanEven, cleanOdd, 2, 6, 3, 7) : v128.shuffle<f32>(cleanEven, cleanOdd, 0, 4, 1, 5)
        const cleaned = f32x4.mul(share, v128.load(clean + 2 * i + part))
        v128.store(to + part, f32x4.sub(f32x4.add(cleaned, constant), f32x4.mul(fine, v128.load(noisy + 2 * i + part))))
        v128.store(to + targetPlane + part, isSecond ? v128.shuffle<f32>(lightEven, lightOdd, 2, 6, 3, 7) : v128.shuffle<f32>(lightEven, lightOdd, 0, 4, 1, 5))
        v128.store(to + 2 * targetPlane + part, fine)
      }
    }
    if (y & 1) shares += sharesBytes
    clean += <usize>cleanStride << 2
    noisy += <usize>noisyStride << 2
    target += <usize>targetStride << 2
  }
}

/**
 * Colour at full size: `shareHalf`'s three planes, doubled; the first plus the second times brightness plus the third times colour as it was.
 * `half`: the half-size pixel over the first two by two; one more all around is read. `width` × `height` pixels, both even; `target` may be
 * the `colour` itself. Strides in floats; up to 7 pixels behind the width are touched.
 */
export function layColour(half: usize, halfStride: i32, halfPlane: usize, light: usize, lightStride: i32, colour: usize, colourStride: i32, target: usize, targetStride: i32, width: i32, height: i32): void {
  const halfBytes: usize = <usize>halfStride << 2
  for (let y = 0; y < height; y++) {
    const other: usize = y & 1 ? halfBytes : 0 - halfBytes
    for (let i: usize = 0, end: usize = <usize>width << 1; i < end; i += 16) {
      const at = half + i
      const lightAt = at + halfPlane
      const fineAt = lightAt + halfPlane
      const even = evenOf(at, at + other)
      const odd = oddOf(at, at + other)
      const lightEven = evenOf(lightAt, lightAt + other)
      const lightOdd = oddOf(lightAt, lightAt + other)
      const fineEven = evenOf(fineAt, fineAt + other)
      const fineOdd = oddOf(fineAt, fineAt + other)
      const l = light + 2 * i
      const c = colour + 2 * i
      const left = f32x4.add(
        v128.shuffle<f32>(even, odd, 0, 4, 1, 5),
        f32x4.add(
          f32x4.mul(v128.shuffle<f32>(lightEven, lightOdd, 0, 4, 1, 5), v128.load(l)),
          f32x4.mul(v128.shuffle<f32>(fineEven, fineOdd, 0, 4, 1, 5), v128.load(c)),
        ),
      )
      const right = f32x4.add(
        v128.shuffle<f32>(even, odd, 2, 6, 3, 7),
        f32x4.add(
          f32x4.mul(v128.shuffle<f32>(lightEven, lightOdd, 2, 6, 3, 7), v128.load(l, 16)),
          f32x4.mul(v128.shuffle<f32>(fineEven, fineOdd, 2, 6, 3, 7), v128.load(c, 16)),
        ),
      )
      v128.store(target + 2 * i, left)
      v128.store(target + 2 * i, right, 16)
    }
    if (y & 1) half += halfBytes
    light += <usize>lightStride << 2
    colour += <usize>colourStride << 2
    target += <usize>targetStride << 2
  }
}

// Colour that follows brightness: a regression of colour on brightness around every 8 × 8 pixels, solved on reduced copies (guided
// filter, He, Sun & Tang 2013; at an eighth of the size, after He & Sun 2015), and laid on colour that is cleaned at half size.
import { evenOf, firstOf, lastOf, meansOfFour, oddOf } from './pyramid'
import { factorSpans } from './shrinkage'

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
      v128.store(target + i, meansOfFour(upperLeft, lowerLeft, upperRight, lowerRight))
    }
    first += 2 * firstBytes
    second += 2 * secondBytes
    target += <usize>targetStride << 2
  }
}

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

/** Four half-size pixels: clean colour and the constant without the fine part's mean, and the shares of brightness and of fine colour. */
// @ts-ignore: decorator
@inline
function shareFour(share: v128, light: v128, constant: v128, fine: v128, clean: usize, noisy: usize, to: usize, plane: usize): void {
  const coarse = f32x4.add(f32x4.mul(share, v128.load(clean)), constant)
  v128.store(to, f32x4.sub(coarse, f32x4.mul(fine, v128.load(noisy))))
  v128.store(to + plane, light)
  v128.store(to + 2 * plane, fine)
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
      const lightAt = at + sharesPlane
      const constantAt = lightAt + sharesPlane
      const fineAt = constantAt + sharesPlane
      const even = evenOf(at, at + other)
      const odd = oddOf(at, at + other)
      const lightEven = evenOf(lightAt, lightAt + other)
      const lightOdd = oddOf(lightAt, lightAt + other)
      const constantEven = evenOf(constantAt, constantAt + other)
      const constantOdd = oddOf(constantAt, constantAt + other)
      const fineEven = evenOf(fineAt, fineAt + other)
      const fineOdd = oddOf(fineAt, fineAt + other)
      const j = 2 * i
      shareFour(firstOf(even, odd), firstOf(lightEven, lightOdd), firstOf(constantEven, constantOdd), firstOf(fineEven, fineOdd), clean + j, noisy + j, target + j, targetPlane)
      shareFour(lastOf(even, odd), lastOf(lightEven, lightOdd), lastOf(constantEven, constantOdd), lastOf(fineEven, fineOdd), clean + j + 16, noisy + j + 16, target + j + 16, targetPlane)
    }
    if (y & 1) shares += sharesBytes
    clean += <usize>cleanStride << 2
    noisy += <usize>noisyStride << 2
    target += <usize>targetStride << 2
  }
}

// @ts-ignore: decorator
@inline
function layFour(coarse: v128, lightShare: v128, fineShare: v128, light: usize, colour: usize, to: usize): void {
  const fine = f32x4.mul(fineShare, v128.load(colour))
  v128.store(to, f32x4.add(coarse, f32x4.add(f32x4.mul(lightShare, v128.load(light)), fine)))
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
      const j = 2 * i
      layFour(firstOf(even, odd), firstOf(lightEven, lightOdd), firstOf(fineEven, fineOdd), light + j, colour + j, target + j)
      layFour(lastOf(even, odd), lastOf(lightEven, lightOdd), lastOf(fineEven, fineOdd), light + j + 16, colour + j + 16, target + j + 16)
    }
    if (y & 1) half += halfBytes
    light += <usize>lightStride << 2
    colour += <usize>colourStride << 2
    target += <usize>targetStride << 2
  }
}

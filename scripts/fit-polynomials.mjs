// Prints the polynomial tables of kernels/assembly/transfer.ts: Chebyshev projections (within a few
// per cent of the minimax polynomial) of the sRGB transfer function, and their errors in 16-bit codes.

/** @param {number} v */
const decode = (v) => ((v + 0.055) / 1.055) ** 2.4
/** @param {number} u */
const encodeFromQuarterRoot = (u) => 1.055 * u ** (4 / 2.4) - 0.055

/**
 * @param {(x: number) => number} f
 * @param {number} from
 * @param {number} to
 * @param {number} degree
 */
function chebyshevFit(f, from, to, degree) {
  const nodes = 4096
  const coefficients = new Array(degree + 1).fill(0)
  for (let k = 0; k < nodes; k++) {
    const t = Math.cos((Math.PI * (k + 0.5)) / nodes)
    const value = f((from + to) / 2 + (t * (to - from)) / 2)
    for (let j = 0; j <= degree; j++) coefficients[j] += (value * Math.cos((j * Math.PI * (k + 0.5)) / nodes) * 2) / nodes
  }
  coefficients[0] = (coefficients[0] ?? 0) / 2
  return toMonomials(coefficients, from, to)
}

/**
 * Σ c_j T_j(t), t = (2x − from − to) / (to − from), as a polynomial in x.
 * @param {number[]} coefficients
 * @param {number} from
 * @param {number} to
 */
function toMonomials(coefficients, from, to) {
  const slope = 2 / (to - from)
  const offset = -(from + to) / (to - from)
  /** @param {number[]} p */
  const timesT = (p) => {
    const out = new Array(p.length + 1).fill(0)
    p.forEach((c, i) => {
      out[i] += c * offset
      out[i + 1] += c * slope
    })
    return out
  }
  /** @type {(a: number[], b: number[], kb: number) => number[]} */
  const add = (a, b, kb) => Array.from({ length: Math.max(a.length, b.length) }, (_, i) => (a[i] ?? 0) + kb * (b[i] ?? 0))
  let [previous, current] = [[1], timesT([1])]
  const [first = 0, second = 0] = coefficients
  let sum = add([first], current, second)
  for (let j = 2; j < coefficients.length; j++) {
    ;[previous, current] = [
      current,
      add(
        timesT(current).map((c) => 2 * c),
        previous,
        -1,
      ),
    ]
    sum = add(sum, current, coefficients[j] ?? 0)
  }
  return sum
}

/**
 * @param {string} name
 * @param {(x: number) => number} f
 * @param {number} from
 * @param {number} to
 * @param {number} degree
 */
function report(name, f, from, to, degree) {
  const table = chebyshevFit(f, from, to, degree).map(Math.fround)
  let worst = 0
  for (let i = 0; i <= 200000; i++) {
    const x = from + ((to - from) * i) / 200000
    const value = table.reduceRight((sum, c) => Math.fround(Math.fround(sum * x) + c), 0)
    worst = Math.max(worst, Math.abs(value - f(x)))
  }
  console.log(`${name}, degree ${degree}, worst ${(worst * 65535).toFixed(3)} of a 16-bit code\n  ${table.join(', ')}`)
}

for (const degree of [6, 7, 8, 9]) report('decode', decode, 0.04045, 1, degree)
for (const degree of [5, 6, 7]) report('encode', encodeFromQuarterRoot, 0.0031308 ** 0.25, 1, degree)

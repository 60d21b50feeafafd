/** A 3×3 matrix in row-major order. */
export type Matrix3 = readonly [number, number, number, number, number, number, number, number, number]
export type Vector3 = readonly [number, number, number]

/** Three numbers as a vector. @param values three of them; what is missing is 0 */
export const vector3 = ([x = 0, y = 0, z = 0]: readonly number[]): Vector3 => [x, y, z]

/** Nine numbers, row by row, as a matrix. @throws RangeError for any other count */
export function matrix3(values: readonly number[]): Matrix3 {
  const [a, b, c, d, e, f, g, h, i] = values
  if (values.length !== 9) throw new RangeError('A matrix has nine numbers')
  return [a, b, c, d, e, f, g, h, i] as Matrix3
}

/** A matrix whose places, row by row, are made one by one. */
export const mapMatrix = (make: (index: number) => number): Matrix3 => matrix3(Array.from({ length: 9 }, (_, i) => make(i)))

export const identity3: Matrix3 = [1, 0, 0, 0, 1, 0, 0, 0, 1]

/** Returns `a · b`: the transform that applies `b` first. */
export function multiply(a: Matrix3, b: Matrix3): Matrix3 {
  const cell = (row: 0 | 3 | 6, column: 0 | 1 | 2): number =>
    a[row] * b[column] + a[(row + 1) as 1 | 4 | 7] * b[(column + 3) as 3 | 4 | 5] + a[(row + 2) as 2 | 5 | 8] * b[(column + 6) as 6 | 7 | 8]
  return [cell(0, 0), cell(0, 1), cell(0, 2), cell(3, 0), cell(3, 1), cell(3, 2), cell(6, 0), cell(6, 1), cell(6, 2)]
}

/** Returns `m · v`. */
export function transform(m: Matrix3, v: Vector3): Vector3 {
  return [m[0] * v[0] + m[1] * v[1] + m[2] * v[2], m[3] * v[0] + m[4] * v[1] + m[5] * v[2], m[6] * v[0] + m[7] * v[1] + m[8] * v[2]]
}

/**
 * Returns the inverse by cofactors.
 * @throws RangeError when the matrix is singular.
 */
export function invert(m: Matrix3): Matrix3 {
  const [a, b, c, d, e, f, g, h, i] = m
  const determinant = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g)
  if (Math.abs(determinant) < 1e-12) throw new RangeError('The matrix has no inverse')
  const k = 1 / determinant
  return [
    (e * i - f * h) * k,
    (c * h - b * i) * k,
    (b * f - c * e) * k,
    (f * g - d * i) * k,
    (a * i - c * g) * k,
    (c * d - a * f) * k,
    (d * h - e * g) * k,
    (b * g - a * h) * k,
    (a * e - b * d) * k,
  ]
}

/** A matrix with `v` on its diagonal. */
export const diagonal = (v: Vector3): Matrix3 => [v[0], 0, 0, 0, v[1], 0, 0, 0, v[2]]

/** The angle between two vectors, as errors of a light are told: 0–180. */
export function degreesBetween(a: Vector3, b: Vector3): number {
  const dot = a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
  return (Math.acos(Math.min(1, dot / Math.hypot(...a) / Math.hypot(...b))) * 180) / Math.PI
}

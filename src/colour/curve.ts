/**
 * A tone reproduction curve as plain data (encoded 0–1 → linear 0–1), as ICC profiles declare them.
 * Source: ICC.1:2022, 10.6 (curveType) and 10.18 (tag type para, functions 0–4).
 */
export type Curve =
  | { readonly kind: 'gamma'; readonly exponent: number }
  | { readonly kind: 'table'; readonly values: readonly number[] }
  | { readonly kind: 'parametric'; readonly type: 0 | 1 | 2 | 3 | 4; readonly parameters: readonly number[] }

/** IEC 61966-2-1 written as ICC function type 3: g, a, b, c, d. */
export const srgbCurve: Curve = { kind: 'parametric', type: 3, parameters: [2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045] }

function evaluateTable(values: readonly number[], x: number): number {
  const position = Math.min(Math.max(x, 0), 1) * (values.length - 1)
  const index = Math.min(Math.floor(position), values.length - 2)
  const low = values[index] ?? 0
  return low + ((values[index + 1] ?? low) - low) * (position - index)
}

function evaluateFormula(type: 0 | 1 | 2 | 3 | 4, p: readonly number[], x: number): number {
  const [g = 1, a = 1, b = 0, c = 0, d = 0, e = 0, f = 0] = p
  switch (type) {
    case 0:
      return x ** g
    case 1:
      return x >= -b / a ? (a * x + b) ** g : 0
    case 2:
      return x >= -b / a ? (a * x + b) ** g + c : c
    case 3:
      return x >= d ? (a * x + b) ** g : c * x
    case 4:
      return x >= d ? (a * x + b) ** g + e : c * x + f
  }
}

/** The linear value of an encoded one, both 0–1. */
export function evaluateCurve(curve: Curve, x: number): number {
  switch (curve.kind) {
    case 'gamma':
      return x ** curve.exponent
    case 'table':
      return evaluateTable(curve.values, x)
    case 'parametric':
      return evaluateFormula(curve.type, curve.parameters, x)
  }
}

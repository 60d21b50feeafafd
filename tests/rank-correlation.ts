/** Rank correlation of two lists (Spearman 1904); of equal values the ranks are equal. */
export function rankCorrelation(a: readonly number[], b: readonly number[]): number {
  const ranks = (values: readonly number[]) => values.map((value) => values.filter((other) => other < value).length)
  const mean = (values: readonly number[]): number => values.reduce((sum, value) => sum + value, 0) / values.length
  const [x, y] = [ranks(a), ranks(b)]
  const [mx, my] = [mean(x), mean(y)]
  const covariance = x.reduce((sum, value, i) => sum + (value - mx) * ((y[i] ?? 0) - my), 0)
  return covariance / Math.sqrt(x.reduce((sum, value) => sum + (value - mx) ** 2, 0) * y.reduce((sum, value) => sum + (value - my) ** 2, 0))
}

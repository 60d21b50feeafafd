/** Spans of a kernel's table over 0–1; see kernels/assembly/tables.ts. */
const tableSpans = 2048

/**
 * A function on 0–1 as the table its kernels read. Above 1 it goes on as steeply as `slopeAbove`, below 0 as `slopeBelow`, so that
 * values beyond the ends are kept where the curve lets them be.
 */
export function curveTable(f: (x: number) => number, { slopeBelow = 0, slopeAbove = 0 } = {}): number[] {
  return [slopeBelow, slopeAbove, ...Array.from({ length: tableSpans + 1 }, (_, i) => f(i / tableSpans))]
}

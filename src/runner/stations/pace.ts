/** Time at work that is looked back on. */
const windowMs = 60_000
/** After this long without work there is no pace. */
const restMs = 10_000

/** Tells how many pictures a minute are done while there are any to do. */
export class Pace {
  /** Counts by the time at work when they were seen. */
  private seen: { readonly workedMs: number; readonly count: number }[] = []
  private workedMs = 0
  private lookedAt: number
  private busyAt = Number.NEGATIVE_INFINITY

  constructor(private readonly steadyNow: () => number = () => performance.now()) {
    this.lookedAt = steadyNow()
  }

  /**
   * @param count pictures done so far: it only rises
   * @returns pictures a minute over the last minute of work, to one decimal
   */
  perMinute(count: number, isBusy: boolean): number {
    const now = this.steadyNow()
    if (now - this.busyAt < restMs || isBusy) this.workedMs += now - this.lookedAt
    if (isBusy || count > (this.seen.at(-1)?.count ?? count)) this.busyAt = now
    this.lookedAt = now
    if (now - this.busyAt >= restMs) this.seen = []
    this.seen.push({ workedMs: this.workedMs, count })
    while (this.seen.length > 2 && this.workedMs - (this.seen[0]?.workedMs ?? 0) > windowMs) this.seen.shift()
    const first = this.seen[0]
    if (!first || this.workedMs === first.workedMs) return 0
    return Math.round(((count - first.count) / (this.workedMs - first.workedMs)) * 60_000 * 10) / 10
  }
}

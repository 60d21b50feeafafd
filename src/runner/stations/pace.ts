const windowMs = 60_000

/** Tells how many a minute are done, from a count that rises. */
export class Pace {
  private readonly seen: { readonly at: number; readonly count: number }[] = []

  constructor(private readonly steadyNow: () => number = () => performance.now()) {}

  /** @returns over the last minute, or since it began if that is less; to one decimal */
  perMinute(count: number): number {
    const now = this.steadyNow()
    this.seen.push({ at: now, count })
    while (this.seen.length > 1 && now - (this.seen[0]?.at ?? now) > windowMs) this.seen.shift()
    const first = this.seen[0]
    if (!first || now === first.at) return 0
    return Math.round(((count - first.count) / (now - first.at)) * windowMs * 10) / 10
  }
}

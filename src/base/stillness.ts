/**
 * Tells for how long a value that somebody else keeps changing has stood still, by this process's own steady clock: what
 * the machine's time of day is set to does not matter.
 */
export class Stillness<Key> {
  private readonly seen = new Map<Key, { value: number; sinceMs: number }>()

  constructor(private readonly steadyNow: () => number = () => performance.now()) {}

  /** Milliseconds since the value of a key was first seen as it is. */
  of(key: Key, value: number): number {
    const now = this.steadyNow()
    const before = this.seen.get(key)
    if (before?.value === value) return now - before.sinceMs
    this.seen.set(key, { value, sinceMs: now })
    return 0
  }

  forget(key: Key): void {
    this.seen.delete(key)
  }

  /** Forgets all keys but these. */
  keepOnly(keys: Iterable<Key>): void {
    const kept = new Set(keys)
    for (const key of this.seen.keys()) if (!kept.has(key)) this.seen.delete(key)
  }
}

/** What a station says of itself: another machine that works on this one's pictures. */
export interface StationState {
  readonly name: string
  readonly cores: number
  /** Pictures worked on at a time. */
  readonly workers: number
  /** Pictures in hand. */
  readonly busy: number
  readonly version: string
  readonly picturesPerMinute: number
  /** Pictures done since it started. */
  readonly done: number
  readonly startedAt: number
  /** What keeps it from working, in words. */
  readonly trouble: string | null
}

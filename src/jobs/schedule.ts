import type { LoopStart } from './loop'

type AtTimes = Extract<LoopStart, { when: 'atTimes' }>

/** Moments of a schedule around a day; clocks that are put forward or back are followed, as `Date` follows them. */
function momentOn({ at, days }: AtTimes, day: Date, offset: number): number | undefined {
  const [hours = 0, minutes = 0] = at.split(':').map(Number)
  const moment = new Date(day.getFullYear(), day.getMonth(), day.getDate() + offset, hours, minutes)
  return days.includes(moment.getDay()) ? moment.getTime() : undefined
}

const week = [0, 1, 2, 3, 4, 5, 6, 7]

/** The next moment after `now` (ms since 1970), by the machine's clock; undefined when no day is chosen. */
export function nextStart(start: AtTimes, now: number): number | undefined {
  return week.map((days) => momentOn(start, new Date(now), days)).find((moment) => moment !== undefined && moment > now)
}

/** The newest moment that is not after `now`. */
export function lastDue(start: AtTimes, now: number): number | undefined {
  return week.map((days) => momentOn(start, new Date(now), -days)).find((moment) => moment !== undefined && moment <= now)
}

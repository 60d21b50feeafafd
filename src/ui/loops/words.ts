import dayjs from 'dayjs'
import type { LoopStart } from '@/jobs/loop'

/** `today 18:30`, `tomorrow 06:00`, `Mon 30 Nov 18:30`. */
export function describeMoment(at: number): string {
  const moment = dayjs(at)
  const days = moment.startOf('day').diff(dayjs().startOf('day'), 'day')
  const day = days === 0 ? 'today' : days === 1 ? 'tomorrow' : moment.format('ddd D MMM')
  return `${day} ${moment.format('HH:mm')}`
}

/** When a loop starts by itself, for its card; nothing where it does not. */
export function describeStart(start: LoopStart, nextAt: number | null | undefined): string | undefined {
  if (start.when === 'arrivals') return 'Starts when pictures come'
  if (start.when === 'atTimes') return nextAt ? `Next: ${describeMoment(nextAt)}` : 'No day is chosen'
  return undefined
}

import { Checkbox, Segmented, TimePicker } from 'antd'
import dayjs from 'dayjs'
import type { ReactNode } from 'react'
import { everyDay, type LoopStart } from '@/jobs/loop'
import { useStarts } from '../api/queries'
import styles from './loops.module.css'
import { describeMoment } from './words'

const ways: { value: LoopStart['when']; label: string }[] = [
  { value: 'byHand', label: 'By hand' },
  { value: 'atTimes', label: 'At a time of day' },
  { value: 'arrivals', label: 'When pictures come' },
]
/** Monday first (ISO 8601). */
const days = [1, 2, 3, 4, 5, 6, 0].map((value) => ({ value, label: dayjs().day(value).format('ddd') }))
const usualTime = '18:30'

/** When the loop runs. */
export function StartPart({ loopId, start, onChange }: { loopId: string; start: LoopStart; onChange(start: LoopStart): void }): ReactNode {
  const { data: starts = [] } = useStarts()
  const standing = starts.find((candidate) => candidate.loopId === loopId)
  const choose = (when: LoopStart['when']): void => onChange(when === 'atTimes' ? { when, at: usualTime, days: everyDay } : { when })
  return (
    <section className={styles.part}>
      <h2>Start</h2>
      <Segmented<LoopStart['when']>
        className={styles.startWays}
        aria-label="When it starts"
        options={ways}
        value={start.when}
        onChange={choose}
      />
      {start.when === 'atTimes' && (
        <div className={styles.times}>
          <TimePicker
            aria-label="Time of day"
            format="HH:mm"
            allowClear={false}
            needConfirm={false}
            value={dayjs(`2000-01-01T${start.at}`)}
            onChange={(time) => time && onChange({ ...start, at: time.format('HH:mm') })}
          />
          <Checkbox.Group
            aria-label="Days"
            options={days}
            value={[...start.days]}
            onChange={(chosen) => onChange({ ...start, days: chosen.map(Number).toSorted() })}
          />
        </div>
      )}
      {start.when !== 'byHand' && (
        <p className={styles.quiet}>
          {start.when === 'arrivals' && 'A few seconds after nothing more comes into the folder. '}
          It takes only what it has not delivered yet, with the defaults of what its macros ask, and only while Copper Loop is running.
          {standing?.nextAt && ` Next: ${describeMoment(standing.nextAt)}.`}
        </p>
      )}
      {standing?.problem && (
        <p className={styles.problem} data-blocks>
          <span aria-hidden="true">✕</span>
          <span>
            <b>Did not start: </b>
            {standing.problem}
          </span>
        </p>
      )}
    </section>
  )
}

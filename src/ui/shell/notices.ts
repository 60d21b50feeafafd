import { create } from 'zustand'
import { persist } from 'zustand/middleware'
import type { RunSummary } from '@/contract/answers'
import { describeEnd } from '@/jobs/run'
import { isHeldUp } from '../runs/news'

interface NoticeState {
  readonly wanted: boolean
  setWanted(wanted: boolean): void
}

/** Whether this browser tells of ended runs through the system's notifications. */
export const useNotices = create<NoticeState>()(
  persist((set) => ({ wanted: false, setWanted: (wanted) => set({ wanted }) }), { name: 'copper-loop-notices' }),
)

/** Asks the system for leave, and remembers the wish. False where it is not given. */
export async function wantNotices(wanted: boolean): Promise<boolean> {
  const given = !wanted || (typeof Notification !== 'undefined' && (await Notification.requestPermission()) === 'granted')
  useNotices.getState().setWanted(wanted && given)
  return given
}

/** Tells of a run that has ended, or was held up by a fault, if that is wanted. */
export function notice(run: RunSummary): void {
  if (!useNotices.getState().wanted || typeof Notification === 'undefined' || Notification.permission !== 'granted') return
  const body = isHeldUp(run) ? `Paused: ${run.reason}` : describeEnd(run)
  const told = new Notification(`Run ${run.number} · ${run.loopName}`, { body, tag: run.id })
  told.onclick = () => {
    window.focus()
    window.location.assign(`/runs/${run.id}`)
  }
}

import { create } from 'zustand'
import { persist } from 'zustand/middleware'

interface SingleKeysState {
  readonly areOn: boolean
  turn(areOn: boolean): void
}

/** Whether keys do something by themselves, without Ctrl or ⌘. Who speaks to a machine, or strikes keys by accident, turns them off (WCAG 2.1.4). */
export const useSingleKeys = create<SingleKeysState>()(
  persist((set) => ({ areOn: true, turn: (areOn) => set({ areOn }) }), { name: 'copper-loop-single-keys' }),
)

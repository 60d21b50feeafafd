import { create } from 'zustand'
import { persist } from 'zustand/middleware'
import { defaultStageGrey } from './tokens'

export type ThemeChoice = 'system' | 'light' | 'dark'

interface ThemeState {
  readonly choice: ThemeChoice
  /** Index into `stageGreys`. */
  readonly stageGrey: number
  choose(choice: ThemeChoice): void
  setStageGrey(index: number): void
}

/** How this browser likes the application to look. */
export const useThemeStore = create<ThemeState>()(
  persist(
    (set) => ({
      choice: 'system',
      stageGrey: defaultStageGrey,
      choose: (choice) => set({ choice }),
      setStageGrey: (stageGrey) => set({ stageGrey }),
    }),
    { name: 'copper-loop-look', skipHydration: true },
  ),
)

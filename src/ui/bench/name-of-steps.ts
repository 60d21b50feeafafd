import { type Step, stepName } from '@/macros/step'

/** What a macro of these steps may be called: the first two, and how many more. */
export function nameOfSteps(steps: readonly Step[]): string {
  const names = steps.filter(({ enabled }) => enabled).map(stepName)
  if (names.length === 0) return 'Resized'
  if (names.length <= 2) return names.join(' and ')
  return `${names.slice(0, 2).join(', ')} and ${names.length - 2} more`
}

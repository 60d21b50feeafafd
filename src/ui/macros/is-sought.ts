import type { ShelfMacro } from '@/contract/answers'
import { stepName } from '@/macros/step'

/** Whether a macro has all the words: in its name, notes, tags, loops or operations. */
export function isSought({ name, notes, tags, usedBy, steps }: ShelfMacro, wanted: string): boolean {
  const text = [name, notes, ...tags, ...usedBy, ...steps.map(stepName)].join(' ').toLowerCase()
  return wanted
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word))
}

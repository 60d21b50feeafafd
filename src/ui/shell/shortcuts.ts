import { useEffect } from 'react'
import { keysOf } from '@/base/schema'
import { useSingleKeys } from './single-keys'

/** Every shortcut of the application. `?` shows this list; none fires while typing. */
export const shortcuts = {
  search: { keys: 'mod+k', what: 'Find and do', where: 'Everywhere' },
  help: { keys: '?', what: 'Show these shortcuts', where: 'Everywhere' },
  undo: { keys: 'mod+z', what: 'Undo', where: 'Bench, Proof' },
  redo: { keys: 'mod+shift+z', what: 'Redo', where: 'Bench, Proof' },
  deliverThis: { keys: 'mod+enter', what: 'Deliver this picture', where: 'Bench, Proof' },
  record: { keys: 'r', what: 'Record, or end the recording', where: 'Bench' },
  addStep: { keys: 'a', what: 'Add a step', where: 'Bench' },
  previousBead: { keys: ',', what: 'Previous bead', where: 'Bench' },
  nextBead: { keys: '.', what: 'Next bead', where: 'Bench' },
  beadEarlier: { keys: '[', what: 'Move the bead one place earlier', where: 'Bench' },
  beadLater: { keys: ']', what: 'Move the bead one place later', where: 'Bench' },
  switchBead: { keys: 'o', what: 'Switch the bead off or on', where: 'Bench' },
  removeBead: { keys: 'delete', what: 'Remove the bead', where: 'Bench' },
  duplicateBead: { keys: 'y', what: 'Duplicate the picked beads', where: 'Bench' },
  testStrip: { keys: 't', what: 'Test strip of the selected step', where: 'Bench' },
  closerTogether: { keys: 'arrowleft', what: 'Test strip: values closer together', where: 'Bench' },
  furtherApart: { keys: 'arrowright', what: 'Test strip: values further apart', where: 'Bench' },
  putDown: { keys: 'escape', what: 'Put a tool down', where: 'Bench' },
  original: { keys: 'space', what: 'Hold to see the original', where: 'Bench, Proof' },
  wipe: { keys: 'w', what: 'Wipe between before and after', where: 'Bench' },
  fit: { keys: 'f', what: 'Fit the picture', where: 'Bench' },
  fullSize: { keys: 'h', what: 'Look at 100 %', where: 'Bench' },
  doubleSize: { keys: 'd', what: 'Look at 200 %', where: 'Bench' },
  clipped: { keys: 'c', what: 'Mark clipped pixels', where: 'Bench' },
  proofNext: { keys: '.', what: 'Next picture', where: 'Proof' },
  proofPrevious: { keys: ',', what: 'Previous picture', where: 'Proof' },
  proofGood: { keys: 'g', what: 'Good, and on to the next', where: 'Proof' },
  proofAside: { keys: 'x', what: 'Set aside, or take it in again', where: 'Proof' },
  proofBrighter: { keys: 'b', what: 'Brighter by a sixth of a stop', where: 'Proof' },
  proofDarker: { keys: 'n', what: 'Darker by a sixth of a stop', where: 'Proof' },
  proofWarmer: { keys: 'w', what: 'Warmer by 5 mired', where: 'Proof' },
  proofCooler: { keys: 'c', what: 'Cooler by 5 mired', where: 'Proof' },
  proofFrameLeft: { keys: 'arrowleft', what: 'Frame to the left', where: 'Proof' },
  proofFrameRight: { keys: 'arrowright', what: 'Frame to the right', where: 'Proof' },
  proofFrameUp: { keys: 'arrowup', what: 'Frame up', where: 'Proof' },
  proofFrameDown: { keys: 'arrowdown', what: 'Frame down', where: 'Proof' },
  proofFrameLarger: { keys: 'l', what: 'Larger frame', where: 'Proof' },
  proofFrameSmaller: { keys: 's', what: 'Smaller frame', where: 'Proof' },
  proofNextMarked: { keys: 'o', what: 'Next that stands out', where: 'Proof' },
  proofLike: { keys: 'k', what: 'Like its neighbours, or the picked ones', where: 'Proof' },
  proofLevel: { keys: 't', what: 'Turn by a tenth of a degree', where: 'Proof' },
  proofLevelBack: { keys: 'shift+t', what: 'Turn back by a tenth of a degree', where: 'Proof' },
  proofStamp: { keys: 'm', what: 'Stamp into the next corner', where: 'Proof' },
  proofTrue: { keys: 'f', what: 'Look at 100 %, and at all of it again', where: 'Proof' },
  proofPick: { keys: 'p', what: 'Pick, or unpick', where: 'Proof' },
  proofGive: { keys: 'h', what: 'Give the picked ones the same', where: 'Proof' },
  proofView: { keys: 'd', what: 'Strip, grid, spread', where: 'Proof' },
  proofAsBefore: { keys: 'v', what: 'As the picture before', where: 'Proof' },
  proofTakeBack: { keys: 'delete', what: 'Take all back', where: 'Proof' },
} as const

export type ShortcutName = keyof typeof shortcuts

const typingInto = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))

/** A dialog that is there, and not just going. */
const openDialog = '.ant-modal-wrap:not([style*="none"]) .ant-modal:not(.ant-zoom-leave)'

/** `Ctrl/⌘ Z`, as people read it. */
export const shortcutLabel = (name: ShortcutName): string =>
  shortcuts[name].keys
    .split('+')
    .map(
      (part) =>
        ({
          mod: 'Ctrl/⌘',
          shift: 'Shift',
          space: 'Space',
          delete: 'Delete',
          escape: 'Esc',
          enter: 'Enter',
          arrowleft: '←',
          arrowright: '→',
          arrowup: '↑',
          arrowdown: '↓',
        })[part] ?? part.toUpperCase(),
    )
    .join(' ')

function matches(event: KeyboardEvent, keys: string): boolean {
  const parts = keys.split('+')
  const key = parts.at(-1)
  const wantsMod = parts.includes('mod')
  const wantsShift = parts.includes('shift')
  if (wantsMod !== (event.ctrlKey || event.metaKey) || event.altKey) return false
  // Signs like ? need the shift key on some keyboards; letters do not.
  if ((wantsMod || /^[a-z]$/.test(key ?? '')) && wantsShift !== event.shiftKey) return false
  return key === 'space' ? event.code === 'Space' : event.key.toLowerCase() === key
}

/** A letter, a digit or a sign struck by itself. Space, which is held, and keys that write nothing are left. */
export const isSingle = ({ key, ctrlKey, metaKey }: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey'>): boolean =>
  !ctrlKey && !metaKey && [...key].length === 1 && key !== ' '

/**
 * Binds shortcuts to actions while the component is shown. Actions for keys that are let go again come in `released`; those that a key
 * held down repeats, in `repeated`.
 */
export function useShortcuts(
  actions: Partial<Record<ShortcutName, () => void>>,
  released: Partial<Record<ShortcutName, () => void>> = {},
  repeated: Partial<Record<ShortcutName, () => void>> = {},
): void {
  useEffect(() => {
    const find = (event: KeyboardEvent, table: Partial<Record<ShortcutName, () => void>>): (() => void) | undefined => {
      const name = keysOf(shortcuts).find((candidate) => table[candidate] && matches(event, shortcuts[candidate].keys))
      return name && table[name]
    }
    const down = (event: KeyboardEvent): void => {
      if (typingInto(event.target) || document.querySelector(openDialog)) return
      // Space and Enter belong to a focused button or bead.
      if (event.code === 'Space' && event.target instanceof HTMLElement && event.target.closest('button, [role="slider"], [role="button"]'))
        return
      if (!useSingleKeys.getState().areOn && isSingle(event)) return
      const action = find(event, actions)
      if (!action) return
      event.preventDefault()
      if (event.repeat) find(event, repeated)?.()
      else action()
    }
    const up = (event: KeyboardEvent): void => find(event, released)?.()
    window.addEventListener('keydown', down)
    window.addEventListener('keyup', up)
    return () => {
      window.removeEventListener('keydown', down)
      window.removeEventListener('keyup', up)
    }
  })
}

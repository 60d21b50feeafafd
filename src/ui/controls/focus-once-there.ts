/** What can be focused: elements, and what Ant Design gives for its fields. */
type Field = HTMLElement | { readonly nativeElement: HTMLElement | null; focus(options?: FocusOptions): void }

const focused = new WeakSet<HTMLElement>()

/**
 * A ref that focuses what comes up in a popup or a dialog. In place of `autoFocus`: where the system asks for little motion these are
 * filled before they are part of the page, and what is no part of it yet can't be focused. Once for each element: fields give their refs
 * anew whenever they are drawn, and what somebody went to meanwhile keeps the keys.
 */
export function focusOnceThere(field: Field | null): void {
  const element = field && 'nativeElement' in field ? field.nativeElement : field
  if (!field || !element || focused.has(element)) return
  focused.add(element)
  requestAnimationFrame(() => field.focus({ preventScroll: true }))
}

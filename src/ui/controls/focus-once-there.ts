/** What can be focused: elements, and Ant Design's fields. */
interface Field {
  focus(options?: FocusOptions): void
}

/**
 * A ref that focuses what comes up in a popup or a dialog. In place of `autoFocus`: where the system asks for little motion these are
 * filled before they are part of the page, and what is no part of it yet can't be focused.
 */
export function focusOnceThere(field: Field | null): void {
  if (field) requestAnimationFrame(() => field.focus({ preventScroll: true }))
}
